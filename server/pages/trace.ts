import type { IncomingMessage } from 'node:http';
import type { TracedHop, TraceEnd } from '#core/link-parts';
import type { PageFacts } from '#core/link-parts';
import { readPage, refreshAddress } from '#core/link-parts';
import type { Deadlines } from './ask.ts';
import { ask, bytesOf, usualDeadlines, wordsOf } from './ask.ts';
import { Cookies } from './cookies.ts';
import { stopsAfter } from './deadline.ts';
import type { Bounds } from './guard.ts';
import { inTurn } from './turns.ts';

/** Reads a page; undefined where that would take too long. */
export type ReadPage = (html: string, base: string) => Promise<PageFacts | undefined>;

export interface TraceOptions {
  /** Ends the trace at once. */
  readonly signal?: AbortSignal;
  /** Go on to the page to order from, where the last page links one. */
  readonly toOrder?: boolean;
  /** Ask as a robot that draws previews of links: it goes where a status sends it, and shows the first page it is given. */
  readonly asPreview?: boolean;
  readonly deadlines?: Deadlines;
  /** Reads pages away from whoever waits for the network. */
  readonly read?: ReadPage;
}

const mostHops = 20;
const mostBody = 512 * 1024;
/** How a robot that draws previews names itself; the words by which robots are known are in it. */
const previewRobot = 'Mozilla/5.0 (compatible; link preview bot)';
/** Statuses that send on to the address in `Location` (RFC 9110 §15.4). */
const redirects: ReadonlySet<number> = new Set([301, 302, 303, 307, 308]);
/** Longest address that is followed. */
const mostAddress = 8000;
const telling = [
  'cache-control',
  'referrer-policy',
  'x-robots-tag',
  'x-frame-options',
  'content-security-policy',
  'content-type',
  'strict-transport-security',
] as const;

/** The page of an answer as far as it came, or nothing when it is none; no more than half a megabyte is read. */
const bodyOf = async (answer: IncomingMessage): Promise<string> => {
  if (!/html/i.test(answer.headers['content-type'] ?? '')) {
    answer.destroy();
    return '';
  }
  const { bytes } = await bytesOf(answer, mostBody);
  return bytes.toString('utf8');
};

const first = (value: string | string[] | undefined): string | undefined =>
  Array.isArray(value) ? value.join(', ') : value;

/** Values long enough to be somebody's number, by name: those of an address's query. */
const numbersIn = (url: URL): [string, string][] =>
  [...url.searchParams].filter(([, value]) => value.length >= 5 && !/^https?:/i.test(value));

/**
 * Follows a chain hop by hop, within bounds that are checked anew at each: redirects, refreshes and simple scripts,
 * with the cookies that were set on the way. Yields every hop as it is known, and how it ended.
 */
