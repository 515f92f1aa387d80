import type { IncomingMessage } from 'node:http';
import { request as askHttp } from 'node:http';
import { request as askHttps } from 'node:https';
import { stopsAfter } from './deadline.ts';
import type { Bounds } from './guard.ts';
import { addressFor } from './guard.ts';

/** How long pages of others are waited for, in milliseconds. */
export interface Deadlines {
  /** One request, from looking its name up to the last byte of its body. */
  readonly requestMs: number;
  /** A whole chain of them. */
  readonly traceMs: number;
}

export const usualDeadlines: Deadlines = { requestMs: 15_000, traceMs: 60_000 };

/** Most answers of the kind 1xx that are borne before the real one. */
const mostInformation = 10;

const tlsWords: Readonly<Record<string, string>> = {
  CERT_HAS_EXPIRED: 'Its certificate has expired.',
  CERT_NOT_YET_VALID: 'Its certificate is not valid yet.',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'Its certificate was signed by itself.',
  SELF_SIGNED_CERT_IN_CHAIN: 'Its certificate chain ends in one nobody knows.',
  ERR_TLS_CERT_ALTNAME_INVALID: 'Its certificate is for another name.',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'Its certificate chain is not whole.',
  ECONNREFUSED: 'Nothing listens there.',
  ECONNRESET: 'The connection was broken off.',
};

/** What went wrong with a request, as a sentence. */
export const wordsOf = (error: unknown): string => {
  if (!(error instanceof Error)) return String(error);
  if (error.name === 'AbortError' && error.cause instanceof Error) return wordsOf(error.cause);
  const code = 'code' in error ? String(error.code) : '';
  if (code.startsWith('HPE_')) return 'What came back is no answer of HTTP.';
  return tlsWords[code] ?? error.message;
};

/** What is sent with a request, besides its address. */
export interface Sent {
  readonly method?: 'GET' | 'POST';
  readonly headers?: Readonly<Record<string, string>>;
  readonly body?: string;
  readonly cookies?: string;
  /** Ends it at once, with whatever it is doing. */
  readonly signal?: AbortSignal;
}

const aborted = (signal: AbortSignal): Promise<never> =>
  new Promise((_resolve, reject) => {
    const end = () => reject(signal.reason instanceof Error ? signal.reason : new Error('It was stopped.'));
    if (signal.aborted) end();
    else signal.addEventListener('abort', end, { once: true });
  });

/**
 * Asks an address, within bounds. One deadline covers all of it: the name, the connection, the head and the body of the
 * answer, whatever the other side does meanwhile.
 *
 * @throws Error with a plain sentence when it may not be asked, or nothing answered
 */
export const ask = async (
  url: URL,
  bounds: Bounds,
  requestMs: number,
  { method = 'GET', headers = {}, body, cookies = '', signal }: Sent = {},
): Promise<IncomingMessage> => {
  const stop = stopsAfter(requestMs, 'It took too long to answer.', signal);
  const stopped = aborted(stop);
  // It may stop long after everything was answered, when nobody waits for it any more.
  stopped.catch(() => undefined);
  const found = await Promise.race([addressFor(url, bounds), stopped]);
  const send = url.protocol === 'https:' ? askHttps : askHttp;
  const answered = new Promise<IncomingMessage>((resolve, reject) => {
    let information = 0;
    const request = send(
      url,
      {
        // The address that was checked is the one connected to, whatever the name answers now.
        lookup: (_host, options, callback) => {
          if (options.all) callback(null, [found]);
          else callback(null, found.address, found.family);
        },
        agent: false,
        method,
        signal: stop,
        headers: {
          'User-Agent': 'Mozilla/5.0 (compatible; Fernhop trace)',
          Accept: 'text/html,*/*;q=0.8',
          'Accept-Encoding': 'identity',
          ...(cookies !== '' && { Cookie: cookies }),
          ...headers,
        },
      },
      (answer) => {
        answer.on('error', () => undefined);
        resolve(answer);
      },
    );
    const end = (words: string) => request.destroy(new Error(words));
    request.on('information', () => {
      if (++information > mostInformation) end('It goes on announcing an answer and gives none.');
    });
    request.on('upgrade', (_answer, socket) => {
      socket.destroy();
      reject(new Error('It wants to speak another protocol than HTTP.'));
    });
    request.on('error', reject);
    // Some ends come without an error; a promise that is settled already is not changed by this.
    request.on('close', () => reject(new Error('The connection was closed without an answer.')));
    request.end(body);
  });
  return Promise.race([answered, stopped]);
};

/**
 * The bytes of an answer as far as they came, and no more than so many; the rest is let go. `whole` tells whether they are
 * all of what the answer itself announced.
 */
export const bytesOf = async (
  answer: IncomingMessage,
  most: number,
): Promise<{ readonly bytes: Buffer; readonly whole: boolean }> => {
  const chunks: Buffer[] = [];
  let size = 0;
  try {
    for await (const chunk of answer) {
      const bytes = chunk as Buffer; // no encoding is set on the answer
      chunks.push(bytes);
      size += bytes.length;
      if (size > most) break;
    }
  } catch {
    return { bytes: Buffer.concat(chunks).subarray(0, most), whole: false };
  } finally {
    answer.destroy();
  }
  return { bytes: Buffer.concat(chunks).subarray(0, most), whole: size <= most && answer.complete };
};
