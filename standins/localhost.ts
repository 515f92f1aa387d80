import type { IncomingMessage, RequestOptions } from 'node:http';
import { request as httpRequest } from 'node:http';
import type { LookupFunction } from 'node:net';
import { lookup as systemLookup } from 'node:dns';
import { isLocalHost } from '#core/catalogue';

/** Looks a name up; `*.localhost` is loopback everywhere (RFC 6761 §6.3), which Node leaves to the system. */
export const lookupLocal: LookupFunction = (hostname, options, callback) => {
  if (isLocalHost(hostname)) {
    if (options.all) callback(null, [{ address: '127.0.0.1', family: 4 }]);
    else callback(null, '127.0.0.1', 4);
  } else systemLookup(hostname, options, callback);
};

export interface Answer {
  readonly status: number;
  readonly headers: IncomingMessage['headers'];
  readonly body: string;
}

/**
 * Sends a request over real HTTP.
 *
 * @throws Error when nothing answers within five seconds
 */
export const send = (url: string, options: RequestOptions = {}, body?: string): Promise<Answer> =>
  new Promise((resolve, reject) => {
    const request = httpRequest(url, { ...options, lookup: lookupLocal, timeout: 5000 }, (response) => {
      let text = '';
      response.setEncoding('utf8');
      response.on('data', (chunk: string) => (text += chunk));
      response.on('end', () =>
        resolve({ status: response.statusCode ?? 0, headers: response.headers, body: text }),
      );
      response.on('error', reject);
    });
    request.on('timeout', () => request.destroy(new Error('no answer within 5 s')));
    request.on('error', reject);
    request.end(body);
  });
