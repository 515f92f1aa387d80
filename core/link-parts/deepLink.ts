import { element, isLocalHost } from '#core/catalogue';
import { getDomain } from 'tldts';
import type { LinkFormat, Network, Program, Role } from '#core/catalogue';
import { campaignParameter } from './campaign.ts';
import { pageInside, writePage } from './pageCoding.ts';
import { isPlace, partAt, partsOf, piecesOf, placeTitle, withParts } from './places.ts';
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
  const stays = (name: string) =>
    keep.includes(name) || !(campaignParameter.test(name) || strip.includes(name));
  const { query, fragment } = splitLink(page);
  const end = page.length - (fragment === undefined ? 0 : fragment.length + 1);
  const pathEnd = query === undefined ? end : page.indexOf('?');
  // Some shops write the session as a parameter of the path (RFC 3986 §3.3): `/basket;jsessionid=1A2B`.
  const inPath = [...page.slice(0, pathEnd).matchAll(/;([^;/=]+)=[^;/]*/g)].flatMap(([raw, name = '']) =>
    campaignParameter.test(name) ? [{ name, raw, stays: stays(name) }] : [],
  );
  const inQuery = (query === undefined ? [] : query.split('&')).map((raw) => {
    const name = element(raw.split('=', 1)[0]);
    return { name, raw, stays: stays(name) };
  });
  const rest = inQuery.filter((part) => part.stays).map(({ raw }) => raw);
  const path = inPath.reduce(
    (text, part) => (part.stays ? text : text.replace(part.raw, '')),
    page.slice(0, pathEnd),
  );
  const kept =
    rest.length === inQuery.length ? page.slice(pathEnd, end) : rest.length > 0 ? `?${rest.join('&')}` : '';
  return { page: path + kept + page.slice(end), parts: [...inPath, ...inQuery] };
};

/** What a deep link lacks, to be asked for. */
export interface Missing {
  /** The part of the link it stands in. */
  readonly part: string;
  readonly role: Role;
}

export type DeepLink =
  | { readonly ok: true; readonly link: string }
  /** Why there is no such link, and what to do. */
  | { readonly ok: false; readonly message: string; readonly missing?: readonly Missing[] };

type Parameter = LinkFormat['parameters'][number];

const missingWords: Readonly<Record<Role, string>> = {
  account: 'your account tag',
  program: 'the program’s code',
  creative: 'the creative for deep links',
  slot: 'what goes into the sub-ID slot',
  page: 'the page',
  other: 'what',
};

/** A page in the coding of a format; undefined where its samples were written by one of several that differ for this page. */
const codedPage = (page: string, { codings }: Parameter): string | undefined => {
  if (codings === undefined) return writePage(page, 'percent');
  const written = new Set(codings.map((coding) => writePage(page, coding)));
  const [only] = written;
  return written.size === 1 ? only : undefined;
};

/** A link to write a deep link after: one of the program's own with a page in it, else the format's sample. */
const baseOf = (pageName: string, { sample }: LinkFormat, own: readonly string[]) => {
  const holds = (link: string) => pageInside(partAt(link, pageName)?.value ?? '') !== undefined;
  const ours = own.findLast(holds);
  if (ours !== undefined) return { base: ours, isOwn: true };
  return sample !== undefined && holds(sample) ? { base: sample, isOwn: false } : undefined;
};

/**
 * Wraps a page by a network's link format as it is now: account, program and page in their places, slots filled as the
 * program remembers or the network says, what else the program's own links carry kept. What is missing is asked for: a link
 * that credits nobody is never made.
 *
 * @param tag the account tag; empty where none is known
 * @param own destinations of the program's links, the newest last
 */
