import type { Link, Product } from '#core/catalogue';
import { fillSlots, readAddress, readLink } from '#core/link-parts';
import type { FeedProduct } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import type { Change } from '../links/makeLink.ts';
import { newLinkRecords, pageLink } from '../links/makeLink.ts';
import { takenPaths } from '../links/taken.ts';

/** The short link to a page: one there is, one to be made with what it needs, or why there can be none. */
export type LinkForPage =
  | { readonly link: Link; readonly changes: readonly Change[] }
  | { readonly link?: undefined; readonly why: string };

/**
 * Finds or makes the short link to a product's page. The tracking link behind it carries the account tag of whoever writes here,
 * where one is registered under their name.
 */
export const linkForPage = (
  page: string,
  facts: { readonly title: string; readonly picture?: string },
): LinkForPage => {
  const catalogue = useCatalogue();
  const { accounts, domains, links, networks } = catalogue;
  const [domain] = domains;
  if (!domain) return { why: 'There is no domain for short links yet. Add one in Setup.' };
  if (page === '') return { why: 'Its page is not known. Give it, and a link can be made.' };
  const programs = catalogue.programs.map((program) => {
    const own = accounts.find(({ network, owner }) => network === program.network && owner === catalogue.by);
    return own ? { ...program, tag: own.tag } : program;
  });
  const read = readAddress(page, { accounts, domains, links, networks, programs });
  if (read.kind === 'not joined')
    return {
      why: `${read.programs[0]?.name ?? 'This program'} is not joined, so a link would earn nothing.`,
    };
  if (read.kind === 'address')
    return { why: 'No joined program takes this page, so a link would earn nothing.' };
  const make = (linkParts: Parameters<typeof newLinkRecords>[0]['linkParts']) =>
    newLinkRecords({ linkParts, ...facts }, domain, takenPaths(links, domain));
  if (read.kind === 'page') {
    const choice = read.choices.find(({ made }) => made.ok) ?? read.choices[0];
    const linkParts = choice && pageLink(choice);
    if (!linkParts)
      return {
        why: choice && !choice.made.ok ? choice.made.message : 'No link can be made to this page.',
      };
    const known = links.find(
      (link) =>
        link.program === choice.program.id &&
        !link.archived &&
        readLink(link.destination, networks, programs).page === choice.stripped.page,
    );
    return known ? { link: known, changes: [] } : make(linkParts);
  }
  const destination = fillSlots(read.linkParts);
  const known = links.find((link) => link.destination === destination && !link.archived);
  return known ? { link: known, changes: [] } : make(read.linkParts);
};

/** What a feed says of a product now, on the record of it; what the person wrote stays. */
export const withFeed = (product: Product, feed: FeedProduct, day: string): Product => {
  const { price: _, coupon: __, ...rest } = product;
  const { price, coupon } = feed;
  return {
    ...rest,
    ...(price ? { price: { ...price, day: feed.day ?? day } } : product.price && { price: product.price }),
    // A feed that has no column of coupons says nothing of them.
    ...(coupon ? { coupon } : product.coupon && { coupon: product.coupon }),
  };
};

/**
 * The records of a product that is picked from a feed: itself, and the short link to it where there is none.
 *
 * @param day on which its price was found, where the feed does not tell
 */
export const productRecords = (
  feed: FeedProduct,
  program: string,
  day: string,
): { readonly product: Product; readonly changes: readonly Change[]; readonly why: string } => {
  const found = linkForPage(feed.page, {
    title: feed.name,
    ...(feed.picture !== '' && { picture: feed.picture }),
  });
  const bare: Product = {
    id: newId('pro'),
    ...(program !== '' && { program }),
    name: feed.name,
    code: feed.code || feed.secondCode,
    page: feed.page,
    ...(feed.picture !== '' && { picture: feed.picture }),
    ...(feed.about !== '' && { about: feed.about }),
    ...(found.link && { link: found.link.id }),
    createdAt: Date.now(),
  };
  const product = withFeed(bare, feed, day);
  return {
    product,
    changes: [...(found.link ? found.changes : []), { kind: 'product', value: product }],
    why: found.link ? '' : found.why,
  };
};
