import { spawn } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join, resolve } from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, afterEach, describe, expect, it, vi } from 'vitest';
import { addressesIn } from '#core/articles';
import type { CrawlStep } from '#core/link-parts';
import { freePort, freshFolder } from '../testing/process.ts';
import type { CrawlOptions } from './crawl.ts';
import { crawl, sitemapOf, textOf } from './crawl.ts';
import { Pages } from './pages.ts';

type Answer =
  | string
  | {
      readonly status?: number;
      readonly type?: string;
      readonly body?: string | Buffer;
      readonly to?: string;
    };
let site: Readonly<Record<string, Answer>> = {};
let hook: ((request: IncomingMessage, response: ServerResponse) => boolean) | undefined;
const asked: { path: string; at: number; agent: string; open: number }[] = [];
let open = 0;

const server = createServer((request, response) => {
  const path = request.url ?? '';
  open += 1;
  response.on('close', () => (open -= 1));
  asked.push({ path, at: performance.now(), agent: request.headers['user-agent'] ?? '', open });
  if (hook?.(request, response)) return;
  const found = site[path];
  const answer = typeof found === 'string' ? { body: found } : (found ?? { status: 404, body: 'no' });
  const { status = answer.to === undefined ? 200 : 302, type = 'text/html', body = '', to } = answer;
  response.writeHead(status, { 'Content-Type': type, ...(to !== undefined && { Location: to }) }).end(body);
});
await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
const { port } = server.address() as AddressInfo; // it listens on TCP
const origin = `http://nightledge.localhost:${port}`;
const bounds = { localPorts: [port] };
afterAll(() => server.close());
afterEach(() => {
  asked.length = 0;
  hook = undefined;
});

const options: CrawlOptions = {
  requestMs: 2000,
  gapMs: 1,
  addresses: (html, url) => Promise.resolve(addressesIn(html, url)),
};
const all = async (more: Partial<CrawlOptions> = {}, links: readonly string[] = []): Promise<CrawlStep[]> => {
  const steps: CrawlStep[] = [];
  for await (const step of crawl({ site: `${origin}/`, links, bounds }, { ...options, ...more }))
    steps.push(step);
  return steps;
};
/** Steps in short: the path of a page that was read, `-` before one that was not, and how it ended. */
const short = (steps: readonly CrawlStep[]): string[] =>
  steps.map((step) =>
    step.kind === 'page'
      ? new URL(step.url).pathname + new URL(step.url).search
      : step.kind === 'left'
        ? `- ${new URL(step.url).pathname}: ${step.because}`
        : `${step.pages} ${step.because}`.trim(),
  );

