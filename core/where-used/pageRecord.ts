import type { Page } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import type { LookedAt } from '#core/articles';
import { addressKey } from '#core/link-parts';

/** Most addresses, most letters of all of them, and most words of products that are kept of one page. */
const [mostLinks, mostLetters, mostSaid] = [2000, 400_000, 500];

/** What is read as a page: a page of a site by its address, or a file by its name. */
export interface ReadAs {
  readonly name: string;
  readonly by: Page['by'];
  readonly title: string;
  /** When it was read, in milliseconds since 1970 UTC. */
  readonly readAt: number;
}

/** ID of the record of a page or file: whoever reads it gives it the same. */
export const pageId = ({ name }: Pick<ReadAs, 'name'>): string => sameId('pge', addressKey(name) || name);

/** The record of an article that was looked at, with what of ours stands on it. */
export const pageRecord = (
  { name, by, title, readAt }: ReadAs,
  { standing, mentions }: Pick<LookedAt, 'standing' | 'mentions'>,
): Page => {
  const links = new Map<string, Page['links'][number]>();
  for (const { address, link, marks } of standing) {
    const known = links.get(address);
    const lacks = known?.marks ?? marks.slice(0, 500);
    links.set(address, {
      address,
      ...(link !== undefined && { link }),
      times: (known?.times ?? 0) + 1,
      ...(lacks !== '' && { marks: lacks }),
    });
  }
  const says = new Map<string, NonNullable<Page['says']>[number]>();
  for (const { product, price, coupon } of mentions) {
    const said = { product: product.id, ...price, ...(coupon !== undefined && { coupon }) };
    says.set(JSON.stringify(said), said);
  }
  let letters = 0;
  const kept = [...links.values()]
    .slice(0, mostLinks)
    .filter(({ address, marks = '' }) => (letters += address.length + marks.length) <= mostLetters);
  return {
    id: pageId({ name }),
    name,
    title: title.slice(0, 300),
    by,
    readAt,
    links: kept,
    ...(kept.length < links.size && { more: links.size - kept.length }),
    ...(says.size > 0 && { says: [...says.values()].slice(0, mostSaid) }),
  };
};

/** Milliseconds after which a page is said to have been read again, though nothing on it changed. */
const freshMs = 86_400_000;

/** True where a page that was read again is to be kept: something on it changed, or it was read before today. */
export const isNews = (now: Page, before: Page | undefined): boolean => {
  if (!before) return now.links.length > 0;
  const facts = ({ title, links, says, more }: Page) => JSON.stringify([title, links, says, more]);
  return facts(now) !== facts(before) || now.readAt - before.readAt > freshMs;
};
