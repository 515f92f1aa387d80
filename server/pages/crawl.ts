import { gunzipSync } from 'node:zlib';
import { setTimeout as pause } from 'node:timers/promises';
import { Parser } from 'htmlparser2';
import robotsParser from 'robots-parser';
import type { CrawlStep } from '#core/link-parts';
import { ask, bytesOf, wordsOf } from './ask.ts';
import type { Bounds } from './guard.ts';

/** What is to be crawled. */
export interface Crawl {
  /** An address on the site. */
  readonly site: string;
  /** Paths on it, lower case and without the first slash, at which links of ours answer: those are not pressed. */
  readonly links: readonly string[];
  readonly bounds: Bounds;
}

export interface CrawlOptions {
  readonly requestMs: number;
  readonly signal?: AbortSignal;
  /** The addresses that a page leads to; undefined for one that could not be worked through. */
  readonly addresses: (html: string, url: string) => Promise<readonly string[] | undefined>;
  /** Between two requests, in milliseconds; half a second when left out. */
  readonly gapMs?: number;
}

/** What it calls itself; a site's `robots.txt` may speak to it by this name (RFC 9309, §2.2.1). */
export const crawlerName = 'Fernhop';
const userAgent = `Mozilla/5.0 (compatible; ${crawlerName} crawl)`;

const [mostPages, mostSeen, mostBytes, mostSitemaps, mostHops] = [500, 5000, 3_000_000, 20, 5];
/** A `robots.txt` is read up to here (RFC 9309, §2.5). */
const mostRobots = 512_000;
/** At most so long between two requests, in milliseconds, where the site asks for more. */
const longestGap = 10_000;

/** One site: `www.` before it is the same. */
const siteOf = (url: URL): string => url.host.replace(/^www\./, '');
/** Endings of what is no page. */
const noPage =
  /\.(?:jpe?g|png|gif|webp|avif|svg|pdf|zip|gz|mp[34]|webm|css|js|json|xml|rss|atom|txt|ico|woff2?)$/i;

/** The addresses in a sitemap, of XML or plain lines, and those of further sitemaps (sitemaps.org protocol 0.9). */
export const sitemapOf = (text: string): { readonly pages: string[]; readonly sitemaps: string[] } => {
  const found = { pages: [] as string[], sitemaps: [] as string[] };
  if (!text.trimStart().startsWith('<')) {
    found.pages.push(...text.split(/\s+/).filter((line) => /^https?:/i.test(line)));
    return found;
  }
  const open: string[] = [];
  let words = '';
  const parser = new Parser(
    {
      onopentag: (name) => {
        open.push(name.replace(/^.*:/, '').toLowerCase());
        words = '';
      },
      ontext: (piece) => (words += piece),
      onclosetag: () => {
        const [outer, name] = open.slice(-2);
        open.pop();
        if (name !== 'loc') return;
        if (outer === 'url') found.pages.push(words.trim());
        else if (outer === 'sitemap') found.sitemaps.push(words.trim());
      },
    },
    { xmlMode: true, decodeEntities: true },
  );
  parser.end(text);
  return found;
};

interface Fetched {
  readonly status: number;
  readonly type: string;
  readonly bytes: Buffer;
  /** Where it came from in the end. */
  readonly url: URL;
}

/** Asks an address of the site and follows where it sends on, as long as that is the same site. */
const fetchPage = async (
  url: URL,
  { bounds }: Crawl,
  { requestMs, signal }: CrawlOptions,
  most = mostBytes,
): Promise<Fetched> => {
  let here = url;
  for (let hops = 0; hops <= mostHops; hops++) {
    const answer = await ask(here, bounds, requestMs, {
      headers: { 'User-Agent': userAgent, Accept: 'text/html,application/xhtml+xml,*/*;q=0.5' },
      ...(signal && { signal }),
    });
    const { statusCode: status = 0, headers } = answer; // an answer has a status
    const to = headers.location;
    if (status >= 300 && status < 400 && to !== undefined) {
      answer.destroy();
      if (!URL.canParse(to, here)) throw new Error('It sends on to what is no address.');
      here = new URL(to, here);
      if (siteOf(here) !== siteOf(url)) throw new Error(`It sends on to ${here.host}.`);
      continue;
    }
    const { bytes, whole } = await bytesOf(answer, most);
    if (!whole)
      throw new Error(
        bytes.length >= most ? `It is larger than ${most / 1_000_000} MB.` : 'It broke off before its end.',
      );
    return { status, type: headers['content-type'] ?? '', bytes, url: here };
  }
  throw new Error('It sends on too often.');
};