describe('a site', () => {
  it('is read by its sitemap first, then by its links; nothing twice, no other site, no link of ours, no file', async () => {
    site = {
      '/robots.txt': `User-agent: *\nDisallow: /drafts/\nSitemap: ${origin}/map.xml`,
      '/map.xml': `<?xml version="1.0"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"><url><loc>${origin}/rings?a=1&amp;b=2</loc></url><url><loc>https://other.example/x</loc></url></urlset>`,
      '/': `<a href="/a#top">a</a> <a href="/index.html">home</a> <a href="a">again</a> <a href="/go/Kit~home">kit</a> <a href="/photo.JPG">p</a> <a href="https://other.example/">o</a> <a href="mailto:x@nightledge.example">m</a> <a href="/drafts/1">d</a> <a href="//www.nightledge.localhost:${port}/b">b</a>`,
      '/rings?a=1&b=2': '<a href="/c">c</a>',
      '/a': '<base href="/deep/"><a href="x">x</a>',
      '/b': '',
      '/c': '<!-- <a href="/commented">no</a> --><script>"<a href=/scripted>"</script><a href="/feed">f</a>',
      '/deep/x': 'x',
      '/feed': { type: 'application/rss+xml', body: '<rss/>' },
    };
    expect(short(await all({}, ['go/kit']))).toEqual([
      '/',
      '/rings?a=1&b=2',
      '/a',
      '- /drafts/1: The site’s robots.txt keeps it.',
      '/b',
      '/c',
      '/deep/x',
      '6',
    ]);
    expect(asked.map(({ path }) => path)).toEqual([
      '/robots.txt',
      '/map.xml',
      '/sitemap.xml',
      '/',
      '/rings?a=1&b=2',
      '/a',
      '/b',
      '/c',
      '/deep/x',
      '/feed',
    ]);
    expect(asked.every(({ agent }) => agent.includes('Fernhop'))).toBe(true);
  });

  it('is asked one thing after the other, with a pause, and a longer one where it asks for that', async () => {
    site = {
      '/robots.txt': 'User-agent: fernhop\nCrawl-delay: 0.2',
      '/': '<a href="/a">a</a><a href="/b">b</a>',
      '/a': '',
      '/b': '',
    };
    await all();
    const gaps = asked.slice(1).map(({ at }, i) => at - (asked[i]?.at ?? 0));
    expect(Math.min(...gaps)).toBeGreaterThan(190);
    expect(Math.max(...asked.map((each) => each.open))).toBe(1);
  });

  // RFC 9309, §5.1 (simple example) and §5.2 (longest match), with our name for those of the examples.
  it.each([
    [
      'User-Agent: *\nDisallow: *.gif$\nDisallow: /example/\nAllow: /publications/\n\nUser-Agent: foobot\nDisallow:/\nAllow:/example/page.html\nAllow:/example/allowed.gif\n\nUser-Agent: quxbot',
      ['/publications/', '/other'],
      ['/example/page.html'],
    ],
    [
      'User-Agent: foobot\nAllow: /\n\nUser-Agent: Fernhop\nDisallow:/\nAllow:/example/page.html\nAllow:/example/allowed',
      ['/example/page.html', '/example/allowed'],
      ['/publications/', '/other'],
    ],
    [
      'User-Agent: FERNHOP\nAllow: /example/page/\nDisallow: /example/page/disallowed',
      ['/example/page/', '/example/page/x'],
      ['/example/page/disallowed'],
    ],
  ])('is read as its robots.txt says: %j', async (robots, read, kept) => {
    const start = read[0] ?? '';
    site = {
      '/robots.txt': robots,
      ...Object.fromEntries([...read, ...kept].map((path) => [path, ''])),
      [start]: [...read, ...kept].map((path) => `<a href="${path}">x</a>`).join(''),
    };
    const steps: CrawlStep[] = [];
    for await (const step of crawl({ site: origin + start, links: [], bounds }, options)) steps.push(step);
    expect(short(steps).slice(0, -1).toSorted()).toEqual(
      [...read, ...kept.map((path) => `- ${path}: The site’s robots.txt keeps it.`)].toSorted(),
    );
    expect(asked.some(({ path }) => kept.includes(path))).toBe(false);
  });

  it.each<[string, Answer, string[]]>([
    [
      'whose robots.txt fails',
      { status: 503 },
      [`0 ${origin}/robots.txt was answered 503, so nothing is read.`],
    ],
    ['without one', { status: 404 }, ['/', '1']],
    ['that refuses it', { status: 403 }, ['/', '1']],
    [
      'that sends it elsewhere',
      { to: 'https://other.example/robots.txt' },
      [`0 nightledge.localhost:${port} cannot be read: It sends on to other.example.`],
    ],
  ])('%s (RFC 9309, §2.3.1)', async (_what, robots, expected) => {
    site = { '/robots.txt': robots, '/': '' };
    expect(short(await all())).toEqual(expected);
  });

  it('tells of each page that cannot be read why, and goes on', async () => {
    const big = Buffer.alloc(3_100_000, 'a');
    site = {
      '/': ['/gone', '/loop', '/away', '/big', '/cut', '/slow', '/latin', '/hard', '/old', '/new', '/pdf']
        .map((p) => `<a href="${p}">x</a>`)
        .join(''),
      '/gone': { status: 410 },
      '/loop': { to: '/loop' },
      '/away': { to: 'https://other.example/' },
      '/big': { body: big },
      '/latin': { type: 'text/html; charset=iso-8859-1', body: Buffer.from('<p>f\xfcr', 'latin1') },
      '/hard': 'hard',
      '/old': { to: '/new' },
      '/new': 'new',
      '/pdf': { type: 'application/pdf', body: '%PDF' },
    };
    hook = ({ url }, response) => {
      if (url === '/cut') {
        response.writeHead(200, { 'Content-Type': 'text/html', 'Content-Length': '1000' }).write('<p>');
        setTimeout(() => response.destroy(), 20);
      } else if (url === '/slow') response.writeHead(200, { 'Content-Type': 'text/html' }).write('<p>');
      return url === '/cut' || url === '/slow';
    };
    const steps = await all({
      requestMs: 300,
      addresses: (html, url) => Promise.resolve(html === 'hard' ? undefined : addressesIn(html, url)),
    });
    expect(short(steps)).toEqual([
      '/',
      '- /gone: It was answered 410.',
      '- /loop: It sends on too often.',
      '- /away: It sends on to other.example.',
      '- /big: It is larger than 3 MB.',
      '- /cut: It broke off before its end.',
      '- /slow: It broke off before its end.',
      '/latin',
      '- /hard: It could not be worked through.',
      '/new',
      '3',
    ]);
    expect(steps.find((step) => step.kind === 'page' && step.url.endsWith('/latin'))).toMatchObject({
      html: '<p>für',
    });
  });

  it('that never ends is read up to 500 pages, and any can be stopped', async () => {
    hook = ({ url = '' }, response) => {
      if (url === '/robots.txt') return false;
      const day = Number(/\d+/.exec(url)?.[0] ?? 0);
      response.writeHead(200, { 'Content-Type': 'text/html' }).end(`<a href="/calendar/${day + 1}">next</a>`);
      return true;
    };
    site = {};
    const steps = await all();
    expect(steps.at(-1)).toEqual({
      kind: 'crawled',
      pages: 500,
      because: 'More than 500 pages of a site are not read at once.',
    });
    const stop = new AbortController();
    const some: CrawlStep[] = [];
    for await (const step of crawl(
      { site: origin, links: [], bounds },
      { ...options, signal: stop.signal },
    )) {
      some.push(step);
      if (some.length === 3) stop.abort();
    }
    expect(short(some)).toEqual(['/', '/calendar/1', '/calendar/2', '3 You stopped it.']);
  });

  it('waits until a page was taken, however fast it could go on', async () => {
    site = {
      '/': Array.from({ length: 9 }, (_, i) => `<a href="/${i}">x</a>`).join(''),
      ...Object.fromEntries(Array.from({ length: 9 }, (_, i) => [`/${i}`, ''])),
    };
    const pages = new Pages();
    const paths: string[] = [];
    for await (const step of pages.crawl({ site: origin, links: [], bounds }, AbortSignal.timeout(20_000))) {
      if (step.kind !== 'page') continue;
      paths.push(new URL(step.url).pathname);
      if (paths.length > 1) break;
      await new Promise((resolve) => setTimeout(resolve, 2000));
      // Without that, it would have come to four pages more by now.
      expect(asked.filter(({ path }) => !/\.(?:txt|xml)$/.test(path))).toHaveLength(1);
    }
    expect(paths).toEqual(['/', '/0']);
    await pages.close();
  });
});

