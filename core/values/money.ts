import type { Checked } from '#core/catalogue';
import { addTo } from '#core/catalogue';

/** An amount in minor units (cents, yen, fils); always an integer. */
export type Minor = number;

/** A sum of money in one currency. */
export interface Sum {
  readonly currency: string;
  readonly minor: Minor;
}

/** Adds money up by currency; different currencies are never added. Ordered by currency. */
export const sumByCurrency = (list: Iterable<Sum>): Sum[] => {
  const sums = new Map<string, Minor>();
  for (const { currency, minor } of list) addTo(sums, currency, minor);
  return [...sums]
    .map(([currency, minor]) => ({ currency, minor }))
    .sort((a, b) => (a.currency < b.currency ? -1 : 1));
};

/** Currencies whose number of decimals is not 2 (ISO 4217). */
const decimals: Readonly<Record<string, number>> = {
  ...Object.fromEntries(
    'BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX UYI VND VUV XAF XOF XPF'.split(' ').map((code) => [code, 0]),
  ),
  ...Object.fromEntries('BHD IQD JOD KWD LYD OMR TND'.split(' ').map((code) => [code, 3])),
  CLF: 4,
  UYW: 4,
};

/** How many decimals a currency has (its ISO 4217 exponent): JPY 0, EUR 2, KWD 3. */
export const exponentOf = (currency: string): number => decimals[currency] ?? 2;

const currencies: ReadonlySet<string> = new Set(Intl.supportedValuesOf('currency'));

/** True for the code of a currency there is or was (ISO 4217, as the platform lists them). */
export const knownCurrency = (code: string): boolean => currencies.has(code);

const problem = (message: string): Checked<Minor> => ({ ok: false, problems: [{ path: 'amount', message }] });

/**
 * Reads a plain decimal text (`13.83`, `-4`, `1383.00`) as minor units of a currency, without floating point.
 * Never rounds: more decimals than the currency has are refused unless they are zeros.
 */
export const readAmount = (text: string, currency: string): Checked<Minor> => {
  const match = /^([+-]?)(\d{1,15})(?:\.(\d+))?$/.exec(text.trim());
  if (!match) return problem(`"${text}" is no amount. Expected digits with a decimal point, such as 13.83.`);
  const [, sign, whole = '', fraction = ''] = match;
  const places = exponentOf(currency);
  if (/[1-9]/.test(fraction.slice(places)))
    return problem(`"${text}" has more decimals than ${currency} has (${places}).`);
  const minor = Number(whole + fraction.slice(0, places).padEnd(places, '0'));
  if (!Number.isSafeInteger(minor)) return problem(`"${text}" is too large to be an amount.`);
  return { ok: true, value: sign === '-' && minor !== 0 ? -minor : minor };
};

/** Writes minor units as an exact decimal text: 1383 EUR is `13.83`, 1383 JPY is `1383`. */
export const writeAmount = (minor: Minor, currency: string): string => {
  const places = exponentOf(currency);
  const digits = Math.abs(minor)
    .toString()
    .padStart(places + 1, '0');
  const text = places === 0 ? digits : `${digits.slice(0, -places)}.${digits.slice(-places)}`;
  return minor < 0 ? `-${text}` : text;
};
