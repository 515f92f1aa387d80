import type { Deadlines } from './ask.ts';
import { ask, bytesOf, wordsOf } from './ask.ts';
import { stopsAfter } from './deadline.ts';
import type { Bounds } from './guard.ts';
import { inTurn } from './turns.ts';

const mostBytes = 3 * 1024 * 1024;
const mostHops = 5;
/** Kinds that are nothing but a picture: a drawing in SVG could carry scripts. */
const kinds: ReadonlySet<string> = new Set([
  'image/png',
  'image/jpeg',
  'image/gif',
  'image/webp',
  'image/avif',
]);

/** A picture as it came. */
export interface Picture {
  /** One of a short list of media types. */
  readonly type: string;
  readonly bytes: Uint8Array;
}

/**
 * Fetches a picture for the person, so that the host it lies on sees the server and not who looks at it, nor when. Gives
 * a sentence where there is none to be had, or only a part of it.
 */
export const askPicture = async (
  address: string,
  bounds: Bounds,
  { requestMs, traceMs }: Deadlines,
): Promise<Picture | string> => {
  const signal = stopsAfter(traceMs, 'The picture took too long to come.');
  let next = address;
  try {
    for (let hop = 0; hop < mostHops; hop++) {
      if (!URL.canParse(next)) return `${next.slice(0, 200)} is no address.`;
      const url = new URL(next);
      const found = await inTurn(url.hostname, signal, async () => {
        const answer = await ask(url, bounds, requestMs, { signal });
        const { location } = answer.headers;
        const { statusCode: status = 0 } = answer;
        if (status >= 300 && status < 400 && location !== undefined) {
          answer.destroy();
          return URL.canParse(location, url)
            ? new URL(location, url)
            : `${location.slice(0, 200)} is no address.`;
        }
        const type = (answer.headers['content-type'] ?? '').split(';', 1)[0]?.trim().toLowerCase() ?? '';
        if (status !== 200 || !kinds.has(type)) {
          answer.destroy();
          return status === 200 ? `There is no picture at ${url.href}.` : `${url.href} answered ${status}.`;
        }
        const { bytes, whole } = await bytesOf(answer, mostBytes);
        if (bytes.length === mostBytes) return 'The picture has more than 3 MB.';
        return whole && bytes.length > 0
          ? { type, bytes }
          : 'The picture broke off before its end. Try again later.';
      });
      if (!(found instanceof URL)) return found;
      next = found.href;
    }
    return `The picture was not reached in ${mostHops} hops.`;
  } catch (error) {
    return wordsOf(error);
  }
};
