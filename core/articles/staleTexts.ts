import type { Link, Product } from '#core/catalogue';
import { dayText } from '#core/placing';
import type { Find } from './find.ts';
import type { Group, InRun } from './groups.ts';
import { runWith } from './groups.ts';
import { amountValue, pricesIn, writtenAlike } from './prices.ts';
import type { Edit } from './ranges.ts';
import { sourceAt } from './ranges.ts';

interface Near {
  readonly link: Link;
  readonly start: number;
  readonly block: number;
}

/** A price belongs to a link that is at most so many blocks away: a card has its price between name and button. */
const blocksNear = 4;

/** A day as it is written, such as `3 Oct 2026`, `Oct 3, 2026`, `3.10.2026`, `2026-10-03`. */
const dayPattern =
  /\b\d{4}-\d{2}-\d{2}\b|\b\d{1,2}[./]\d{1,2}[./]\d{4}\b|\b\d{1,2}\.?(?: de)? \p{Letter}{3,12}\.?(?: de)?,? \d{4}\b|\b\p{Letter}{3,12}\.? \d{1,2}, \d{4}\b/gu;
/** The same day written anew, in the way another is written; undefined where that is not sure. */
const dayAlike = (day: string, like: string): string | undefined => {
  if (/^\d{4}-/.test(like)) return day;
  const [year = '', month = '', date = ''] = day.split('-');
  if (/^\d{1,2}\.\d{1,2}\.\d{4}$/.test(like)) return `${Number(date)}.${Number(month)}.${year}`;
  // Of letters: the languages a card may be written in.
  for (const language of ['en-GB', 'en', 'de', 'fr', 'es', 'it', 'nl', 'pt']) {
    const shape = (text: string) => text.replace(/\d+/g, '1').replace(/\p{Letter}{3,}/gu, 'x');
    const months = Array.from({ length: 12 }, (_, i) =>
      dayText(
        `${like.match(/\d{4}/)?.[0] ?? year}-${String(i + 1).padStart(2, '0')}-${(/\b\d{1,2}\b/.exec(like)?.[0] ?? '1').padStart(2, '0')}`,
        language,
      ),
    );
    if (months.includes(like) && shape(months[0] ?? '') === shape(like)) return dayText(day, language);
  }
  return undefined;
};

/** What an article says of a product beside its link: a price that it has or was placed with once, or a coupon. */
export interface Mention {
  readonly product: Product;
  /** Minor units of the currency. */
  readonly price?: { readonly amount: number; readonly currency: string };
  readonly coupon?: string;
}
interface Found {
  readonly mention: Mention;
  readonly group: Group;
  readonly place: InRun;
  /** As it is written there. */
  readonly written: string;
  /** Currencies that its sign may mean; none of a coupon. */
  readonly currencies: readonly string[];
}

/** Why what is read of a product is no longer so, as a sentence; undefined where it is. */
export const staleBecause = ({ product, price, coupon }: Mention, today: string): string | undefined => {
  const now = product.price;
  if (price) {
    if (now?.amount === price.amount && now.currency === price.currency) return undefined;
    return now
      ? `${product.name} costs ${writtenAlike(now.amount, now.currency, '1')} ${now.currency} since ${now.day}.`
      : `${product.name} has no price any more.`;
  }
  const has = product.coupon;
  if (coupon === undefined || (coupon === has?.code && (has.until === undefined || has.until >= today)))
    return undefined;
  return `The coupon ${coupon} of ${product.name} has ended.`;
};

const foundMentions = (
  groups: readonly Group[],
  targets: readonly Near[],
  productsOf: ReadonlyMap<string, readonly Product[]>,
): Found[] => {
  const about = targets.flatMap(({ link, block }) => {
    const [product, ...others] = productsOf.get(link.id) ?? [];
    return product && others.length === 0 ? [{ product, block }] : [];
  });
  if (about.length === 0) return [];
  return groups.flatMap((group) => {
    const near = about
      .map(({ product, block }) => ({ product, apart: Math.abs(block - group.block) }))
      .filter(({ apart }) => apart <= blocksNear)
      .toSorted((a, b) => a.apart - b.apart);
    // What is as near to another product may be that one's.
    const nearest = new Set(
      near.filter(({ apart }) => apart === near[0]?.apart).map(({ product }) => product),
    );
    const [product] = nearest;
    if (!product || nearest.size > 1) return [];
    const { price, coupon, placed = [] } = product;
    const prices = [...placed, ...(price ? [price] : [])].flatMap(({ amount, currency }) =>
      amount === undefined || currency === undefined ? [] : [{ amount, currency }],
    );
    const ofPrices = (prices.length === 0 ? [] : pricesIn(group.text)).flatMap((read): Found[] => {
      const is = prices.find(
        ({ amount, currency }) =>
          read.currencies.includes(currency) && amountValue(amount, currency) === read.value,
      );
      const place = is && runWith(group, read.start, read.end);
      const { written, currencies } = read;
      return place ? [{ mention: { product, price: is }, group, place, written, currencies }] : [];
    });
    const codes = [...placed.map((each) => each.coupon), coupon?.code];
    const ofCoupons = [...new Set(codes)].flatMap((code): Found[] => {
      const index = code === undefined ? -1 : group.text.indexOf(code);
      const place = code === undefined || index < 0 ? undefined : runWith(group, index, index + code.length);
      return code === undefined || !place
        ? []
        : [{ mention: { product, coupon: code }, group, place, written: code, currencies: [] }];
    });
    return [...ofPrices, ...ofCoupons];
  });
};

/** The price of today in place of an old one, and its day; none where that would not be sure. */
const priceEdits = ({ mention, group, written, currencies }: Found, start: number, end: number): Edit[] => {
  const { price } = mention.product;
  if (!price || !currencies.includes(price.currency)) return [];
  const days = [...group.text.matchAll(dayPattern)];
  const [day] = days;
  const fresh = { start, end, text: writtenAlike(price.amount, price.currency, written) };
  if (!day) return [fresh];
  const alike = days.length === 1 ? dayAlike(price.day, day[0]) : undefined;
  const place = runWith(group, day.index, day.index + day[0].length);
  if (alike === undefined || !place) return [];
  return [
    fresh,
    {
      start: sourceAt(place.run, place.at),
      end: sourceAt(place.run, place.at + day[0].length),
      text: alike,
    },
  ];
};

/**
 * Prices and coupons of products beside their links, and those of them that are no longer so: a price is old where the product was once
 * placed with it and costs something else now.
 */
export const lookAtTexts = (
  groups: readonly Group[],
  targets: readonly Near[],
  productsOf: ReadonlyMap<string, readonly Product[]>,
  today: string,
): { readonly mentions: readonly Mention[]; readonly stale: readonly Find[] } => {
  if (productsOf.size === 0) return { mentions: [], stale: [] };
  const found = foundMentions(groups, targets, productsOf);
  const stale = found.flatMap((each): Find[] => {
    const { mention, place, written } = each;
    const was = staleBecause(mention, today);
    if (was === undefined) return [];
    const { product, price } = mention;
    const start = sourceAt(place.run, place.at);
    const end = sourceAt(place.run, place.at + written.length);
    const kind = price ? ('price' as const) : ('coupon' as const);
    return [
      {
        kind,
        start,
        end,
        link: product.link,
        key: `${kind}|${product.id}|${written}`,
        edits: price ? priceEdits(each, start, end) : [],
        was,
      },
    ];
  });
  return { mentions: found.map(({ mention }) => mention), stale };
};
