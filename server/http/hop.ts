import { randomFillSync } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import {
  cameBy,
  cameFrom,
  clickId,
  clickIdBytes,
  decide,
  deviceOf,
  everyoneElse,
  goesByTwo,
  goneDecision,
  plainly,
  readTarget,
  respond,
} from '#core/hop';
import type { Asked, HopAddress, HopLink, HopRequest, HopResponse } from '#core/hop';
import type { Device } from '#core/catalogue';
import type { HopRecord, JournalDraft } from '#core/visits';
import type { Host, LinkTable, TableLink } from '../feed/index.ts';
import { answering, readyLink } from '../feed/index.ts';
import type { Admission } from './admission.ts';
import type { CountryOf } from './country.ts';
import { countryCode } from './country.ts';
import type { IsHosting } from './hosting.ts';
import type { HopHeaders } from './headers.ts';
import { cookieFor, visitorIn } from './cookie.ts';
import { hopLine } from './hopLine.ts';
import { wantedLanguage } from './language.ts';
import type { PageClicks } from './pageClicks.ts';
import type { Peers } from './peer.ts';
import type { SecondPages } from './secondPage.ts';
import type { VisitorsToday } from './visitorsToday.ts';
import type { Visitors } from './visitor.ts';

export interface HopParts {
  readonly table: LinkTable;
  readonly visitorsToday: VisitorsToday;
  readonly visitors: Visitors;
  readonly peers: Peers;
  readonly admission: Admission;
  readonly secondPages: SecondPages;
  readonly clicks: PageClicks;
  readonly countryOf: CountryOf;
  readonly isHosting: IsHosting;
  /** Header of a trusted proxy that carries the country. */
  readonly geoHeader: string | undefined;
  /** The person's test token: a hop that carries it is not counted. */
  readonly testToken: string;
  readonly append: (draft: JournalDraft) => void;
  /** Takes what gives a hop of a link as JSON, less its first brace, when its line is made. */
  readonly appendHop: (at: number, hop: { rest(): string; readonly link: string }) => void;
  /** Called with a link that could not answer as it is set up. */
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

/** The branch a request would have taken, for the record of one that was not sent on. */
const branchOf = (ready: HopLink, visit: HopRequest): string => {
  try {
    return decide(ready, visit).branch;
  } catch {
    return everyoneElse;
  }
};

/** A hop whose line is still to be made, with whether its address is a hosting network's, and its visitor's key where it is `late`. */
interface WaitingHop extends Omit<HopRecord, 'seq'> {
  visitor: string;
  hosting?: boolean;
  readonly isHosting: IsHosting;
  readonly late: boolean;
  readonly address: string;
  readonly visitors: Visitors;
  rest(): string;
}

/** One function for all that wait: a closure for each would hold all that its handler ever knew. */
function restOfHop(this: WaitingHop): string {
  if (this.late) this.visitor = this.visitors.of(this.address, this.ua, this.at);
  const hosting = this.isHosting(this.address);
  if (hosting !== undefined) this.hosting = hosting;
  return hopLine(this);
}

/** Year-long, as the standard's own example has it (RFC 6797 §6.2): the domain is asked by https alone from then on. */
export const onlyHttps = 'max-age=31536000';

/** Who asks, as far as the request tells, and when. */
interface Caller {
  /** Milliseconds since 1970 UTC. */
  readonly at: number;
  readonly address: string;
  readonly ua: string;
  readonly country: string;
  readonly device: Device;
  readonly language: string;
  /** The request came to the proxy by https. */
  readonly secure: boolean;
  readonly prefetch: boolean;
}

/** How the visitor is known, and what the decision needs to know of them. */
interface Visitor {
  /** Their key; empty where it is `late`: then the journal's batch makes it. */
  readonly key: string;
  readonly late: boolean;
  readonly visit: HopRequest;
}

/** What was answered, for the record. */
interface Answered {
  readonly status: number;
  readonly click: string;
  readonly branch: string;
}

/**
 * Makes the handler of hops: what happens to a request for a short link, from top to bottom. It touches neither
 * disk nor JSON parsing. Gives false when no link answers there, so that the caller can.
 */
export const makeHop = (parts: HopParts) => {
  const { table, visitorsToday, visitors, peers, admission, secondPages, clicks, failedPart } = parts;

  const callerOf = (request: IncomingMessage, headers: HopHeaders): Caller => {
    const ua = cut(headers.userAgent, 512);
    const address = peers.address(request);
    const viaTrusted = peers.viaTrusted(request);
    const { geoHeader } = parts;
    const byProxy = geoHeader !== undefined && viaTrusted ? countryCode(request.headers[geoHeader]) : '';
    return {
      at: parts.now(),
      address,
      ua,
      country: byProxy === '' ? parts.countryOf(address) : byProxy,
      device: deviceOf(ua, headers.mobile),
      language: wantedLanguage(headers.language),
      secure: viaTrusted && headers.proto === 'https',
      prefetch: headers.purpose.includes('prefetch'),
    };
  };

  const visitorOf = (
    { at, address, ua, country, device, language, prefetch }: Caller,
    { source, query }: Asked,
    { domain: { id, cookieDays }, asksReturning }: Host,
    ready: HopLink,
    cookie: string,
    written: boolean,
  ): Visitor => {
    const known = cookieDays > 0 ? visitorIn(cookie) : '';
    // A hop that asks nothing of the visitor leaves the hash to the journal's batch: many at once cost half as much.
    const late = known === '' && cookieDays === 0 && !asksReturning && ready.branches.length === 1;
    const key = late ? '' : known === '' ? visitors.of(address, ua, at) : known;
    const returning =
      asksReturning && (known !== '' || visitorsToday.wasHere(id, key, at, !prefetch && written));
    return { key, late, visit: { at, source, query, country, device, language, visitor: key, returning } };
  };

  /** Answers the second of two pages: it leads on with the first one's click ID and is no hop of its own. */
  const answerSecondPage = (
    second: { readonly click: string; readonly branch: string },
    response: ServerResponse,
    method: string,
    { link, ready, isGone }: Found,
    visit: HopRequest,
    place: HopAddress,
    { at, secure }: Caller,
    written: boolean,
  ): void => {
    let { branch } = goneDecision;
    let answer: HopResponse;
    try {
      // What closed in the meantime is closed; else the branch is the first page's, as long as the link has it.
      const now = isGone ? goneDecision : decide(ready, visit);
      const stands = !now.notRedirected && ready.branches.some(({ id }) => id === second.branch);
      branch = stands ? second.branch : now.branch;
      answer = respond(ready, { branch }, visit, second.click, place);
    } catch (error) {
      failedPart(link, error);
      ({ branch, answer } = plainly(ready, visit, second.click));
    }
    send(response, method, answer, secure);
    if (!written) return;
    const { click } = second;
    const { status } = answer;
    const { id, version } = link;
    parts.append({ kind: 'second', at, click, link: id, version, branch, host: place.host, status });
  };

  /** Answers a browser that only looks ahead: with the hop itself it would never show us the person's real click. */
  const answerPrefetch = (
    response: ServerResponse,
    { ready, isGone }: Found,
    visit: HopRequest,
  ): Answered => {
    response.writeHead(503, ['Cache-Control', 'no-store', 'Content-Length', '0']);
    response.end();
    return { status: 503, click: '', branch: isGone ? goneDecision.branch : branchOf(ready, visit) };
  };

  const answerHop = (
    response: ServerResponse,
    method: string,
    { link, ready, isGone }: Found,
    { key, visit }: Visitor,
    place: HopAddress,
    { at, secure }: Caller,
    cookieDays: number,
  ): Answered => {
    const click = freshClick(at);
    const first: HopAddress = goesByTwo(ready.choices)
      ? { ...place, sealSecondPage: (taken) => secondPages.seal(click, link.id, taken) }
      : place;
    let { branch } = goneDecision;
    let answer: HopResponse;
    try {
      if (!isGone) ({ branch } = decide(ready, visit));
      answer = respond(ready, { branch }, visit, click, first);
    } catch (error) {
      // A part of the link fails: its visitors go to its destination all the same.
      failedPart(link, error);
      ({ branch, answer } = plainly(ready, visit, click));
    }
    if (cookieDays > 0) answer.headers.push('Set-Cookie', cookieFor(key, cookieDays, place.host));
    send(response, method, answer, secure);
    return { status: answer.status, click, branch };
  };

  const record = (
    { status, click, branch }: Answered,
    method: string,
    { link }: Found,
    { key, late }: Visitor,
    asked: Asked,
    headers: HopHeaders,
    host: string,
    { at, address, ua, country, device, language, prefetch }: Caller,
  ): void => {
    const { source, query, first } = asked;
    const test = asked.test !== '' && asked.test === parts.testToken;
    if (status === 200 && !test) clicks.add(click, { link: link.id, source });
    const waiting: WaitingHop = {
      kind: 'hop',
      at,
      click,
      link: link.id,
      version: link.version,
      branch,
      source,
      status,
      method,
      host,
      ua,
      visitor: key,
      country,
      device,
      from: cut(cameFrom(asked, headers.referer), 1024),
      query: cut(query, 1024),
      lang: language,
      prefetch,
      test,
      ...(first !== '' && { first }),
      late,
      address,
      visitors,
      isHosting: parts.isHosting,
      rest: restOfHop,
    };
    parts.appendHop(at, waiting);
  };

  return (request: IncomingMessage, response: ServerResponse, host: Host, headers: HopHeaders): boolean => {
    const { method = '' } = request;
    if (method !== 'GET' && method !== 'HEAD') return false;
    const read = readTarget(request.url ?? '');
    const found = read && findLink(table, host, read.path);
    if (!found) return false;
    const asked: Asked = { ...read, ...cameBy(read, headers.referer) };
    const { link, ready } = found;
    const { domain } = host;
    const place: HopAddress = { host: domain.host, path: asked.path, nonce: freshNonce };

    const caller = callerOf(request, headers);
    const { at, address, prefetch } = caller;
    const second =
      asked.secondPage !== '' && !prefetch && goesByTwo(ready.choices)
        ? secondPages.open(asked.secondPage, link.id, at)
        : undefined;
    // A second page is no hop: it is not counted as one where it is not written down.
    const written = admission.takes(address, headers.forwarded, request, at, second ? undefined : link.id);
    const visitor = visitorOf(caller, asked, host, ready, headers.cookie, written);
    if (second) {
      answerSecondPage(second, response, method, found, visitor.visit, place, caller, written);
      return true;
    }
    const answered = prefetch
      ? answerPrefetch(response, found, visitor.visit)
      : answerHop(response, method, found, visitor, place, caller, domain.cookieDays);
    if (written) record(answered, method, found, visitor, asked, headers, domain.host, caller);
    return true;
  };
};

/** The link that answers a request, ready to hop. */
interface Found {
  readonly link: TableLink;
  readonly ready: HopLink;
  /** It is archived, and no other link answers for it. */
  readonly isGone: boolean;
}

/** Finds the link that answers at a path of a host: an archived one may have named another. */
const findLink = (table: LinkTable, host: Host, path: string): Found | undefined => {
  const asked = host.links.get(path);
  if (!asked) return undefined;
  const target = asked.rare.archived ? answering(table, asked) : asked;
  const link = target ?? asked;
  const domain = link === asked ? host.domain : table.domains.get(link.domain);
  const ready = domain && readyLink(table, link, domain);
  return ready && { link, ready, isGone: target === undefined };
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
