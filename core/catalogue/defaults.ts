import type { Domain, HopChoices, Link, Marks, Slot } from './records.ts';

/**
 * A new domain's defaults: 307, since it is temporary and keeps the method (RFC 9110 §15.4.8), so nothing
 * is cached behind the counter's back; marked as paid and unendorsed.
 */
export const newDomain = (id: string, host: string, zone: string): Domain => ({
  id,
  host,
  prefix: '',
  zone,
  robots: 'let-in',
  hop: { status: 307, cache: false, hideReferrer: false, pass: 'none' },
  marks: { rel: ['sponsored', 'nofollow'], newTab: true, title: '' },
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

/** Host and path of a link's short address, without scheme: `see.nightledge.example/saturn-kit`. */
export const addressOf = (domain: Domain, slug: string): string => `${domain.host}/${domain.prefix}${slug}`;

/** Every path under which a link answers on its domain, the current one first. */
export const pathsOf = (
  link: { readonly slug: string; readonly aliases: readonly string[] },
  domain: Pick<Domain, 'prefix'>,
): string[] => [link.slug, ...link.aliases].map((slug) => domain.prefix + slug);

/** Gives a link another slug; the one before goes on answering as an alias. */
export const withSlug = (link: Link, slug: string): Link => {
  const next = slug.toLowerCase();
  if (next === link.slug) return link;
  return { ...link, slug: next, aliases: [link.slug, ...link.aliases].filter((alias) => alias !== next) };
};

/** The slot of a network that carries the click ID, if it has one. */
export const clickSlot = (slots: readonly Slot[]): Slot | undefined =>
  slots.find((slot) => slot.fill === '{click}');
