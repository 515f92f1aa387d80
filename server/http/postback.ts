import type { IncomingMessage, ServerResponse } from 'node:http';
import type { JournalDraft } from '#core/visits';
import type { Audit } from '../audit.ts';
import type { LinkTable, TableNetwork } from '../feed/index.ts';
import type { Admission } from './admission.ts';
import { readBytes, textOf } from './body.ts';
import type { Peers } from './peer.ts';
import { refuse } from './refuse.ts';
import type { Rejected } from './rejected.ts';
import { verify } from './signature.ts';

export interface PostbackParts {
  readonly table: LinkTable;
  readonly peers: Peers;
  readonly admission: Admission;
  readonly audit: Audit;
  readonly rejected: Rejected;
  /** Resolves once the record is on disk. */
  readonly keep: (draft: JournalDraft) => Promise<void>;
  readonly append: (draft: JournalDraft) => void;
  /** What a sample of the person's own carries in a header. */
  readonly sampleToken: string;
  readonly now: () => number;
}

const mostBody = 64 * 1024;
/** As much of the body behind an unknown key as is looked at. */
const mostOfStranger = 4096;

const splitUrl = (url: string, prefix: string): { key: string; query: string } => {
  const mark = url.indexOf('?');
  return {
    key: url.slice(prefix.length, mark < 0 ? url.length : mark).replace(/\/$/, ''),
    query: mark < 0 ? '' : url.slice(mark + 1),
  };
};

/** The network a postback key belongs to at a moment: a key that was rolled is good until its time is over. */
const networkOf = (
  table: LinkTable,
  key: string,
  at: number,
): { network: TableNetwork; oldKey: boolean } | undefined => {
  const network = table.networkByKey.get(key);
  if (!network) return undefined;
  const oldKey = network.key !== key;
  return oldKey && at >= (network.previousKey?.until ?? 0) ? undefined : { network, oldKey };
};

/** Makes the handler of `/postback/KEY`: kept as it came, and acknowledged only once it is on disk. */
export const makePostback = ({ table, peers, audit, rejected, keep, sampleToken, now }: PostbackParts) => {
  const reject = (request: IncomingMessage, why: string, body: string, at: number): void => {
    audit.note('refused postback', `A request to a postback address was refused: ${why}.`, at);
    rejected.keep(why, `${request.method ?? ''} ${request.url ?? ''}\n${body}`, peers.address(request), at);
  };

  return async (request: IncomingMessage, response: ServerResponse, url: string): Promise<void> => {
    const at = now();
    const { key, query } = splitUrl(url, '/postback/');
    if (request.method !== 'GET' && request.method !== 'POST') {
      reject(request, 'neither GET nor POST', '', at);
      refuse(response, 405, 'A postback is sent by GET or POST.', {
        Allow: 'GET, POST',
        Connection: 'close',
      });
      return;
    }
    const found = networkOf(table, key, at);
    if (!found) {
      const body = request.method === 'POST' ? await readBytes(request, mostOfStranger) : undefined;
      reject(request, 'unknown key', body?.toString('latin1') ?? '', at);
      const close = request.method === 'POST' && body === undefined ? { Connection: 'close' } : {};
      refuse(response, 404, 'No network has this postback address.', close);
      return;
    }
    const body = request.method === 'POST' ? await readBytes(request, mostBody) : null;
    if (body === undefined) {
      reject(request, 'body too long', '', at);
      refuse(response, 413, 'The body is longer than 64 KB.', { Connection: 'close' });
      return;
    }
    const { network, oldKey } = found;
    const address = peers.address(request);
    const verified = verify(network, address, query, body, at);
    if (verified.unverified === 'signature' || verified.unverified === 'time')
      audit.note(
        'bad signature',
        `A postback of ${network.name} was signed wrongly, late or not at all.`,
        at,
      );
    const sample = request.headers['fernhop-sample'] === sampleToken;
    const record: JournalDraft = {
      kind: 'postback',
      at,
      network: network.id,
      via: request.method,
      query,
      ...(body === null
        ? { body: null }
        : { ...textOf(body), type: (request.headers['content-type'] ?? '').slice(0, 100) }),
      ip: address,
      ...verified,
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
};

const gif = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64');

/** Makes the handler of `/pixel/KEY.gif`: always a picture, so that a page of the person's never shows a broken one. */
export const makePixel =
  ({ table, peers, admission, append, now }: PostbackParts) =>
  (request: IncomingMessage, response: ServerResponse, url: string): void => {
    const { key, query } = splitUrl(url, '/pixel/');
    const network = table.networkByPixelKey.get(key.replace(/\.gif$/, ''));
    const at = now();
    if (network && request.method === 'GET' && admission.admits(peers.address(request), request, at))
      append({
        kind: 'pixel',
        at,
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
