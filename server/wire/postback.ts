import type { IncomingMessage, ServerResponse } from 'node:http';
import type { JournalDraft } from '#core/visits';
import type { Table } from '../feed/index.ts';
import { readBody } from './body.ts';
import type { Peers } from './peer.ts';
import { refuse } from './refuse.ts';
import { doubtOf } from './vouch.ts';

export interface PostbackParts {
  readonly table: Table;
  readonly peers: Peers;
  /** Resolves once the record is on disk. */
  readonly keep: (draft: JournalDraft) => Promise<void>;
  readonly append: (draft: JournalDraft) => void;
  /** What a sample of the person's own carries in a header. */
  readonly sampleToken: string;
  readonly stray: (why: string, text: string, at: number) => void;
  readonly now: () => number;
}

const mostBody = 64 * 1024;

const splitUrl = (url: string, prefix: string): { key: string; query: string } => {
  const mark = url.indexOf('?');
  return {
    key: url.slice(prefix.length, mark < 0 ? url.length : mark),
    query: mark < 0 ? '' : url.slice(mark + 1),
  };
};

/** Makes the handler of `/postback/KEY`: kept as it came, and acknowledged only once it is on disk. */
export const makePostback =
  ({ table, peers, keep, stray, sampleToken, now }: PostbackParts) =>
  async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    const at = now();
    const { key, query } = splitUrl(request.url ?? '', '/postback/');
    if (request.method !== 'GET' && request.method !== 'POST') {
      refuse(response, 405, 'A postback is sent by GET or POST.', { Allow: 'GET, POST' });
      return;
    }
    const found = table.networkByKey.get(key);
    const oldKey = found !== undefined && found.key !== key;
    // A key that was rolled is good until its time is over.
    const network = oldKey && at >= (found.before?.until ?? 0) ? undefined : found;
    const body = request.method === 'POST' ? await readBody(request, mostBody) : null;
    if (!network) {
      stray('unknown key', `${request.method} ${request.url ?? ''}\n${body ?? ''}`, at);
      refuse(response, 404, 'No network has this postback address.');
      return;
    }
    if (body === undefined) {
      stray('body too long', `POST ${request.url ?? ''}`, at);
      refuse(response, 413, 'The body is longer than 64 KB.', { Connection: 'close' });
      return;
    }
    const address = peers.address(request);
    const unsure = doubtOf(network, address, query, body);
    const sample = request.headers['fernhop-sample'] === sampleToken;
    const record: JournalDraft = {
      kind: 'postback',
      at,
      network: network.id,
      via: request.method,
      query,
      body,
      ...(body === null ? {} : { type: (request.headers['content-type'] ?? '').slice(0, 100) }),
      ip: address,
      ...(unsure && { unsure }),
      ...(oldKey && { oldKey }),
      ...(sample && { sample }),
    };
    try {
      await keep(record);
    } catch {
      refuse(response, 503, 'It cannot be kept now. Send it again later.', { 'Retry-After': '60' });
      return;
    }
    response.writeHead(200, {
      'Content-Type': 'text/plain',
      'Cache-Control': 'no-store',
      'Content-Length': '2',
    });
    response.end('ok');
  };

const gif = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64');

/** Makes the handler of `/pixel/KEY.gif`: always a picture, so that a page of the person's never shows a broken one. */
export const makePixel =
  ({ table, append, now }: PostbackParts) =>
  (request: IncomingMessage, response: ServerResponse): void => {
    const { key, query } = splitUrl(request.url ?? '', '/pixel/');
    const network = table.networkByPixelKey.get(key.replace(/\.gif$/, ''));
    if (network && request.method === 'GET')
      append({
        kind: 'pixel',
        at: now(),
        network: network.id,
        query: query.slice(0, 2048),
        ua: (request.headers['user-agent'] ?? '').slice(0, 512),
        from: (request.headers.referer ?? '').slice(0, 1024),
      });
    response.writeHead(network ? 200 : 404, {
      'Content-Type': 'image/gif',
      'Content-Length': String(gif.length),
      'Cache-Control': 'no-store',
      'Cross-Origin-Resource-Policy': 'cross-origin',
    });
    response.end(request.method === 'HEAD' ? undefined : gif);
  };
