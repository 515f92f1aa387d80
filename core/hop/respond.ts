import type { Checked, HopChoices } from '#core/catalogue';
import type { HopRequest } from './decide.ts';
import type { Template } from './template.ts';
import { compileDestination, expand } from './template.ts';

/** A link made ready to answer requests. */
export interface HopLink {
  readonly id: string;
  readonly destination: Template;
  readonly choices: HopChoices;
  /** IANA name; `{day}` is a day of this zone. */
  readonly zone: string;
}

/** A response that sends a visitor on. Header names and values alternate, as `writeHead` takes them. */
export interface HopResponse {
  readonly status: number;
  readonly headers: string[];
  readonly body: string;
}

/** Compiles a link for hopping, or says what has to be mended. */
export const prepareLink = (
  id: string,
  destination: string,
  asText: readonly string[],
  choices: HopChoices,
  zone: string,
): Checked<HopLink> => {
  const compiled = compileDestination(destination, asText);
  return compiled.ok ? { ok: true, value: { id, destination: compiled.value, choices, zone } } : compiled;
};

/**
 * How long a response may be kept. 301 and 308 may be cached without asking (RFC 9110 §15.4), which hides
 * later clicks from the counter, so they are sent to be asked for again unless the person allows the cache.
 */
export const cacheControl = ({ status, cache }: Pick<HopChoices, 'status' | 'cache'>): string => {
  if (status === 301 || status === 308) return cache ? 'private, max-age=86400' : 'private, max-age=0';
  return 'no-store';
};

/** Builds the response of one hop. The request can change neither scheme, host nor path of the destination. */
export const respond = (link: HopLink, request: HopRequest, clickId: string): HopResponse => {
  const { choices } = link;
  let location = expand(link.destination, (name) => {
    switch (name) {
      case 'click':
        return clickId;
      case 'source':
        return request.source;
      case 'link':
        return link.id;
      case 'country':
        return request.country;
      case 'device':
        return request.device;
      case 'day':
        return dayIn(link.zone, request.at);
    }
  });
  if (request.query !== '' && choices.pass !== 'none')
    location = passQuery(location, request.query, choices.pass);
  return {
    status: choices.status,
    headers: [
      'Location',
      location,
      'Cache-Control',
      cacheControl(choices),
      'Referrer-Policy',
      choices.hideReferrer ? 'no-referrer' : 'strict-origin',
      'X-Robots-Tag',
      'noindex, nofollow',
      'Content-Length',
      '0',
    ],
    body: '',
  };
};

const dayFormats = new Map<string, Intl.DateTimeFormat>();

/** The day of a moment in a zone, as `2026-11-23` (ISO 8601). */
export const dayIn = (zone: string, at: number): string => {
  let format = dayFormats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-CA', {
      timeZone: zone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
    });
    dayFormats.set(zone, format);
  }
  return format.format(at);
};

const nameOf = (pair: string): string => {
  const raw = pair.split('=', 1)[0] ?? '';
  try {
    return decodeURIComponent(raw.replaceAll('+', ' '));
  } catch {
    return raw;
  }
};

/**
 * Adds the visitor's own query parameters to an address. One that is already there is never replaced, and what
 * could end the query or break a header is percent-encoded.
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
  if (added.length === 0) return address;
  const joint = mark < 0 ? '?' : base.endsWith('?') || base.endsWith('&') ? '' : '&';
  return base + joint + added.join('&') + fragment;
};