describe('a sitemap', () => {
  it('is read in its forms: XML, an index of others, compressed, plain lines; what is broken gives what it can', async () => {
    // The forms of sitemaps.org, protocol 0.9, with hosts of our own.
    expect(
      sitemapOf(
        '\ufeff<?xml version="1.0" encoding="UTF-8"?>\n<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">\n<url>\n<loc>\n http://a.example/catalog?item=12&amp;desc=vacation_hawaii </loc><lastmod>2005-01-01</lastmod><image:image xmlns:image="x"><image:loc>http://a.example/i.jpg</image:loc></image:image></url><url><loc><![CDATA[http://a.example/b]]></loc></url></urlset>',
      ),
    ).toEqual({
      pages: ['http://a.example/catalog?item=12&desc=vacation_hawaii', 'http://a.example/b'],
      sitemaps: [],
    });
    expect(
      sitemapOf(
        '<sitemapindex><sitemap><loc>http://a.example/1.xml.gz</loc></sitemap><sitemap><loc>http://a.example/2.xml</loc>',
      ),
    ).toEqual({ pages: [], sitemaps: ['http://a.example/1.xml.gz', 'http://a.example/2.xml'] });
    expect(sitemapOf('http://a.example/1\r\nhttp://a.example/2\n').pages).toEqual([
      'http://a.example/1',
      'http://a.example/2',
    ]);
    site = {
      '/robots.txt': 'Sitemap: /index.xml',
      '/index.xml': `<sitemapindex><sitemap><loc>${origin}/one.xml.gz</loc></sitemap><sitemap><loc>${origin}/bomb.xml.gz</loc></sitemap><sitemap><loc>${origin}/lines.txt</loc></sitemap></sitemapindex>`,
      '/one.xml.gz': {
        type: 'application/gzip',
        body: gzipSync(`<urlset><url><loc>${origin}/one</loc></url></urlset>`),
      },
      '/bomb.xml.gz': { type: 'application/gzip', body: gzipSync(Buffer.alloc(60_000_000)) },
      '/lines.txt': { type: 'text/plain', body: `${origin}/two\n` },
      '/one': '',
      '/two': '',
      '/': '',
    };
    expect(short(await all())).toEqual(['/', '/one', '/two', '3']);
  });
});