/** The text of a page, by what its answer or itself says it is written in (HTML standard, §13.2.3.2); else as UTF-8. */
export const textOf = ({ bytes, type }: Pick<Fetched, 'bytes' | 'type'>): string => {
  const beginning = bytes.toString('latin1', 0, 1024);
  const label =
    (/^\xfe\xff/.test(beginning) ? 'utf-16be' : /^\xff\xfe/.test(beginning) ? 'utf-16le' : undefined) ??
    /charset\s*=\s*["']?([\w.:-]+)/i.exec(type)?.[1] ??
    /<meta[^>]+charset\s*=\s*["']?([\w.:-]+)/i.exec(beginning)?.[1];
  try {
    return new TextDecoder(label).decode(bytes);
  } catch {
    return new TextDecoder().decode(bytes);
  }
};

/** By what two addresses of a site are one page to whoever fetches it. */
const pageKey = (url: URL): string =>
  `${siteOf(url)}${url.pathname.replace(/\/(?:index\.html?)?$/, '/')}${url.search}`;

/**
 * Reads a site page by page: what its sitemap names first, then what its pages lead to; one request at a time, nothing that its
 * `robots.txt` keeps (RFC 9309), no page of another site, no more than 500, and no link of ours. It always ends with why it ended.
 */
export async function* crawl(job: Crawl, options: CrawlOptions): AsyncGenerator<CrawlStep> {
  const { signal, addresses, gapMs = 500 } = options;
  const start = new URL(job.site);
  const ended = (pages: number, because: string): CrawlStep => ({ kind: 'crawled', pages, because });
  const robotsUrl = new URL('/robots.txt', start);
  let text = '';
  try {
    const found = await fetchPage(robotsUrl, job, options, mostRobots);
    // Where it cannot be had, a crawler keeps away (RFC 9309, §2.3.1.4); where there is none, all may be read.
    if (found.status >= 500) {
      yield ended(0, `${robotsUrl.href} was answered ${found.status}, so nothing is read.`);
      return;
    }
    if (found.status === 200) text = textOf(found);
  } catch (error) {
    yield ended(0, `${start.host} cannot be read: ${wordsOf(error)}`);
    return;
  }
  const robots = robotsParser(robotsUrl.href, text);
  const mayRead = (url: URL) => !robots.isDisallowed(url.href.replace(url.host, start.host), crawlerName);
  const gap = Math.min(longestGap, Math.max(gapMs, (robots.getCrawlDelay(crawlerName) ?? 0) * 1000));
  const rest = () => pause(gap, undefined, signal ? { signal } : {});

  const links = new Set(job.links);
  const seen = new Set<string>();
  const waiting: URL[] = [];
  const add = (address: string, base: URL): void => {
    if (!URL.canParse(address, base)) return;
    const url = new URL(address, base);
    url.hash = '';
    const [path = ''] = url.pathname.slice(1).toLowerCase().split(/~|%7e/);
    if (!/^https?:$/.test(url.protocol) || siteOf(url) !== siteOf(start)) return;
    if (noPage.test(url.pathname) || links.has(path)) return;
    const key = pageKey(url);
    if (seen.has(key) || seen.size >= mostSeen) return;
    seen.add(key);
    waiting.push(url);
  };

  add(start.href, start);
  const sitemaps = [...new Set([...robots.getSitemaps(), new URL('/sitemap.xml', start).href])];
  for (let i = 0; i < sitemaps.length && i < mostSitemaps && !signal?.aborted; i++) {
    const address = sitemaps[i] ?? '';
    if (!URL.canParse(address, start)) continue;
    const url = new URL(address, start);
    if (siteOf(url) !== siteOf(start) || !mayRead(url)) continue;
    try {
      await rest();
      const found = await fetchPage(url, job, options);
      if (found.status !== 200) continue;
      const isPacked = found.bytes[0] === 0x1f && found.bytes[1] === 0x8b;
      const body = isPacked ? gunzipSync(found.bytes, { maxOutputLength: 10 * mostBytes }) : found.bytes;
      const { pages, sitemaps: more } = sitemapOf(textOf({ bytes: body, type: '' }));
      for (const page of pages) add(page, start);
      for (const each of more) if (!sitemaps.includes(each)) sitemaps.push(each);
    } catch {
      // A site without a sitemap that can be read is read by its links.
    }
  }

  let pages = 0;
  const arrived = new Set<string>();
  for (let url = waiting.shift(); url; url = waiting.shift()) {
    if (signal?.aborted) break;
    if (pages >= mostPages) {
      yield ended(pages, `More than ${mostPages} pages of a site are not read at once.`);
      return;
    }
    if (!mayRead(url)) {
      yield { kind: 'left', url: url.href, because: 'The site’s robots.txt keeps it.' };
      continue;
    }
    try {
      await rest();
      const found = await fetchPage(url, job, options);
      // Two addresses may send on to one page.
      if (arrived.has(pageKey(found.url))) continue;
      arrived.add(pageKey(found.url));
      if (found.status !== 200) {
        yield {
          kind: 'left',
          url: url.href,
          status: found.status,
          because: `It was answered ${found.status}.`,
        };
        continue;
      }
      if (!/html/i.test(found.type)) continue;
      const html = textOf(found);
      const leadsTo = await addresses(html, found.url.href);
      if (!leadsTo) {
        yield { kind: 'left', url: url.href, because: 'It could not be worked through.' };
        continue;
      }
      pages += 1;
      yield { kind: 'page', url: found.url.href, html };
      for (const address of leadsTo) add(address, found.url);
    } catch (error) {
      if (signal?.aborted) break;
      yield { kind: 'left', url: url.href, because: wordsOf(error) };
    }
  }
  yield ended(pages, signal?.aborted ? 'You stopped it.' : '');
}
