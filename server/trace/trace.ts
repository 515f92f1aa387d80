import type { IncomingMessage } from 'node:http';
import type { TracedHop, TraceEnd } from '#core/anatomy';
import { readPage } from '#core/anatomy';
import { ask, waitMs, wordsOf } from './ask.ts';
import type { Bounds } from './guard.ts';
import { Jar } from './jar.ts';
import { inTurn } from './turns.ts';

export interface TraceOptions {
  /** Ends the trace at once. */
  readonly signal?: AbortSignal;
  /** Go on to the page to order from, where the last page links one. */
  readonly toOrder?: boolean;
}

const mostHops = 20;
const mostBody = 512 * 1024;
const telling = [
  'cache-control',
  'referrer-policy',
  'x-robots-tag',
  'x-frame-options',
  'content-security-policy',
  'content-type',
  'strict-transport-security',
] as const;

/** The page of an answer, or nothing when it is none; no more than half a megabyte is read. */
const bodyOf = async (answer: IncomingMessage): Promise<string> => {
  if (!/html/i.test(answer.headers['content-type'] ?? '')) {
    answer.destroy();
    return '';
  }
  const chunks: Buffer[] = [];
  let size = 0;
  const late = setTimeout(() => answer.destroy(), waitMs);
  try {
    for await (const chunk of answer) {
      chunks.push(chunk as Buffer); // no encoding is set on the answer
      size += (chunk as Buffer).length;
      if (size > mostBody) break;
    }
  } catch {
    // A page that broke off is read as far as it came.
  } finally {
    clearTimeout(late);
    answer.destroy();
  }
  return Buffer.concat(chunks).toString('utf8');
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
  { signal, toOrder = false }: TraceOptions = {},
): AsyncGenerator<TracedHop | TraceEnd> {
  const seen = new Set<string>();
  const jar = new Jar();
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
    if (!URL.canParse(next)) return yield ended('stopped', `${next.slice(0, 200)} is no address.`);
    const url = new URL(next);
    const visited = `${url.href} ${jar.for(url)}`;
    if (seen.has(visited)) return yield ended('loop', 'The chain comes back to where it was.');
    if (count === mostHops) return yield ended('too many hops', `The chain has more than ${mostHops} hops.`);
    seen.add(visited);
    count += 1;
    const began = performance.now();
    try {
      const { answer, body } = await inTurn(url.hostname, async () => {
        const got = await ask(url, bounds, jar.for(url), signal);
        return { answer: got, body: await bodyOf(got) };
      });
      const { statusCode: status = 0, headers } = answer;
      const location = status >= 300 && status < 400 ? (headers.location ?? null) : null;
      jar.take(url, headers['set-cookie'] ?? []);
      const facts = body === '' ? undefined : readPage(body, url.href);
      const by = location !== null ? 'status' : (facts?.next?.by ?? null);
      yield {
        kind: 'hop',
        url: url.href,
        status,
        ms: Math.round(performance.now() - began),
        location: location ?? facts?.next?.url ?? null,
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
      const to = location ?? facts?.next?.url;
      if (to === undefined) {
        const because =
          facts?.dead === undefined || status !== 200
            ? `The last stop answered ${status}.`
            : `The last stop answered ${status}, and says “${facts.dead}”.`;
        const order = toOrder && facts?.order ? await orderPage(facts.order, url, bounds, jar, signal) : null;
        return yield ended('arrived', because, {
          page: facts ? { title: facts.title, description: facts.description, picture: facts.picture } : null,
          order,
        });
      }
      if (!URL.canParse(to, url)) return yield ended('stopped', `${to.slice(0, 200)} is no address.`);
      next = new URL(to, url).href;
    } catch (error) {
      const because = signal?.aborted ? 'You stopped it.' : wordsOf(error);
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
  bounds: Bounds,
  jar: Jar,
  signal?: AbortSignal,
): Promise<TraceEnd['order']> => {
  const url = new URL(order);
  try {
    const { answer, body } = await inTurn(url.hostname, async () => {
      const got = await ask(url, bounds, jar.for(url), signal);
      return { answer: got, body: await bodyOf(got) };
    });
    const carried = [...numbersIn(from), ...jar.entries(url).filter(([, value]) => value.length >= 5)];
    const kept = new Set(
      carried.filter(([, value]) => body.includes(value) || url.href.includes(value)).map(([name]) => name),
    );
    return { url: url.href, status: answer.statusCode ?? 0, kept: [...kept] };
  } catch {
    return { url: url.href, status: 0, kept: [] };
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
    ...(order && { kept: [...order.kept] }),
  };
};

/** Follows a chain to its end and gives all of it. */
export const trace = async (start: string, bounds: Bounds, options: TraceOptions = {}): Promise<Trace> => {
  const hops: TracedHop[] = [];
  for await (const step of traceSteps(start, bounds, options)) {
    if (step.kind === 'hop') hops.push(step);
    else {
      const { kind: _, ...end } = step;
      return { hops, ...end };
    }
  }
  throw new Error('a trace always ends');
};
