/** Currency signs that say one currency (ISO 4217), and those that several have. */
const signs: Readonly<Record<string, readonly string[]>> = {
  '€': ['EUR'],
  '£': ['GBP'],
  $: ['USD', 'CAD', 'AUD', 'NZD', 'SGD', 'HKD', 'MXN'],
  '¥': ['JPY', 'CNY'],
  zł: ['PLN'],
  Kč: ['CZK'],
  Fr: ['CHF'],
  kr: ['SEK', 'NOK', 'DKK', 'ISK'],
};
const sign = String.raw`€|£|\$|¥|zł|Kč|Fr\.?|kr\.?|[A-Z]{3}`;
const number = String.raw`\d{1,3}(?:[.,’'\u00a0\u202f ]\d{3})+(?:[.,]\d{1,2})?|\d+(?:[.,]\d{1,2})?`;
const pattern = new RegExp(
  String.raw`(?<![\p{L}\d.,])(?:(${sign})[\s\u00a0\u202f]?(${number})|(${number})[\s\u00a0\u202f]?(${sign}))(?![\p{L}\d])`,
  'gu',
);

/** A price as it is read in a text. */
export interface ReadPrice {
  /** Where its number stands. */
  readonly start: number;
  readonly end: number;
  /** Its number, as it is written. */
  readonly written: string;
  readonly value: number;
  readonly currencies: readonly string[];
}

/** The value of a number whose last separator with one or two digits behind it is the decimal one (common practice). */
const valueOf = (written: string): number => {
  const decimal = /[.,](\d{1,2})$/.exec(written);
  const whole = (decimal ? written.slice(0, decimal.index) : written).replace(/\D/g, '');
  return Number(`${whole}.${decimal?.[1] ?? '0'}`);
};

/** The prices in a text: a number with the sign or the code of a currency before or behind it. */
export const pricesIn = (text: string): ReadPrice[] =>
  [...text.matchAll(pattern)].flatMap((match) => {
    const [whole, before, behindBefore, aheadAfter, after] = match;
    const written = behindBefore ?? aheadAfter;
    const mark = (before ?? after ?? '').replace('.', '');
    if (written === undefined) return [];
    const start = match.index + (behindBefore === undefined ? 0 : whole.length - written.length);
    return [
      {
        start,
        end: start + written.length,
        written,
        value: valueOf(written),
        currencies: signs[mark] ?? [mark],
      },
    ];
  });

/** Decimals of a currency's minor units (ISO 4217, as `Intl` knows them). */
const decimalsOf = (currency: string): number => {
  try {
    return (
      new Intl.NumberFormat('en', { style: 'currency', currency }).resolvedOptions().maximumFractionDigits ??
      2
    );
  } catch {
    return 2;
  }
};
/** An amount in minor units as a number. */
export const amountValue = (amount: number, currency: string): number => amount / 10 ** decimalsOf(currency);

/** A new price as another one is written: with its separators, and decimals where that has them or this needs them. */
export const writtenAlike = (amount: number, currency: string, like: string): string => {
  const value = amountValue(amount, currency);
  const decimal = /([.,])\d{1,2}$/.exec(like);
  const places = decimal || !Number.isInteger(value) ? decimalsOf(currency) : 0;
  const grouping = /\d([.,’'\u00a0\u202f ])\d{3}/.exec(like)?.[1];
  const mark = decimal?.[1] ?? (grouping === ',' ? '.' : grouping === undefined ? '.' : ',');
  const [whole = '', rest] = value.toFixed(places).split('.');
  const grouped = grouping === undefined ? whole : whole.replace(/\B(?=(?:\d{3})+$)/g, grouping);
  return rest === undefined ? grouped : grouped + mark + rest;
};
