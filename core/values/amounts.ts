import type { Minor } from './money.ts';
import { exponentOf } from './money.ts';

const bare = (cell: string): string =>
  cell.replace(/[\p{Sc}\s\u00A0\u202F']/gu, '').replace(/^[A-Za-z]{2,3}|[A-Za-z]{2,3}$/g, '');

/**
 * Which sign stands before the decimals in a column of amounts; undefined where nothing tells.
 *
 * @param currencyAt the currency of a cell, since one without decimals leaves no doubt
 */
export const inferDecimal = (
  cells: readonly string[],
  currencyAt: (index: number, cell: string) => string = () => '',
): '.' | ',' | undefined => {
  const proofs = { '.': 0, ',': 0 };
  /** Cells of a currency with three decimals that have three digits behind a lone sign; and all that have digits. */
  const threes = { '.': 0, ',': 0 };
  let filled = 0;
  for (const [i, cell] of cells.entries()) {
    const text = bare(cell.replace(/[()\-\u2212+]/g, ''));
    if (/\d/.test(text)) filled += 1;
    const point = text.lastIndexOf('.');
    const comma = text.lastIndexOf(',');
    if (point < 0 && comma < 0) continue;
    const sign = point > comma ? '.' : ',';
    const other = sign === '.' ? ',' : '.';
    const decimals = text.length - Math.max(point, comma) - 1;
    const often = text.split(sign).length > 2;
    if (!often && decimals === 3 && exponentOf(currencyAt(i, cell)) === 3) threes[sign] += 1;
    // Three digits after a lone sign may be either; the same sign twice groups; both together settle it, and so does a
    // zero in front, which no thousand begins with, and so do more than three digits.
    if (often || (decimals === 3 && exponentOf(currencyAt(i, cell)) === 0)) proofs[other] += 1;
    else if (decimals === 3 && /^(?:0|\d{4,})[.,]/.test(text)) proofs[sign] += 1;
    else if ((point >= 0 && comma >= 0) || !/^\d{3}\D*$/.test(text.slice(-decimals))) proofs[sign] += 1;
  }
  // Amounts that all have three digits behind a sign are no thousands, where the currency has three decimals.
  if (proofs['.'] === 0 && proofs[','] === 0 && filled > 0)
    return threes['.'] === filled ? '.' : threes[','] === filled ? ',' : undefined;
  if (proofs['.'] === proofs[',']) return undefined;
  return proofs['.'] > proofs[','] ? '.' : ',';
};

/** Currencies a sign stands for, the one it means where nothing else is known first; with the letters in front that part them. */
const signs: Readonly<Record<string, readonly string[]>> = {
  '€': ['EUR'],
  $: [
    'USD',
    'AUD',
    'CAD',
    'NZD',
    'HKD',
    'SGD',
    'TWD',
    'MXN',
    'ARS',
    'CLP',
    'COP',
    'BBD',
    'BSD',
    'JMD',
    'TTD',
  ],
  '£': ['GBP', 'EGP', 'GIP', 'LBP', 'FKP'],
  '¥': ['JPY', 'CNY'],
  '₹': ['INR'],
  '₺': ['TRY'],
  '₩': ['KRW'],
  '₫': ['VND'],
  '₪': ['ILS'],
  '₴': ['UAH'],
  '₦': ['NGN'],
  '฿': ['THB'],
  '₽': ['RUB'],
  '₱': ['PHP'],
};
const letteredSigns: Readonly<Record<string, string>> = {
  US$: 'USD',
  A$: 'AUD',
  AU$: 'AUD',
  C$: 'CAD',
  CA$: 'CAD',
  NZ$: 'NZD',
  HK$: 'HKD',
  S$: 'SGD',
  NT$: 'TWD',
  MX$: 'MXN',
  R$: 'BRL',
  'CN¥': 'CNY',
};

/**
 * The currency a cell or a heading names by sign or code; undefined where it names none that there is.
 *
 * @param usual the currency that is meant by a sign of several, where it is one of them
 */
export const currencyIn = (cell: string, usual = ''): string | undefined => {
  const found = /([A-Z]{0,2})(\p{Sc})/u.exec(cell);
  const [, letters = '', sign = ''] = found ?? [];
  if (Object.hasOwn(letteredSigns, letters + sign)) return letteredSigns[letters + sign];
  const meant = signs[sign];
  if (meant) return meant.includes(usual) ? usual : meant[0];
  const code = /(?:^|[^A-Za-z])([A-Z]{3})(?:$|[^A-Za-z])/.exec(cell)?.[1];
  return code;
};

/** Digits, in groups of three or not; elsewhere than at the end a group may have two, as in India. */
const wholeNumber = {
  '.': /^(?:\d+|[1-9]\d{0,2}(?:[,\s\u00A0\u202F']\d{2,3})*[,\s\u00A0\u202F']\d{3})$/,
  ',': /^(?:\d+|[1-9]\d{0,2}(?:[.\s\u00A0\u202F']\d{2,3})*[.\s\u00A0\u202F']\d{3})$/,
} as const;

/** A number as a file writes it, taken apart: whether a minus stands with it, its digits, and those of its decimals. */
const numberIn = (
  cell: string,
  decimal: '.' | ',',
): { readonly minus: boolean; readonly digits: string; readonly fraction: string } | undefined => {
  const [, before = '', number = '', after = ''] = /^(\D*)(\d.*\d|\d)(\D*)$/s.exec(cell.trim()) ?? [];
  // A sign of decimals with no digit on its other side leaves open what it means.
  if (/[.,]$/.test(before) || /^[.,]./.test(after)) return undefined;
  const brackets = /\(/.test(cell);
  // Brackets around all of the digits mean a minus; around some of them they mean something else.
  if (brackets && !(/\(/.test(before) && /\)/.test(after))) return undefined;
  const minus = brackets || /[-\u2212]/.test(before + after);
  if (/[^\d]/.test(bare(before.replace(/[(\-\u2212+]/g, '') + after.replace(/[)\-\u2212+.,]/g, ''))))
    return undefined;
  const [whole = '', fraction = '', ...more] = number.split(decimal);
  if (more.length > 0 || !wholeNumber[decimal].test(whole) || !/^\d*$/.test(fraction)) return undefined;
  const digits = whole.replace(/\D/g, '');
  return digits.length > 15 ? undefined : { minus, digits, fraction };
};

/**
 * Reads a number of a file as decimal text such as `-1310.045`, with all of its decimals: currency sign or code, grouping, decimal comma or
 * point, a minus in front or behind, or brackets. Undefined when it is none.
 */
export const readDecimal = (cell: string, decimal: '.' | ','): string | undefined => {
  const found = numberIn(cell, decimal);
  if (!found) return undefined;
  const fraction = found.fraction.replace(/0+$/, '');
  const text = found.digits.replace(/^0+(?=\d)/, '') + (fraction === '' ? '' : `.${fraction}`);
  return found.minus && /[1-9]/.test(text) ? `-${text}` : text;
};

/**
 * Reads an amount of a report as minor units: currency sign or code, grouping, decimal comma or point, a minus in front
 * or behind, or brackets. Undefined when it is none, or finer than the currency.
 */
export const readReportAmount = (cell: string, decimal: '.' | ',', currency: string): Minor | undefined => {
  // The plain form, as most reports write it.
  const plain = /^(\d{1,12})(?:([.,])(\d{1,4}))?$/.exec(cell);
  if (plain && (plain[2] === undefined || plain[2] === decimal)) {
    const [, digits = '', , decimals = ''] = plain;
    const places = exponentOf(currency);
    return /[1-9]/.test(decimals.slice(places))
      ? undefined
      : Number(digits + decimals.slice(0, places).padEnd(places, '0'));
  }
  const found = numberIn(cell, decimal);
  if (!found) return undefined;
  const { minus, digits, fraction } = found;
  const places = exponentOf(currency);
  if (/[1-9]/.test(fraction.slice(places))) return undefined;
  const minor = Number(digits + fraction.slice(0, places).padEnd(places, '0'));
  if (!Number.isSafeInteger(minor)) return undefined;
  return minus && minor !== 0 ? -minor : minor;
};