export const traceSteps = async function* (
  start: string,
  bounds: Bounds,
  {
    signal,
    toOrder = false,
    asPreview = false,
    deadlines = usualDeadlines,
    read = (html, base) => Promise.resolve(readPage(html, base)),
  }: TraceOptions = {},
): AsyncGenerator<TracedHop | TraceEnd> {
  const seen = new Set<string>();
  const jar = new Cookies();
  const stop = stopsAfter(
    deadlines.traceMs,
    `The chain took longer than ${deadlines.traceMs / 1000} s in all.`,
    signal,
  );
  const askPage = (url: URL) =>
    inTurn(url.hostname, stop, async () => {
      const answer = await ask(url, bounds, deadlines.requestMs, {
        cookies: jar.for(url),
        signal: stop,
        ...(asPreview && { headers: { 'User-Agent': previewRobot } }),
      });
      return { answer, body: await bodyOf(answer) };
    });
  const whyStopped = (error: unknown): string => (signal?.aborted ? 'You stopped it.' : wordsOf(error));
  let count = 0;
  let next = start;
  const ended = (end: TraceEnd['end'], because: string, more: Partial<TraceEnd> = {}): TraceEnd => ({
    kind: 'end',
    end,
    because,
    page: null,
    order: null,
    ...more,
  });
  for (;;) {
    if (next.length > mostAddress || !URL.canParse(next))
      return yield ended('stopped', `${next.slice(0, 200)} is no address.`);
    const url = new URL(next);
    const visited = `${url.href} ${jar.for(url)}`;
    if (seen.has(visited)) return yield ended('loop', 'The chain comes back to where it was.');
    if (count === mostHops) return yield ended('too many hops', `The chain has more than ${mostHops} hops.`);
    seen.add(visited);
    count += 1;
    const began = performance.now();
    try {
      const { answer, body } = await askPage(url);
      const { statusCode: status = 0, headers } = answer;
      const location = status >= 300 && status < 400 ? (headers.location ?? null) : null;
      jar.take(url, headers['set-cookie'] ?? []);
      const facts = body === '' ? undefined : await read(body, url.href);
      const unread = body !== '' && facts === undefined;
      // A header refreshes as the element does, whatever the page says.
      const refresh = refreshAddress(first(headers['refresh']) ?? '');
      const by = location !== null ? 'status' : refresh !== undefined ? 'refresh' : (facts?.next?.by ?? null);
      yield {
        kind: 'hop',
        url: url.href,
        status,
        ms: Math.round(performance.now() - began),
        location: location ?? refresh ?? facts?.next?.url ?? null,
        by,
        headers: Object.fromEntries(
          telling.flatMap((name) => {
            const value = first(headers[name]);
            return value === undefined ? [] : [[name, value.slice(0, 500)]];
          }),
        ),
        cookies: (headers['set-cookie'] ?? []).map((cookie) => cookie.split('=', 1)[0] ?? ''),
        title: facts?.title ?? '',
        dead: status === 200 ? (facts?.dead ?? null) : null,
      };
      // A robot that draws previews waits for nothing and runs nothing (common practice).
      const to = location ?? (asPreview ? undefined : (refresh ?? facts?.next?.url));
      if (to === undefined) {
        if (unread)
          return yield ended(
            'stopped',
            'This page takes too long to read, so it is not known where it leads.',
          );
        if (redirects.has(status))
          return yield ended(
            'stopped',
            `The last stop answered ${status}, which sends visitors on, and named no address to go to (no Location): every visitor ends there.`,
          );
        const because =
          facts?.dead === undefined || status !== 200
            ? `The last stop answered ${status}.`
            : `The last stop answered ${status}, and says “${facts.dead}”.`;
        const order = toOrder && facts?.order ? await orderPage(facts.order, url, askPage, jar) : null;
        return yield ended('arrived', because, {
          page: facts ? { title: facts.title, description: facts.description, picture: facts.picture } : null,
          order,
        });
      }
      if (!URL.canParse(to, url)) return yield ended('stopped', `${to.slice(0, 200)} is no address.`);
      next = new URL(to, url).href;
    } catch (error) {
      const because = whyStopped(error);
      yield {
        kind: 'hop',
        url: url.href,
        status: 0,
        ms: Math.round(performance.now() - began),
        location: null,
        by: null,
        headers: {},
        cookies: [],
        title: '',
        dead: null,
      };
      return yield ended('stopped', because);
    }
  }
};

const orderPage = async (
  order: string,
  from: URL,
  askPage: (url: URL) => Promise<{ answer: IncomingMessage; body: string }>,
  jar: Cookies,
): Promise<TraceEnd['order']> => {
  const url = new URL(order);
  try {
    const { answer, body } = await askPage(url);
    const carried = [...numbersIn(from), ...jar.entries(url).filter(([, value]) => value.length >= 5)];
    const surviving = new Set(
      carried.filter(([, value]) => body.includes(value) || url.href.includes(value)).map(([name]) => name),
    );
    return { url: url.href, status: answer.statusCode ?? 0, surviving: [...surviving] };
  } catch {
    return { url: url.href, status: 0, surviving: [] };
  }
};

/** A whole chain at once. */
export interface Trace extends Omit<TraceEnd, 'kind'> {
  readonly hops: readonly TracedHop[];
}

/** What a trace came to, as the journal keeps it. */
export const outcomeOf = ({ hops, end, because, order }: Trace) => {
  const last = hops.at(-1);
  return {
    hosts: [...new Set(hops.flatMap((hop) => (URL.canParse(hop.url) ? [new URL(hop.url).hostname] : [])))],
    alive: end === 'arrived' && last?.status === 200 && last.dead === null,
    because,
    ...(order && { surviving: [...order.surviving] }),
  };
};

/** Waits for a chain to end and gives all of it. */
export const wholeOf = async (steps: AsyncIterable<TracedHop | TraceEnd>): Promise<Trace> => {
  const hops: TracedHop[] = [];
  for await (const step of steps) {
    if (step.kind === 'hop') hops.push(step);
    else {
      const { kind: _, ...end } = step;
      return { hops, ...end };
    }
  }
  throw new Error('a trace always ends');
};