export const deepLink = (
  page: string,
  network: Network,
  program: Program,
  tag: string,
  own: readonly string[] = [],
): DeepLink => {
  const { linkFormat, slots } = network;
  const { parameters } = linkFormat;
  const pagePart = parameters.find((p) => p.role === 'page');
  const fillOf = (name: string): string =>
    program.labels?.[name] ?? slots.find((slot) => slot.name === name)?.fill ?? '';
  const ask = (missing: readonly Missing[]): DeepLink => ({
    ok: false,
    missing,
    message: `A link to this page lacks ${missing
      .map(({ part, role }) => `${missingWords[role]} (${placeTitle(part)})`)
      .join(' and ')}. ${
      missing.some(({ role }) => role === 'account' || role === 'program')
        ? `Give it at ${network.name} first: without it nobody is credited.`
        : `Paste a link of ${program.name} that has it, or say at ${network.name} what it is.`
    }`,
  });
  if (!pagePart && linkFormat.hosts.includes(hostOf(page))) {
    // The shop is its own network: what credits somebody is added to its pages.
    const added = parameters.filter(
      ({ name, role }) => !isPlace(name) && (role === 'account' || role === 'slot'),
    );
    const lacking = added.filter(({ role }) => role === 'account' && tag === '');
    if (lacking.length > 0) return ask(lacking.map(({ name, role }) => ({ part: name, role })));
    const values = added.flatMap(({ name, role }) => {
      const value = role === 'account' ? encodeURIComponent(tag) : fillOf(name);
      return value === '' ? [] : [[name, value] as const];
    });
    return { ok: true, link: withParts(page, Object.fromEntries(values)) };
  }
  if (!pagePart)
    return {
      ok: false,
      message: `${network.name} is not known to take a page inside its links. Paste one of its links that has one, so that it can be learnt.`,
    };
  const coded = codedPage(page, pagePart);
  if (coded === undefined)
    return {
      ok: false,
      message: `The links of ${network.name} seen so far do not tell how it writes this page. Make this one with its own tool and paste it: then it is learnt.`,
    };

  const found = baseOf(pagePart.name, linkFormat, own) ?? freshBase(page, linkFormat, fillOf);
  if (!found)
    return {
      ok: false,
      message: `Nobody knows yet how a link of ${network.name} begins. Paste one of its links first.`,
    };
  const { base, isOwn } = found;
  const ownPages = own.filter((link) => pageInside(partAt(link, pagePart.name)?.value ?? '') !== undefined);
  /** What the program's own links to pages have at a place, where they agree. */
  const ownValue = (name: string): string | undefined => {
    const values = new Set(ownPages.flatMap((link) => partAt(link, name)?.value ?? []));
    return values.size === 1 ? [...values][0] : undefined;
  };
  const missing: Missing[] = [];
  const values: Record<string, string> = {};
  for (const parameter of parameters) {
    const { name, role } = parameter;
    const stands = partAt(base, name)?.value;
    if (stands === undefined && isPlace(name)) continue;
    const value = ((): string | undefined => {
      switch (role) {
        case 'page':
          return coded;
        case 'account':
          return tag === '' ? undefined : encodeURIComponent(tag);
        case 'program':
          return program.code === '' ? undefined : encodeURIComponent(program.code);
        case 'slot': {
          const fill = fillOf(name);
          // A slot among others in path or host cannot be left out.
          return fill === '' && isPlace(name) ? undefined : fill;
        }
        case 'creative':
        case 'other':
          return ownValue(name) ?? parameter.value ?? (isOwn && role === 'creative' ? stands : undefined);
      }
    })();
    if (value !== undefined) {
      if (value !== '' || stands !== undefined) values[name] = value;
    } else if (role === 'other' && (stands === undefined || stands === '')) continue;
    else missing.push({ part: name, role });
  }
  return missing.length > 0 ? ask(missing) : { ok: true, link: withParts(base, values) };
};

/** True where each `*` of a host and a path is a part that has a role, so that it is filled or asked for. */
const starsHaveRoles = (host: string, path: string, parameters: LinkFormat['parameters']): boolean => {
  const whole = parameters.find(({ name }) => /^\/\d+\+$/.test(name));
  const own = whole ? path.replace(/\*\*$/, '') : path;
  if (own.includes('**')) return false;
  const names = new Set(parameters.map(({ name }) => name));
  return partsOf(`https://${host}${own}`)
    .flatMap((part) => (part.value.includes('*') ? (part.value === '*' ? [part] : piecesOf(part)) : []))
    .every(({ name, value }) => !value.includes('*') || (value === '*' && names.has(name)));
};

/** A link from nothing but the format, where that says all of it; slots that stay empty are left out. */
const freshBase = (
  page: string,
  { hosts, path, parameters }: LinkFormat,
  fillOf: (name: string) => string,
): { base: string; isOwn: boolean } | undefined => {
  const local = isLocalHost(hostOf(page));
  const host = hosts.find((h) => isLocalHost(h) === local) ?? hosts[0];
  if (host === undefined || !starsHaveRoles(host, path, parameters)) return undefined;
  const port = local ? (/:\d+$/.exec(splitLink(page).authority)?.[0] ?? '') : '';
  const query = parameters
    .filter(({ name, role, value }) =>
      isPlace(name) || name.includes('#')
        ? false
        : role === 'slot'
          ? fillOf(name) !== ''
          : role !== 'other' || value !== undefined,
    )
    .map(({ name, value = '' }) => `${name}=${value}`);
  return { base: `${local ? 'http' : 'https'}://${host}${port}${path}?${query.join('&')}`, isOwn: false };
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