it('a site that a web server makes of a folder is read whole: pages of another program, listed by nginx', async () => {
  // The report of a coverage tool, as a package brings it along: a page for each file of code, and folders in folders.
  const root = resolve('node_modules/pngjs/coverage');
  const pages = readdirSync(root, { recursive: true, encoding: 'utf8' }).filter((name) =>
    /\.html$/.test(name),
  );
  expect(pages.length).toBeGreaterThan(10);
  const home = freshFolder();
  const web = await freePort();
  const temporary = ['client_body', 'proxy', 'fastcgi', 'uwsgi', 'scgi'].map(
    (name, i) => `${name}_temp_path ${home}/t${i};`,
  );
  writeFileSync(
    join(home, 'nginx.conf'),
    `error_log stderr; pid ${home}/pid; daemon off; worker_processes 1; events {}\nhttp { access_log ${home}/log; ${temporary.join(' ')} types { text/html html; } default_type application/octet-stream; server { listen 127.0.0.1:${web}; root ${root}; autoindex on; index none; } }\n`,
  );
  const nginx = spawn('nginx', ['-c', join(home, 'nginx.conf')], { stdio: 'ignore' });
  try {
    const at = `http://reports.localhost:${web}`;
    await vi.waitFor(async () => expect((await fetch(`http://127.0.0.1:${web}/`)).status).toBe(200), 10_000);
    const read = new Set<string>();
    const left: string[] = [];
    for await (const step of crawl({ site: `${at}/`, links: [], bounds: { localPorts: [web] } }, options))
      if (step.kind === 'page') read.add(decodeURIComponent(new URL(step.url).pathname.slice(1)));
      else if (step.kind === 'left') left.push(step.url);
    // The page of a folder is that folder's, by either address.
    const isRead = (name: string) => read.has(name) || read.has(name.replace(/index\.html$/, ''));
    expect(pages.filter((name) => !isRead(name))).toEqual([]);
    expect(left).toEqual([]);
    // Nothing was asked twice, by what the web server itself wrote down.
    const lines = readFileSync(join(home, 'log'), 'utf8')
      .split('\n')
      .filter((line) => line.includes('Fernhop'));
    const paths = lines.map((line) => /"GET (\S+)/.exec(line)?.[1]);
    expect(new Set(paths).size).toBe(paths.length);
  } finally {
    nginx.kill();
  }
});

it('a page is read as it is written, by what its answer says, itself, or its first bytes', () => {
  const read = (type: string, ...bytes: (string | number)[]) =>
    textOf({
      type,
      bytes: Buffer.concat(
        bytes.map((b) => (typeof b === 'number' ? Buffer.of(b) : Buffer.from(b, 'latin1'))),
      ),
    });
  expect(read('text/html', '<meta charset=windows-1251>', 0xcf)).toContain('П');
  expect(read('text/html; charset=windows-1251', '<meta charset=utf-8>', 0xcf)).toContain('П');
  expect(read('text/html', 0xff, 0xfe, 'a', 0)).toBe('a');
  expect(read('text/html; charset=no-such', 'a', 0xc3, 0xbc)).toBe('aü');
});
