import { decodeHTMLStrict } from 'entities';
import { dayName, calendarDay } from '#core/hop';
import { currencyIn, knownCurrency, readMoment, readReportAmount } from '#core/values';
import type { FeedReading, FeedRole } from './feedColumns.ts';

/** A product as a shop's feed says it is. */
export interface FeedProduct {
  readonly name: string;
  readonly code: string;
  /** A number that others know it by too, such as an EAN. */
  readonly secondCode: string;
  /** Its page at the shop; where the feed has none, the tracking link it gives. */
  readonly page: string;
  readonly picture: string;
  readonly about: string;
  /** In minor units; left out where the feed has none that can be read. */
  readonly price?: { readonly amount: number; readonly currency: string; readonly list?: number };
  /** The day on which the price was found, where the feed tells. */
  readonly day?: string;
  readonly coupon?: { readonly code: string; readonly until?: string };
}

/** A row as a product; `doubt` says what of it could not be read and was left out. Or why it is none. */
export type ReadFeedProduct =
  | { readonly ok: true; readonly product: FeedProduct; readonly doubt: string }
  | { readonly ok: false; readonly why: string };

/** Letters that are written as on a page, such as `&amp;`; feeds are often made from pages (*common practice*). */
const withoutEntities = (text: string): string => (text.includes('&') ? decodeHTMLStrict(text) : text);
/** A text of a page as words: without tags, on one line. */
const plainWords = (text: string): string =>
  // Most texts are words already.
  !/[<&]|\s\s|[^\S ]|^ | $/.test(text)
    ? text
    : withoutEntities(text.includes('<') ? text.replace(/<[^<>]*>/g, ' ') : text)
        .replace(/\s+/g, ' ')
        .trim();
/** The beginning of a text, cut between two words. */
const cut = (text: string, most: number): string =>
  text.length <= most ? text : `${text.slice(0, most).replace(/\s+\S*$/, '')}…`;

const longestAbout = 500;

/**
 * Makes a reader of a feed's rows.
 *
 * @param zone in which its dates are meant where they tell none
 */
export const makeProductReader = (
  header: readonly string[],
  { roles, decimal, dates, currency: usual }: FeedReading,
  zone: string,
): ((cells: readonly string[]) => ReadFeedProduct) => {
  const at: Partial<Record<FeedRole, number>> = {};
  for (const [i, heading] of header.entries()) at[roles[heading] ?? 'nothing'] ??= i;
  const dayOf = (cell: string): string | undefined => {
    const moment = cell === '' ? undefined : readMoment(cell, '', dates, zone);
    return moment === undefined ? undefined : dayName(calendarDay(zone, moment));
  };
  return (cells) => {
    const cell = (role: FeedRole): string => {
      const index = at[role];
      return index === undefined ? '' : (cells[index] ?? '').trim();
    };
    const name = cut(plainWords(cell('name')), 290);
    if (name === '') return { ok: false, why: 'It has no name.' };
    const address = withoutEntities(cell('page') || cell('tracking link')).replace(/^\/\//, 'https://');
    if (!/^https?:\/\/[^\s"'<>]+$/i.test(address) || !URL.canParse(address))
      return { ok: false, why: address === '' ? 'It has no page.' : `“${cut(address, 80)}” is no address.` };
    const doubts: string[] = [];
    const said = cell('currency').toUpperCase();
    /** An amount with its currency; undefined where there is none to be read. */
    const amountIn = (text: string) => {
      if (text === '') return undefined;
      const currency = said || (currencyIn(text, usual) ?? usual);
      const amount = knownCurrency(currency) ? readReportAmount(text, decimal, currency) : undefined;
      if (amount === undefined || amount < 0) {
        doubts.push(`“${cut(text, 40)}” is no price of ${currency}`);
        return undefined;
      }
      return { amount, currency };
    };
    const [sale, usualPrice, list] = [
      amountIn(cell('sale price')),
      amountIn(cell('price')),
      amountIn(cell('list price')),
    ];
    // Where only one is given it is what has to be paid.
    const price = sale ?? usualPrice ?? list;
    const higher = [list, usualPrice].find(
      (other) => price && other && other.currency === price.currency && other.amount > price.amount,
    );
    const until = dayOf(cell('coupon end'));
    if (cell('coupon end') !== '' && until === undefined)
      doubts.push(`“${cut(cell('coupon end'), 40)}” is no day on which a coupon ends`);
    const picture = withoutEntities(cell('picture')).replace(/^\/\//, 'https://');
    const day = dayOf(cell('changed'));
    const code = cell('coupon').slice(0, 80);
    return {
      ok: true,
      product: {
        name,
        code: cell('code').slice(0, 120),
        secondCode: cell('second code').slice(0, 120),
        page: address,
        picture: /^https?:\/\/[^\s"'<>]+$/i.test(picture) && URL.canParse(picture) ? picture : '',
        about: cut(plainWords(cell('about').slice(0, 4000)), longestAbout),
        ...(price && { price: { ...price, ...(higher && { list: higher.amount }) } }),
        ...(day !== undefined && { day }),
        ...(code !== '' && { coupon: { code, ...(until !== undefined && { until }) } }),
      },
      doubt: doubts.join('; '),
    };
  };
};
