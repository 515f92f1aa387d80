import { randomFillSync } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { clickId, clickIdBytes, clickTime, decide, deviceOf, readTarget, respond } from '#core/hop';
import type { HopResponse } from '#core/hop';
import type { HopRecord, JournalDraft } from '#core/visits';
import type { Host, Table } from '../feed/index.ts';
import { answering, readyLink } from '../feed/index.ts';
import type { CountryOf } from './country.ts';
import type { Told } from './headers.ts';
import { cookieFor, visitorIn } from './cookie.ts';
import { hopLine } from './hopLine.ts';
import type { Peers } from './peer.ts';
import { refuse } from './refuse.ts';
import type { Seen } from './seen.ts';
import type { Visitors } from './visitor.ts';

export interface HopParts {
  readonly table: Table;
  readonly seen: Seen;
  readonly visitors: Visitors;
  readonly peers: Peers;
  readonly countryOf: CountryOf;
  /** Header of a trusted proxy that carries the country. */
  readonly geoHeader: string | undefined;
  /** The person's test token: a hop that carries it is not counted. */
  readonly testToken: string;
  readonly append: (draft: JournalDraft) => void;
  /** Takes what gives a record as JSON, less its first brace, when its line is made. */
  readonly appendRest: (at: number, rest: { rest(): string }) => void;
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

/** How long the second of two pages may be asked for, in milliseconds. */
const againMs = 120_000;

/** Click ID and branch of the first page of a hop that goes by two; nothing where it is none, or long ago. */
const secondPage = (again: string, at: number): { click: string; branch: string } | undefined => {
  if (again === '') return undefined;
  const [click = '', branch = ''] = again.split('.', 2);
  const made = clickTime(click);
  return made !== undefined && Math.abs(at - made) < againMs ? { click, branch } : undefined;
};

const firstLanguage = (list: string): string => {
  const comma = list.indexOf(',');
  return cut(comma < 0 ? list : list.slice(0, comma), 60);
};

/** A hop whose line is still to be made, and its visitor's key with it where it is `late`. */
interface WaitingHop extends Omit<HopRecord, 'seq'> {
  visitor: string;
  readonly late: boolean;
  readonly address: string;
  readonly visitors: Visitors;
  rest(): string;
}

/** One function for all that wait: a closure for each would hold all that its handler ever knew. */
function restOfHop(this: WaitingHop): string {
  if (this.late) this.visitor = this.visitors.of(this.address, this.ua, this.at);
  return hopLine(this);
}

/**
 * Makes the handler of hops: what happens to a request for a short link, from top to bottom. It touches neither
 * disk nor JSON parsing. Gives false when no link answers there, so that the caller can.
 */
export const makeHop =
  ({ table, seen, visitors, peers, countryOf, geoHeader, testToken, appendRest, now }: HopParts) =>
  (request: IncomingMessage, response: ServerResponse, host: Host, told: Told): boolean => {
    const { method = '' } = request;
    if (method !== 'GET' && method !== 'HEAD') return false;
    const asked = readTarget(request.url ?? '');
    if (!asked) {
      refuse(response, 400, 'This address cannot be read.');
      return true;
    }
    const found = host.links.get(asked.path);
    if (!found) return false;
    const link = found.rare.archived ? answering(table, found) : found;
    const domain = link === found ? host.domain : table.domains.get(link.domain);
    const ready = domain && readyLink(table, link, domain);
    if (!ready) return false;

    const at = now();
    const ua = cut(told.userAgent, 512);
    const address = peers.address(request);
    const byProxy =
      geoHeader !== undefined && peers.viaTrusted(request)
        ? cut(String(request.headers[geoHeader] ?? ''), 2)
        : '';
    const country = byProxy === '' ? countryOf(address) : byProxy.toUpperCase();
    const device = deviceOf(ua, told.mobile);
    const language = firstLanguage(told.language);
    const prefetch = told.purpose.includes('prefetch');
    const { cookieDays } = host.domain;
    const known = cookieDays > 0 ? visitorIn(told.cookie) : '';
    // A hop that asks nothing of the visitor leaves the hash to the journal's batch: many at once cost half as much.
    const late = known === '' && cookieDays === 0 && !host.asksReturning && ready.branches.length === 1;
    const visitor = late ? '' : known === '' ? visitors.of(address, ua, at) : known;
    const { source, query } = asked;
    const returning =
      host.asksReturning && (known !== '' || seen.before(host.domain.id, visitor, at, !prefetch));
    const visit = { at, source, query, country, device, language, visitor, returning };
    const place = { host: host.domain.host, path: asked.path, again: false };

    const second = secondPage(asked.again, at);
    if (second) {
      // The hop was counted with its first page; this one only leads on.
      send(response, method, respond(ready, second, visit, second.click, { ...place, again: true }));
      return true;
    }
    const { branch } = decide(ready, visit);
    let status = 503;
    let click = '';
    if (prefetch) {
      // Answering would let the browser use the answer again and never show us the person's real click.
      response.writeHead(503, ['Cache-Control', 'no-store', 'Content-Length', '0']);
      response.end();
    } else {
      click = freshClick(at);
      const answer = respond(ready, { branch }, visit, click, place);
      status = answer.status;
      if (cookieDays > 0) answer.headers.push('Set-Cookie', cookieFor(visitor, cookieDays, host.domain.host));
      send(response, method, answer);
    }

    const test = asked.test !== '' && asked.test === testToken;
    const waiting: WaitingHop = {
      kind: 'hop',
      at,
      click,
      link: link.id,
      edition: link.edition,
      branch,
      source,
      status,
      method,
      host: host.domain.host,
      ua,
      visitor,
      country,
      device,
      from: cut(told.referer, 1024),
      query: cut(query, 1024),
      lang: language,
      prefetch,
      test,
      late,
      address,
      visitors,
      rest: restOfHop,
    };
    appendRest(at, waiting);
    return true;
  };

const send = (response: ServerResponse, method: string, { status, headers, body }: HopResponse): void => {
  response.writeHead(status, headers);
  if (body === '' || method === 'HEAD') response.end();
  else response.end(body);
};
