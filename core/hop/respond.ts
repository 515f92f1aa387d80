import type { HopChoices } from '#core/catalogue';
import { element } from '#core/catalogue';
import { decodeQueryText } from '#core/link-parts';
import { dayIn } from './zone.ts';
import type { Decision } from './decide.ts';
import type { HopRequest } from './request.ts';
import type { Page } from './page.ts';
import { closedPage, hopPage } from './page.ts';
import type { HopLink, ReadyAnswer } from './prepare.ts';
import type { Template } from './template.ts';
import { encodeValue, fill, longestLocation } from './template.ts';

/** A response that sends a visitor on. Header names and values alternate, as `writeHead` takes them. */
export interface HopResponse {
  readonly status: number;
  readonly headers: string[];
  readonly body: string;
}

/** Where a request was made, for pages that name their own address. */
export interface HopAddress {
  /** Host as it stands in the title of a page. */
  readonly host: string;
  /** Path of the short link, without the first `/`. */
  readonly path: string;
  /** Gives a nonce for a page's own styles and scripts: fresh for each response, and nothing a visitor could know. */
  readonly nonce: () => string;
  /**
   * Gives what `?second-page=` carries to the second of two pages, so that this page alone can ask for it. Left out on that
   * second page, which leads on.
   */
  readonly sealSecondPage?: (branch: string) => string;
}

/**
 * How long a response may be kept. 301 and 308 may be cached without asking (RFC 9110 §15.4), which hides
 * later clicks from the counter, so they are sent to be asked for again unless the person allows the cache.
 */
export const cacheControl = ({ status, cache }: Pick<HopChoices, 'status' | 'cache'>): string => {
  if (status === 301 || status === 308) return cache ? 'private, max-age=86400' : 'private, max-age=0';
  return 'no-store';
};

const locationOf = (template: Template, link: HopLink, request: HopRequest, clickId: string): string =>
  fill(template, (name) => {
    switch (name) {
      case 'click':
        return clickId;
      case 'source':
        return request.source;
      case 'link':
        return link.id;
      case 'country':
        // A proxy's header gives it, so it may be anything.
        return encodeValue(request.country);
      case 'device':
        return request.device;
      case 'day':
        return dayIn(link.zone, request.at);
    }
  });

const utf8Length = (text: string): number => new TextEncoder().encode(text).length;

const ofPage = (
  status: number,
  { html, policy }: Page,
  robots: HopChoices['robots'],
  hide: boolean,
): HopResponse => ({
  status,
  headers: [
    'Content-Type',
    'text/html; charset=utf-8',
    'Cache-Control',
    'no-store',
    'Referrer-Policy',
    hide ? 'no-referrer' : 'strict-origin',
    'Content-Security-Policy',
    policy,
    'X-Content-Type-Options',
    'nosniff',
    ...(robots === 'index' ? [] : ['X-Robots-Tag', robots]),
    'Content-Length',
    String(utf8Length(html)),
  ],
  body: html,
});

const ofRedirect = (status: number, location: string, choices: HopChoices): HopResponse => {
  // Every click comes by here: a plain list costs less than one that is put together.
  const headers = [
    'Location',
    location,
    'Cache-Control',
    status === choices.status ? cacheControl(choices) : 'no-store',
    'Referrer-Policy',
    choices.hideReferrer ? 'no-referrer' : 'strict-origin',
    'Content-Length',
    '0',
  ];
  if (choices.robots !== 'index') headers.push('X-Robots-Tag', choices.robots);
  return { status, headers, body: '' };
};

const closed = (
  answer: ReadyAnswer,
  link: HopLink,
  request: HopRequest,
  clickId: string,
  { host, nonce }: HopAddress,
): HopResponse =>
  answer.kind === 'address'
    ? ofRedirect(307, locationOf(answer.to, link, request, clickId), link.choices)
    : ofPage(200, closedPage(answer, nonce(), host), 'noindex, nofollow', false);

