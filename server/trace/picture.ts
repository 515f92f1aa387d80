import { ask, waitMs, wordsOf } from './ask.ts';
import type { Bounds } from './guard.ts';
import { inTurn } from './turns.ts';

const mostBytes = 3 * 1024 * 1024;
const mostHops = 5;
/** Kinds that are nothing but a picture: a drawing in SVG could carry scripts. */
const kinds = /^image\/(?:png|jpeg|gif|webp|avif)\b/i;

/**
 * Fetches a picture for the person, so that the host it lies on sees the server and not who looks at it, nor when. Gives
 * a sentence where there is none to be had.
 */
export const askPicture = async (
  address: string,
  bounds: Bounds,
): Promise<{ readonly type: string; readonly bytes: Buffer } | string> => {
  let next = address;
  try {
    for (let hop = 0; hop < mostHops; hop++) {
      if (!URL.canParse(next)) return `${next.slice(0, 200)} is no address.`;
      const url = new URL(next);
      const answer = await inTurn(url.hostname, () => ask(url, bounds, '', AbortSignal.timeout(waitMs)));
      const { location, 'content-type': type = '' } = answer.headers;
      const { statusCode: status = 0 } = answer;
      if (status >= 300 && status < 400 && location !== undefined) {
        answer.destroy();
        next = new URL(location, url).href;
        continue;
      }
      if (status !== 200 || !kinds.test(type)) {
        answer.destroy();
        return status === 200 ? `There is no picture at ${next}.` : `${next} answered ${status}.`;
      }
      const chunks: Buffer[] = [];
      let size = 0;
      for await (const chunk of answer) {
        chunks.push(chunk as Buffer); // no encoding is set on the answer
        size += (chunk as Buffer).length;
        if (size > mostBytes) {
          answer.destroy();
          return 'The picture has more than 3 MB.';
        }
      }
      return { type, bytes: Buffer.concat(chunks) };
    }
    return `The picture was not reached in ${mostHops} hops.`;
  } catch (error) {
    return wordsOf(error);
  }
};
