import { randomFillSync } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  clickId,
  clickIdBytes,
  decide,
  deviceOf,
  everyoneElse,
  goesByTwo,
  plainly,
  readTarget,
  respond,
} from '#core/hop';
import type { Decision, HopLink, HopRequest, HopResponse, Place } from '#core/hop';
import type { HopRecord, JournalDraft } from '#core/visits';
import type { Host, Table, TableLink } from '../feed/index.ts';
import { answering, readyLink } from '../feed/index.ts';
import type { Admission } from './admission.ts';
import type { CountryOf } from './country.ts';
import type { Told } from './headers.ts';
import { cookieFor, visitorIn } from './cookie.ts';
import { hopLine } from './hopLine.ts';
import type { PageClicks } from './pageClicks.ts';
import type { Peers } from './peer.ts';
import type { SecondPages } from './secondPage.ts';
import type { Seen } from './seen.ts';
import type { Visitors } from './visitor.ts';

export interface HopParts {
  readonly table: Table;
  readonly seen: Seen;
  readonly visitors: Visitors;
  readonly peers: Peers;
  readonly admission: Admission;
  readonly secondPages: SecondPages;
  readonly clicks: PageClicks;
  readonly countryOf: CountryOf;
  /** Header of a trusted proxy that carries the country. */
  readonly geoHeader: string | undefined;
  /** The person's test token: a hop that carries it is not counted. */
  readonly testToken: string;
  readonly append: (draft: JournalDraft) => void;
  /** Takes what gives a hop of a link as JSON, less its first brace, when its line is made. */
  readonly appendHop: (at: number, hop: { rest(): string; readonly link: string }) => void;
  /** Told of a link that could not answer as it is set up. */
  readonly failedPart: (link: TableLink, error: unknown) => void;
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

const nonces = Buffer.alloc(16 * 100);
let usedNonces = nonces.length;

/** A nonce for a page: 128 random bits, as the policy's standard asks at least (Content Security Policy, §8.1). */
const freshNonce = (): string => {
  if (usedNonces === nonces.length) {
    randomFillSync(nonces);
    usedNonces = 0;
  }
  usedNonces += 16;
  return nonces.toString('base64', usedNonces - 16, usedNonces);
};

const goneDecision: Decision = { branch: 'gone', held: true, why: [] };

/** The branch a request would have taken, for the record of one that was not sent on. */
const branchOf = (ready: HopLink, visit: HopRequest): string => {
  try {
    return decide(ready, visit).branch;
  } catch {
    return everyoneElse;
  }
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

/** Year-long, as the standard's own example has it (RFC 6797 §6.2): the domain is asked by https alone from then on. */
export const onlyHttps = 'max-age=31536000';

/**
 * Makes the handler of hops: what happens to a request for a short link, from top to bottom. It touches neither
 * disk nor JSON parsing. Gives false when no link answers there, so that the caller can.
 */
export const makeHop = ({
  table,
  seen,
  visitors,
  peers,
  admission,
  secondPages,
  clicks,
  countryOf,
  geoHeader,
  testToken,
  append,
  appendHop,
  failedPart,
  now,
}: HopParts) => {
  return (request: IncomingMessage, response: ServerResponse, host: Host, told: Told): boolean => {
    const { method = '' } = request;
    if (method !== 'GET' && method !== 'HEAD') return false;
    const asked = readTarget(request.url ?? '');
    if (!asked) return false;
    const found = host.links.get(asked.path);
    if (!found) return false;
    const target = found.rare.archived ? answering(table, found) : found;
    const link = target ?? found;
    const domain = link === found ? host.domain : table.domains.get(link.domain);
    const ready = domain && readyLink(table, link, domain);
    if (!ready) return false;

    const at = now();
    const ua = cut(told.userAgent, 512);
    const address = peers.address(request);
    const viaTrusted = peers.viaTrusted(request);
    const byProxy =
      geoHeader !== undefined && viaTrusted ? cut(String(request.headers[geoHeader] ?? ''), 2) : '';
    const country = byProxy === '' ? countryOf(address) : byProxy.toUpperCase();
    const device = deviceOf(ua, told.mobile);
    const language = firstLanguage(told.language);
    const prefetch = told.purpose.includes('prefetch');
    const { cookieDays } = host.domain;
    const known = cookieDays > 0 ? visitorIn(told.cookie) : '';
    const second =
      asked.again !== '' && !prefetch && goesByTwo(ready.choices)
        ? secondPages.open(asked.again, link.id, at)
        : undefined;
    // A second page is no hop: it is not counted as one where it is not written down.
    const written = admission.takes(address, told.forwarded, request, at, second ? undefined : link.id);
    // A hop that asks nothing of the visitor leaves the hash to the journal's batch: many at once cost half as much.
    const late = known === '' && cookieDays === 0 && !host.asksReturning && ready.branches.length === 1;
    const visitor = late ? '' : known === '' ? visitors.of(address, ua, at) : known;
    const { source, query } = asked;
    const returning =
      host.asksReturning && (known !== '' || seen.before(host.domain.id, visitor, at, !prefetch && written));
    const visit = { at, source, query, country, device, language, visitor, returning };
    const place = { host: host.domain.host, path: asked.path, nonce: freshNonce };
    const secure = viaTrusted && told.proto === 'https';
    let branch = goneDecision.branch;
    let answer: HopResponse;

    if (second) {
      try {
        // What closed in the meantime is closed; else the branch is the first page's, as long as the link has it.
        const now = target ? decide(ready, visit) : goneDecision;
        const stands = !now.held && ready.branches.some(({ id }) => id === second.branch);
        branch = stands ? second.branch : now.branch;
        answer = respond(ready, { branch }, visit, second.click, place);
      } catch (error) {
        failedPart(link, error);
        ({ branch, answer } = plainly(ready, visit, second.click));
      }
      send(response, method, answer, secure);
      if (written)
        append({
          kind: 'second',
          at,
          click: second.click,
          link: link.id,
          edition: link.edition,
          branch,
          host: host.domain.host,
          status: answer.status,
        });
      return true;
    }

    let status = 503;
    let click = '';
    if (prefetch) {
      // Answering would let the browser use the answer again and never show us the person's real click.
      response.writeHead(503, ['Cache-Control', 'no-store', 'Content-Length', '0']);
      response.end();
      if (written && target) branch = branchOf(ready, visit);
    } else {
      click = freshClick(at);
      const first: Place = goesByTwo(ready.choices)
        ? { ...place, again: (taken) => secondPages.seal(click, link.id, taken) }
        : place;
      try {
        branch = (target ? decide(ready, visit) : goneDecision).branch;
        answer = respond(ready, { branch }, visit, click, first);
      } catch (error) {
        // A part of the link fails: its visitors go to its destination all the same.
        failedPart(link, error);
        ({ branch, answer } = plainly(ready, visit, click));
      }
      status = answer.status;
      if (cookieDays > 0) answer.headers.push('Set-Cookie', cookieFor(visitor, cookieDays, host.domain.host));
      send(response, method, answer, secure);
      if (status === 200) clicks.add(click, link.id);
    }
    if (!written) return true;

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
    appendHop(at, waiting);
    return true;
  };
};

const send = (
  response: ServerResponse,
  method: string,
  { status, headers, body }: HopResponse,
  secure: boolean,
): void => {
  if (secure) headers.push('Strict-Transport-Security', onlyHttps);
  response.writeHead(status, headers);
  if (body === '' || method === 'HEAD') response.end();
  else response.end(body);
};