/** Builds the response of one hop. The request can change neither scheme, host nor path of the destination. */
export const respond = (
  link: HopLink,
  { branch }: Pick<Decision, 'branch'>,
  request: HopRequest,
  clickId: string,
  place: HopAddress,
): HopResponse => {
  const { choices, branches } = link;
  if (branch === 'before' || branch === 'after') return closed(link[branch], link, request, clickId, place);
  if (branch === 'gone') {
    const words = { words: 'There is nothing at this address any more.', askMail: false, consent: '' };
    return ofPage(410, closedPage(words, place.nonce(), place.host), 'noindex, nofollow', false);
  }
  const chosen = branches.length === 1 ? branches[0] : branches.find(({ id }) => id === branch);
  const template = (chosen ?? branches.at(-1))?.destination;
  let location = template ? locationOf(template, link, request, clickId) : '';
  if (request.query !== '' && choices.pass !== 'none')
    location = passQuery(location, request.query, choices.pass);
  if (choices.page === 'none') return ofRedirect(choices.status, location, choices);
  const first = goesByTwo(choices) && place.sealSecondPage !== undefined;
  const query = request.query === '' ? '' : `&${request.query}`;
  const source = request.source === '' ? '' : `~${request.source}`;
  const next =
    first && place.sealSecondPage
      ? `/${place.path}${source}?second-page=${place.sealSecondPage(branch)}${query}`
      : location;
  // The first of two pages goes on at once; what there is to read stands on the second.
  const page = first
    ? hopPage(
        { ...choices, scripts: [], wait: { ...choices.wait, seconds: 0, text: '' } },
        next,
        place.nonce(),
        place.host,
      )
    : hopPage(choices, next, place.nonce(), place.host, { link: link.id, click: clickId });
  return ofPage(200, page, choices.robots, choices.hideReferrer || choices.twice);
};

/**
 * The plainest response a link can give, for when a part of it fails: a temporary redirect to its own destination.
 *
 * @throws Error where the link has not even that
 */
export const plainly = (
  link: HopLink,
  request: HopRequest,
  clickId: string,
): { readonly branch: string; readonly answer: HopResponse } => {
  const own = link.branches.at(-1);
  if (!own) throw new Error('A link that is ready has a destination.');
  const location = locationOf(own.destination, link, { ...request, query: '' }, clickId);
  return { branch: own.id, answer: ofRedirect(307, location, link.choices) };
};

/** True for a hop that goes by two pages of ours. */
export const goesByTwo = ({ page, twice }: Pick<HopChoices, 'page' | 'twice'>): boolean =>
  twice && page !== 'none' && page !== 'frame';

const nameOf = (pair: string): string => decodeQueryText(element(pair.split('=', 1)[0]));

/**
 * Adds the visitor's own query parameters to an address. One that is already there is never replaced, and what
 * could end the query or break a header is percent-encoded. Those that would make the address longer than a header may
 * be are left out.
 */
export const passQuery = (address: string, query: string, pass: 'all' | readonly string[]): string => {
  const hash = address.indexOf('#');
  const base = hash < 0 ? address : address.slice(0, hash);
  const fragment = hash < 0 ? '' : address.slice(hash);
  const mark = base.indexOf('?');
  const present = new Set(
    mark < 0
      ? []
      : base
          .slice(mark + 1)
          .split('&')
          .map(nameOf),
  );
  const added = query
    .split('&')
    .filter((pair) => {
      const name = nameOf(pair);
      return name !== '' && !present.has(name) && (pass === 'all' || pass.includes(name));
    })
    .map((pair) => pair.replace(/[^A-Za-z0-9\-._~!$'()*+,;=:@/?%]/g, (letter) => encodeURIComponent(letter)));
  const room = longestLocation - address.length;
  while (added.reduce((sum, pair) => sum + pair.length + 1, 0) > room && added.length > 0) added.pop();
  if (added.length === 0) return address;
  const joint = mark < 0 ? '?' : base.endsWith('?') || base.endsWith('&') ? '' : '&';
  return base + joint + added.join('&') + fragment;
};
