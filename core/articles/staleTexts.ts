import type { Link, Product } from '#core/catalogue';
import { dayText } from '#core/placing';
import type { Find } from './find.ts';
import type { Group } from './groups.ts';
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

/**
 * Prices and coupons of products beside their links that are no longer so: a price is old where the product was once placed with it
 * and costs something else now.
 */
export const staleTexts = (
  groups: readonly Group[],
  targets: readonly Near[],
  productsOf: ReadonlyMap<string, readonly Product[]>,
  today: string,
): Find[] => {
  if (productsOf.size === 0) return [];
  const finds: Find[] = [];
  const about = targets.flatMap(({ link, block }) => {
    const [product, ...others] = productsOf.get(link.id) ?? [];
    return product && others.length === 0 ? [{ product, block }] : [];
  });
  if (about.length === 0) return [];
  for (const group of groups) {
    const near = about
      .map(({ product, block }) => ({ product, apart: Math.abs(block - group.block) }))
      .filter(({ apart }) => apart <= blocksNear)
      .toSorted((a, b) => a.apart - b.apart);
    // What is as near to another product may be that one's.
    const nearest = new Set(
      near.filter(({ apart }) => apart === near[0]?.apart).map(({ product }) => product),
    );
    const [product] = nearest;
    if (!product || nearest.size > 1) continue;
    const { price, coupon, placed = [] } = product;
    const old = new Set(
      placed.flatMap(({ amount, currency }) =>
        amount === undefined ||
        currency === undefined ||
        (amount === price?.amount && currency === price.currency)
          ? []
          : [`${amountValue(amount, currency)} ${currency}`],
      ),
    );
    const link = product.link;
    for (const found of old.size === 0 ? [] : pricesIn(group.text)) {
      if (!found.currencies.some((currency) => old.has(`${found.value} ${currency}`))) continue;
      const place = runWith(group, found.start, found.end);
      if (!place) continue;
      const at = (index: number) => sourceAt(place.run, index);
      const base = {
        kind: 'price' as const,
        start: at(place.at),
        end: at(place.at + found.written.length),
        link,
        key: `price|${product.id}|${found.written}`,
      };
      const isSame = price !== undefined && found.currencies.includes(price.currency);
      const days = [...group.text.matchAll(dayPattern)];
      const [day] = days;
      const written = day && price && days.length === 1 ? dayAlike(price.day, day[0]) : undefined;
      const dayPlace = day && runWith(group, day.index, day.index + day[0].length);
      const edits: Edit[] =
        !isSame || (days.length > 0 && (written === undefined || !dayPlace))
          ? []
          : [
              {
                start: base.start,
                end: base.end,
                text: writtenAlike(price.amount, price.currency, found.written),
              },
              ...(day && dayPlace && written !== undefined
                ? [
                    {
                      start: sourceAt(dayPlace.run, dayPlace.at),
                      end: sourceAt(dayPlace.run, dayPlace.at + day[0].length),
                      text: written,
                    },
                  ]
                : []),
            ];
      finds.push({
        ...base,
        edits,
        was: price
          ? `${product.name} costs ${amountValue(price.amount, price.currency)} ${price.currency} since ${price.day}.`
          : `${product.name} has no price any more.`,
      });
    }
    for (const { coupon: code } of placed) {
      if (
        code === undefined ||
        (code === coupon?.code && (coupon.until === undefined || coupon.until >= today))
      )
        continue;
      const index = group.text.indexOf(code);
      const place = index < 0 ? undefined : runWith(group, index, index + code.length);
      if (
        !place ||
        finds.some(
          ({ key, start }) =>
            key === `coupon|${product.id}|${code}` && start === sourceAt(place.run, place.at),
        )
      )
        continue;
      finds.push({
        kind: 'coupon',
        start: sourceAt(place.run, place.at),
        end: sourceAt(place.run, place.at + code.length),
        link,
        edits: [],
        was: `The coupon ${code} of ${product.name} has ended.`,
        key: `coupon|${product.id}|${code}`,
      });
    }
  }
  return finds;
};
