import { randomFillSync } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { clickId, clickIdBytes, decide, deviceOf, readTarget, respond } from '#core/hop';
import type { JournalDraft } from '#core/visits';
import type { Host } from '../feed/index.ts';
import { readyLink } from '../feed/index.ts';
import type { CountryOf } from './country.ts';
import type { Told } from './headers.ts';
import { hopLine } from './hopLine.ts';
import type { Peers } from './peer.ts';
import { refuse } from './refuse.ts';
import type { Visitors } from './visitor.ts';

export interface HopParts {
  readonly visitors: Visitors;
  readonly peers: Peers;
  readonly countryOf: CountryOf;
  /** Header of a trusted proxy that carries the country. */
  readonly geoHeader: string | undefined;
  /** The person's test token: a hop that carries it is not counted. */
  readonly testToken: string;
  readonly append: (draft: JournalDraft) => void;
  /** Takes a record that is JSON already, less its first brace. */
  readonly appendRest: (at: number, rest: string) => void;
  readonly now: () => number;
}

const pool = Buffer.alloc(clickIdBytes * 1000);
let used = pool.length;

const freshClick = (at: number): string => {
  if (used === pool.length) {
    randomFillSync(pool);
    used = 0;
  }
  const id = clickId(at, pool, used);
  used += clickIdBytes;
  return id;
};

const cut = (text: string, most: number): string => (text.length > most ? text.slice(0, most) : text);

const firstLanguage = (list: string): string => {
  const comma = list.indexOf(',');
  return cut(comma < 0 ? list : list.slice(0, comma), 60);
};

/**
 * Makes the handler of hops: what happens to a request for a short link, from top to bottom. It touches neither
 * disk nor JSON parsing. Gives false when no link answers there, so that the caller can.
 */
export const makeHop =
  ({ visitors, peers, countryOf, geoHeader, testToken, appendRest, now }: HopParts) =>
  (request: IncomingMessage, response: ServerResponse, host: Host, told: Told): boolean => {
    const { method = '' } = request;
    if (method !== 'GET' && method !== 'HEAD') return false;
    const asked = readTarget(request.url ?? '');
    if (!asked) {
      refuse(response, 400, 'This address cannot be read.');
      return true;
    }
    const link = host.links.get(asked.path);
    const ready = link && readyLink(link, host.domain);
    if (!link || !ready) return false;

    const at = now();
    const ua = cut(told.userAgent, 512);
    const address = peers.address(request);
    const byProxy =
      geoHeader !== undefined && peers.viaTrusted(request)
        ? cut(String(request.headers[geoHeader] ?? ''), 2)
        : '';
    const country = byProxy === '' ? countryOf(address) : byProxy.toUpperCase();
    const device = deviceOf(ua, told.mobile);
    const prefetch = told.purpose.includes('prefetch');
    const visit = { at, source: asked.source, query: asked.query, country, device };
    const { branch } = decide(ready, visit);

    let status = 503;
    let click = '';
    if (prefetch) {
      // Answering would let the browser use the answer again and never show us the person's real click.
      response.writeHead(503, ['Cache-Control', 'no-store', 'Content-Length', '0']);
    } else {
      click = freshClick(at);
      const answer = respond(ready, visit, click);
      status = answer.status;
      response.writeHead(status, answer.headers);
    }
    response.end();

    appendRest(
      at,
      hopLine({
        kind: 'hop',
        at,
        click,
        link: link.id,
        edition: link.edition,
        branch,
        source: asked.source,
        status,
        method,
        host: host.domain.host,
        ua,
        visitor: visitors.of(address, ua, at),
        country,
        device,
        from: cut(told.referer, 1024),
        query: cut(asked.query, 1024),
        lang: firstLanguage(told.language),
        prefetch,
        test: asked.test !== '' && asked.test === testToken,
      }),
    );
    return true;
  };
