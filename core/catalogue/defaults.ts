import type { HopChoices, Marks } from './hopChoices.ts';
import type { Slot } from './network.ts';
import type { Domain, Link } from './records.ts';

/** 307 without a page: temporary, keeps the method, hides nothing from the counter. */
const newHop: HopChoices = {
  status: 307,
  cache: false,
  hideReferrer: false,
  pass: 'none',
  page: 'none',
  twice: false,
  wait: { seconds: 0, text: '', button: '', progress: true },
  frameTitle: '',
  scripts: [],
  robots: 'noindex, nofollow',
};

/**
 * A new domain's defaults: 307, since it is temporary and keeps the method (RFC 9110 §15.4.8), so nothing
 * is cached behind the counter's back; marked as paid and unendorsed.
 */
export const newDomain = (id: string, host: string, zone: string): Domain => ({
  id,
  host,
  prefix: '',
  earlierPrefixes: [],
  groups: false,
  zone,
  robots: 'let-in',
  hop: newHop,
  marks: { rel: ['sponsored', 'nofollow'], newTab: true, title: '' },
  cookieDays: 0,
  mail: true,
  social: true,
});

/** What is set in `own`, over `base`. */
const over = <T extends object>(base: T, own: { readonly [K in keyof T]?: T[K] | undefined }): T => {
  const result = { ...base };
  for (const key in base) {
    const value = own[key];
    if (value !== undefined) result[key] = value;
  }
  return result;
};

/** How a link hops: its own choices over its domain's defaults. */
export const hopOf = (link: Pick<Link, 'hop'>, domain: Pick<Domain, 'hop'>): HopChoices =>
  over(domain.hop, link.hop);

/** The marks a placed link carries: its own over its domain's defaults. */
export const marksOf = (link: Pick<Link, 'marks'>, domain: Pick<Domain, 'marks'>): Marks =>
  over(domain.marks, link.marks);

type Placed = Pick<Link, 'slug'> & { readonly group?: string };

/** What stands after the prefix: the slug, with its group before it where the domain shows groups. */
const placeOf = ({ slug, group }: Placed, domain: Pick<Domain, 'groups'>): string =>
  domain.groups && group !== undefined && group !== '' ? `${group}/${slug}` : slug;

/** Host and path of a link's short address, without scheme: `see.nightledge.example/saturn-kit`. */
export const addressOf = (domain: Domain, link: Placed): string =>
  `${domain.host}/${domain.prefix}${placeOf(link, domain)}`;

/**
 * Every path under which a link answers on its domain, the current one first: with and without its group, at its
 * older addresses, and at each prefix the domain ever had.
 */
export const pathsOf = (
  link: Placed & { readonly aliases: readonly string[] },
  domain: Pick<Domain, 'prefix' | 'groups' | 'earlierPrefixes'>,
): string[] => {
  const { slug, group, aliases } = link;
  const places = [placeOf(link, domain), slug, ...(group ? [`${group}/${slug}`] : []), ...aliases];
  const paths = [domain.prefix, ...domain.earlierPrefixes].flatMap((prefix) =>
    places.map((place) => prefix + place),
  );
  return [...new Set(paths)];
};

/** Gives a link another slug or group; every address it had goes on answering as an alias. */
export const withAddress = (link: Link, slug: string, group = link.group ?? ''): Link => {
  const next = slug.toLowerCase();
  const before = link.group ?? '';
  if (next === link.slug && group === before) return link;
  const old = [link.slug, ...(before === '' ? [] : [`${before}/${link.slug}`])];
  const current = new Set([next, ...(group === '' ? [] : [`${group}/${next}`])]);
  const aliases = [...new Set([...old, ...link.aliases])].filter((alias) => !current.has(alias));
  const { group: _, ...rest } = link;
  return { ...rest, slug: next, aliases, ...(group === '' ? {} : { group }) };
};

/** The slot of a network that carries the click ID, if it has one. */
export const clickSlot = (slots: readonly Slot[]): Slot | undefined =>
  slots.find((slot) => slot.fill === '{click}');

/** Gives a domain another prefix; what was placed with the one before goes on answering. */
export const withPrefix = (domain: Domain, prefix: string): Domain =>
  prefix === domain.prefix
    ? domain
    : {
        ...domain,
        prefix,
        earlierPrefixes: [...new Set([domain.prefix, ...domain.earlierPrefixes])].filter(
          (old) => old !== prefix,
        ),
      };
