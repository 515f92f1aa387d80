import { element, isLocalHost } from '#core/catalogue';
import { getDomain } from 'tldts';
import type { Network, Program } from '#core/catalogue';
import { hostOf, splitLink } from './splitLink.ts';

/** The part of a host that somebody registered: `m.shop.co.uk` and `www.shop.co.uk` are one shop. */
export const shopOf = (host: string): string => getDomain(host, { allowPrivateDomains: true }) ?? host;

/** The programs of the shop a page belongs to, joined ones first. */
export const programsFor = (page: string, programs: readonly Program[]): Program[] => {
  const shop = shopOf(hostOf(page));
  const order = ['joined', 'pending', 'not joined', 'declined'];
  return programs
    .filter((program) => program.hosts.some((host) => shopOf(host) === shop))
    .toSorted((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
};

/**
 * What a shop or an advertiser adds to its own addresses: campaign and session parameters, and the click IDs of
 * advertising, which would credit somebody else; *common practice*.
 */
const campaign =
  /^(?:utm_\w+|gclid|dclid|gbraid|wbraid|fbclid|msclkid|ttclid|twclid|yclid|mc_[ce]id|_ga|_gl|igshid|session(?:_?id)?|jsessionid|phpsessid)$/i;

/** A page's address in pieces: what stays and what is taken away. */
export interface Stripped {
  readonly page: string;
  /** The parameters in their order, as raw text, and whether each stays. */
  readonly parts: readonly { readonly name: string; readonly raw: string; readonly stays: boolean }[];
}

/**
 * Takes a shop's own campaign and session parameters out of a page's address. Every other byte stays: whole queries
 * are never dropped, since a search page lives in them.
 */
export const stripPage = (
  page: string,
  strip: readonly string[] = [],
  keep: readonly string[] = [],
): Stripped => {
  const { query } = splitLink(page);
  if (query === undefined) return { page, parts: [] };
  const parts = query.split('&').map((raw) => {
    const name = element(raw.split('=', 1)[0]);
    return { name, raw, stays: keep.includes(name) || !(campaign.test(name) || strip.includes(name)) };
  });
  const rest = parts.filter((part) => part.stays).map((part) => part.raw);
  if (rest.length === parts.length) return { page, parts };
  const at = page.indexOf('?');
  const after = page.slice(at + 1 + query.length);
  return { page: page.slice(0, at) + (rest.length > 0 ? `?${rest.join('&')}` : '') + after, parts };
};

/** A page encoded once, as a query value. */
const encoded = (page: string): string =>
  encodeURIComponent(page.toWellFormed()).replace(
    /[!'()*]/g,
    (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`,
  );

export type DeepLink =
  | { readonly ok: true; readonly link: string }
  /** Why there is no such link, and what to do. */
  | { readonly ok: false; readonly message: string };

/**
 * Wraps a page by a network's link format: account, program and page in their places, slots filled as the program
 * remembers or the network says. A sample of the same program is followed byte for byte but for the page.
 */
export const deepLink = (
  page: string,
  network: Network,
  program: Program,
  tag: string,
  sample?: string,
): DeepLink => {
  const { linkFormat, slots } = network;
  const pageName = linkFormat.parameters.find((p) => p.role === 'page')?.name;
  const fillOf = (name: string): string | undefined => {
    const fill = slots.find((slot) => slot.name === name)?.fill ?? '';
    return program.labels?.[name] ?? (fill === '' ? undefined : fill);
  };
  if (pageName === undefined && linkFormat.hosts.includes(hostOf(page))) {
    // The shop is its own network: what credits somebody is added to its pages.
    const pairs = linkFormat.parameters.flatMap(({ name, role }) => {
      const value = role === 'account' ? tag : role === 'slot' ? fillOf(name) : undefined;
      return value === undefined || value === '' ? [] : [`${name}=${value}`];
    });
    const hash = page.indexOf('#');
    const [base, fragment] = hash < 0 ? [page, ''] : [page.slice(0, hash), page.slice(hash)];
    return { ok: true, link: `${base}${base.includes('?') ? '&' : '?'}${pairs.join('&')}${fragment}` };
  }
  if (pageName === undefined)
    return {
      ok: false,
      message: `${network.name} is not known to take a page inside its links. Paste one of its links that has one, so that it can be learnt.`,
    };
  if (sample !== undefined) {
    const pair = splitLink(sample).pairs.find((p) => p.name === pageName);
    if (pair)
      return {
        ok: true,
        link: sample.slice(0, pair.valueAt) + encoded(page) + sample.slice(pair.valueAt + pair.value.length),
      };
  }
  const local = isLocalHost(hostOf(page));
  const host = linkFormat.hosts.find((h) => isLocalHost(h) === local) ?? linkFormat.hosts[0];
  if (host === undefined || linkFormat.path.includes('*'))
    return {
      ok: false,
      message: `Nobody knows yet how a link of ${network.name} begins. Paste one of its links first.`,
    };
  const port = local ? (/:\d+$/.exec(splitLink(page).authority)?.[0] ?? '') : '';
  const pairs = linkFormat.parameters.flatMap(({ name, role }) => {
    const value =
      role === 'account'
        ? tag
        : role === 'program'
          ? program.code
          : role === 'page'
            ? encoded(page)
            : role === 'slot'
              ? fillOf(name)
              : undefined;
    return value === undefined ? [] : [`${name}=${value}`];
  });
  return {
    ok: true,
    link: `${local ? 'http' : 'https'}://${host}${port}${linkFormat.path}?${pairs.join('&')}`,
  };
};

/** True when the last digit is the check digit of the others (GS1 General Specifications §7.9; ISBN-13 has the same). */
const isGtin = (digits: string): boolean => {
  const all = Array.from(digits, Number);
  const sum = all
    .slice(0, -1)
    .toReversed()
    .reduce((total, digit, i) => total + digit * (i % 2 === 0 ? 3 : 1), 0);
  return (10 - (sum % 10)) % 10 === all.at(-1);
};

/**
 * The code of a product in a shop's address: a GTIN with a good check digit, else a parameter or a path segment that
 * names an item.
 */
export const productCode = (page: string): string | undefined => {
  const { path, pairs } = splitLink(page);
  const gtin = (page.match(/(?<!\d)\d{8}(?:\d{4,6})?(?!\d)/g) ?? []).find(
    (digits) => [8, 12, 13, 14].includes(digits.length) && isGtin(digits),
  );
  if (gtin !== undefined) return gtin;
  const named = pairs.find((pair) =>
    /^(?:sku|item(?:_?id)?|product(?:_?id)?|article|art(?:icle)?_?no|pid)$/i.test(pair.name),
  );
  if (named && /^[\w.-]{2,40}$/.test(named.value)) return named.value;
  return /\/(?:p|item|product|artikel|sku)[/-]([A-Za-z0-9][\w-]*\d[\w-]*)/i.exec(path)?.[1];
};
