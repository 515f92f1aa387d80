import type { IncomingMessage } from 'node:http';
import { request as askHttp } from 'node:http';
import { request as askHttps } from 'node:https';
import type { Bounds } from './guard.ts';
import { addressFor } from './guard.ts';

/** How long an answer is waited for, in milliseconds. */
export const waitMs = 10_000;

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
  const code = 'code' in error ? String(error.code) : '';
  return tlsWords[code] ?? error.message;
};

/** What else is sent with a request. */
export interface Sent {
  readonly method?: 'GET' | 'POST';
  readonly headers?: Readonly<Record<string, string>>;
  readonly body?: string;
}

/**
 * Asks an address, within bounds.
 *
 * @throws Error with a plain sentence when it may not be asked, or nothing answered
 */
export const ask = async (
  url: URL,
  bounds: Bounds,
  cookies: string,
  signal?: AbortSignal,
  { method = 'GET', headers = {}, body }: Sent = {},
): Promise<IncomingMessage> => {
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
        method,
        timeout: waitMs,
        ...(signal && { signal }),
        headers: {
          'User-Agent': 'Mozilla/5.0 (compatible; Fernhop trace)',
          Accept: 'text/html,*/*;q=0.8',
          'Accept-Encoding': 'identity',
          ...(cookies !== '' && { Cookie: cookies }),
          ...headers,
        },
      },
      resolve,
    );
    request.on('timeout', () => request.destroy(new Error(`Nothing answered within ${waitMs / 1000} s.`)));
    request.on('error', reject);
    request.end(body);
  });
};
