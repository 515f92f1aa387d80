import type { IncomingMessage } from 'node:http';
import { request as askHttp } from 'node:http';
import { request as askHttps } from 'node:https';
import type { Bounds } from './guard.ts';
import { addressFor } from './guard.ts';

/** One stop of a chain. */
export interface TracedHop {
  readonly url: string;
  /** HTTP status; 0 when nothing answered. */
  readonly status: number;
  /** Milliseconds until the head of the answer. */
  readonly ms: number;
  readonly location: string | null;
  /** The headers that matter to a hop, as they came. */
  readonly headers: Readonly<Record<string, string>>;
  /** Names of the cookies it set. */
  readonly cookies: readonly string[];
}

export interface Trace {
  readonly hops: readonly TracedHop[];
  readonly end: 'arrived' | 'loop' | 'too many hops' | 'stopped';
  /** Why it ended where it did, as a sentence. */
  readonly because: string;
}

const mostHops = 20;
const waitMs = 10_000;
const telling = [
  'cache-control',
  'referrer-policy',
  'x-robots-tag',
  'x-frame-options',
  'content-security-policy',
  'content-type',
] as const;

const ask = async (url: URL, bounds: Bounds): Promise<IncomingMessage> => {
  const found = await addressFor(url, bounds);
  const send = url.protocol === 'https:' ? askHttps : askHttp;
  return new Promise((resolve, reject) => {
    const request = send(
      url,
      {
        // The address that was checked is the one connected to, whatever the name answers now.
        lookup: (_host, options, callback) => {
          if (options.all) callback(null, [found]);
          else callback(null, found.address, found.family);
        },
        agent: false,
        timeout: waitMs,
        headers: { 'User-Agent': 'Mozilla/5.0 (compatible; Fernhop trace)', Accept: 'text/html,*/*;q=0.8' },
      },
      resolve,
    );
    request.on('timeout', () => request.destroy(new Error(`Nothing answered within ${waitMs / 1000} s.`)));
    request.on('error', reject);
    request.end();
  });
};

const first = (value: string | string[] | undefined): string | undefined =>
  Array.isArray(value) ? value.join(', ') : value;

/** Follows a chain of redirects, hop by hop, within bounds that are checked anew at each. */
export const trace = async (start: string, bounds: Bounds): Promise<Trace> => {
  const hops: TracedHop[] = [];
  const seen = new Set<string>();
  let next = start;
  for (;;) {
    if (!URL.canParse(next)) return { hops, end: 'stopped', because: `${next.slice(0, 200)} is no address.` };
    const url = new URL(next);
    if (seen.has(url.href)) return { hops, end: 'loop', because: 'The chain comes back to where it was.' };
    if (hops.length === mostHops)
      return { hops, end: 'too many hops', because: `The chain has more than ${mostHops} hops.` };
    seen.add(url.href);
    const began = performance.now();
    try {
      const answer = await ask(url, bounds);
      answer.destroy();
      const { statusCode: status = 0, headers } = answer;
      const location = headers.location ?? null;
      hops.push({
        url: url.href,
        status,
        ms: Math.round(performance.now() - began),
        location,
        headers: Object.fromEntries(
          telling.flatMap((name) => {
            const value = first(headers[name]);
            return value === undefined ? [] : [[name, value.slice(0, 500)]];
          }),
        ),
        cookies: (headers['set-cookie'] ?? []).map((cookie) => cookie.split('=', 1)[0] ?? ''),
      });
      if (status < 300 || status >= 400 || location === null)
        return { hops, end: 'arrived', because: `The last stop answered ${status}.` };
      if (!URL.canParse(location, url))
        return { hops, end: 'stopped', because: `${location.slice(0, 200)} is no address.` };
      next = new URL(location, url).href;
    } catch (error) {
      hops.push({
        url: url.href,
        status: 0,
        ms: Math.round(performance.now() - began),
        location: null,
        headers: {},
        cookies: [],
      });
      return { hops, end: 'stopped', because: error instanceof Error ? error.message : String(error) };
    }
  }
};
