import type { DateOrder } from '#core/catalogue';
import { foldText } from '#core/catalogue';
import { momentIn } from '#core/hop';

/** A date as three numbers in the order in which they stand, with the time of day and the zone where it has them. */
interface DateParts {
  readonly first: number;
  readonly second: number;
  readonly third: number;
  /** The first has four digits, so it is the year. */
  readonly yearFirst: boolean;
  /** The middle or first is a month's name. */
  readonly named: boolean;
  /** Milliseconds since midnight. */
  readonly time: number;
  readonly hasTime: boolean;
  /** Offset from UTC in milliseconds, where it is told. */
  readonly offset: number | undefined;
}

const datePattern =
  /^(\d{1,4})([./\-\s])\s?(\d{1,2}|\p{Letter}{3,12})\.?\2\s?(\d{2,4})(?:[T,\s]+(.+))?$|^(\p{Letter}{3,12})\.? (\d{1,2}),? (\d{4})(?:[T,\s]+(.+))?$/u;
const timePattern =
  /^(\d{1,2})(?::|h)(\d{2})(?::(\d{2})(?:[.,]\d+)?)?\s*([ap])?\.?(?:m\.?)?\s*(z|utc|gmt|[+-]\d{2}:?\d{2})?$/i;

/** Languages of which months are read by their names. */
const monthLanguages = ['en', 'de', 'fr', 'es', 'it', 'nl', 'pt', 'pl', 'sv', 'da', 'nb', 'fi', 'cs'];
/**
 * Months by their names, long and short, as `Intl` writes them inside a date, and an older short form of German (*common practice*);
 * 0 for a name that two languages use otherwise.
 */
const readMonthNames = (): ReadonlyMap<string, number> => {
  const found = new Map<string, number>([['mrz', 3]]);
  for (const language of monthLanguages)
    for (const month of ['long', 'short'] as const) {
      const format = new Intl.DateTimeFormat(language, { day: 'numeric', month, timeZone: 'UTC' });
      for (let n = 1; n <= 12; n++) {
        const part = format.formatToParts(Date.UTC(2026, n - 1, 15)).find(({ type }) => type === 'month');
        const name = foldText(part?.value ?? '').replace(/\.$/, '');
        if (!/^\p{Letter}{3,}$/u.test(name)) continue;
        found.set(name, (found.get(name) ?? n) === n ? n : 0);
      }
    }
  return found;
};
let monthNames: ReadonlyMap<string, number> | undefined;
const englishMonths =
  'january february march april may june july august september october november december'.split(' ');

/** The month a name in one of several languages stands for; 0 for none. English names may be cut to three letters or more. */
export const monthNumber = (word: string): number => {
  const name = foldText(word);
  const english = englishMonths.findIndex((month) => name.length >= 3 && month.startsWith(name)) + 1;
  if (english > 0) return english;
  // The names of other languages are made only where they are needed.
  monthNames ??= readMonthNames();
  return monthNames.get(name) ?? 0;
};

/** A date with a month's name as the pattern below has it: `1. Oktober 2026`, `3 de octubre de 2026`, `Mon, 12 Oct 2026`. */
const plainNames = (cell: string): string =>
  /\p{Letter}{3}/u.test(cell)
    ? cell
        .replace(/^\p{Letter}{2,10}[.,]*[ \u00A0]+(?=\d{1,2}[. \u00A0]+\p{Letter}{3})/u, '')
        .replace(/(\d)(?:\.|º|er)?[ \u00A0]+(?:de |d['’])?(?=\p{Letter}{3})/iu, '$1 ')
        .replace(/(\p{Letter}{3})\.?[ \u00A0]+de (?=\d)/iu, '$1 ')
    : cell;

/** A date written as a number: seconds or milliseconds since 1970 UTC, or a spreadsheet's days since the end of 1899. */
const numberPattern = /^(?:\d{10}(?:\.\d+)?|\d{13}|[345]\d{4}(?:\.\d+)?)$/;
/** True for a cell that may be such a number; where the heading does not speak of a date it is some other number. */
export const isNumericDate = (cell: string): boolean => numberPattern.test(cell.trim());

/** True for a number that may be a spreadsheet's day. */
export const isSpreadsheetDay = (cell: string): boolean => /^[345]\d{4}(?:\.\d+)?$/.test(cell.trim());

/**
 * The days from which spreadsheets count, by which those since March 1900 are right, and those that count from 1904
 * (ECMA-376 §18.17.4.1).
 */
const [from1900, from1904] = [Date.UTC(1899, 11, 30), Date.UTC(1904, 0, 1)];
const numericMoment = (cell: string, time: string, zone: string, since1904: boolean): number | undefined => {
  const text = cell.trim();
  if (!isSpreadsheetDay(text)) {
    if (time !== '') return undefined;
    return Math.round(Number(text) * (/^\d{13}$/.test(text) ? 1 : 1000));
  }
  const timeOfDay = time === '' ? 0 : readTimeOfDay(time)?.time;
  if (timeOfDay === undefined) return undefined;
  const first = since1904 ? from1904 : from1900;
  // Its clock knows no zone; its fractions of a day are not whole seconds.
  return momentIn(zone, Math.round((first + Number(text) * 86_400_000) / 1000) * 1000 + timeOfDay);
};

/** A time of day in milliseconds since midnight, 12 or 24 hours, with its offset from UTC where it has one. */
const readTimeOfDay = (text: string): { time: number; offset: number | undefined } | undefined => {
  // A spreadsheet keeps a time as a part of a day.
  if (/^0?\.\d+$/.test(text.trim()))
    return { time: Math.round(Number(text) * 86_400) * 1000, offset: undefined };
  const match = timePattern.exec(text.trim());
  if (!match) return undefined;
  const [, h = '', m = '', s = '0', half, zone] = match;
  let hour = Number(h);
  if (half !== undefined) {
    if (hour < 1 || hour > 12) return undefined;
    hour = (hour % 12) + (half.toLowerCase() === 'p' ? 12 : 0);
  }
  if (hour > 23 || Number(m) > 59 || Number(s) > 59) return undefined;
  let offset: number | undefined;
  if (zone !== undefined) {
    const signed = /^([+-])(\d{2}):?(\d{2})$/.exec(zone);
    offset = signed
      ? (signed[1] === '-' ? -1 : 1) * (Number(signed[2]) * 60 + Number(signed[3])) * 60_000
      : 0;
  }
  return { time: (hour * 3600 + Number(m) * 60 + Number(s)) * 1000, offset };
};

/** Days stand in a report again and again, so each is read once. */
const daysRead = new Map<string, DateParts | undefined>();
const mostDays = 20_000;

/** Reads a cell that holds a date, without deciding yet which number is the day. */
export const dateParts = (cell: string, time = ''): DateParts | undefined => {
  // The plain form: a day in ten characters, and perhaps a time behind it.
  const day = cell.slice(0, 10);
  if (!/^[\d./-]{10}(?:$|[ T])/.test(cell.slice(0, 11))) return readDate(cell, time);
  let read = daysRead.get(day);
  if (read === undefined && !daysRead.has(day)) {
    if (daysRead.size >= mostDays) daysRead.clear();
    daysRead.set(day, (read = readDate(day, '')));
  }
  const rest = cell.slice(11);
  if (!read || (rest === '' && time === '')) return read;
  const timeOfDay = readTimeOfDay(rest === '' ? time : time === '' ? rest : `${rest} ${time}`);
  return timeOfDay && { ...read, ...timeOfDay, hasTime: true };
};

const readDate = (cell: string, time: string): DateParts | undefined => {
  const match = datePattern.exec(plainNames(cell.trim()));
  if (!match) return undefined;
  const [, a = '', , b = '', c = '', rest = '', word, day = '', year = '', rest2 = ''] = match;
  const timeOfDay = readTimeOfDay(
    [word === undefined ? rest : rest2, time].filter(Boolean).join(' ') || '0:00',
  );
  if (!timeOfDay) return undefined;
  const more = { ...timeOfDay, hasTime: rest !== '' || rest2 !== '' || time !== '' };
  if (word !== undefined)
    return monthNumber(word) === 0
      ? undefined
      : {
          first: Number(year),
          second: monthNumber(word),
          third: Number(day),
          yearFirst: true,
          named: true,
          ...more,
        };
  const named = /\p{Letter}/u.test(b);
  const second = named ? monthNumber(b) : Number(b);
  if (second === 0) return undefined;
  const yearFirst = a.length === 4;
  if (!yearFirst && a.length > 2) return undefined;
  if (yearFirst ? c.length > 2 : c.length === 3) return undefined;
  return { first: Number(a), second, third: Number(c), yearFirst, named, ...more };
};

/** The order of the numbers of a date, in words. */
export const orderWords: Readonly<Record<DateOrder, string>> = {
  ymd: 'year, month, day',
  dmy: 'day, month, year',
  mdy: 'month, day, year',
};

/** What a column of dates says of the order of its numbers. */
export interface DateReading {
  /** The order; undefined where every date could be read both ways. */
  readonly order: DateOrder | undefined;
  /** How many cells prove it. */
  readonly proofs: number;
  /** The cells contradict each other. */
  readonly mixed: boolean;
}

/** So many cells that can be read in one way only leave no doubt; a row that says otherwise is then a bad one. */
const enoughProofs = 1000;

/** Infers the order of day, month and year from a whole column. */
export const inferDateOrder = (cells: Iterable<string>): DateReading => {
  const proofs = { ymd: 0, dmy: 0, mdy: 0 };
  for (const cell of cells) {
    if (proofs.ymd + proofs.dmy + proofs.mdy >= enoughProofs) break;
    const parts = dateParts(cell);
    if (!parts) {
      if (isNumericDate(cell)) proofs.ymd += 1;
      continue;
    }
    if (parts.yearFirst) proofs.ymd += 1;
    else if (parts.named || parts.first > 12) proofs.dmy += 1;
    else if (parts.second > 12) proofs.mdy += 1;
  }
  const orders = (['ymd', 'dmy', 'mdy'] as const).filter((order) => proofs[order] > 0);
  const [order] = orders;
  return orders.length === 1 && order
    ? { order, proofs: proofs[order], mixed: false }
    : { order: undefined, proofs: 0, mixed: orders.length > 1 };
};

/** Midnight of a date by a clock without a zone; undefined for a day that there is not. */
const midnightOf = (parts: DateParts, order: DateOrder): number | undefined => {
  const { first, second, third } = parts;
  const [year, month, day] =
    parts.yearFirst || order === 'ymd'
      ? [first, second, third]
      : order === 'dmy' || parts.named
        ? [third, second, first]
        : [third, first, second];
  const full = year < 100 ? 2000 + year : year;
  const midnight = Date.UTC(full, month - 1, day);
  const back = new Date(midnight);
  // A 31st of June would otherwise become a first of July.
  if (back.getUTCMonth() !== month - 1 || back.getUTCDate() !== day) return undefined;
  return midnight;
};

/** Midnights of plain days by their order: they stand in a report again and again. */
const midnights: Readonly<Record<DateOrder, Map<string, number | undefined>>> = {
  ymd: new Map(),
  dmy: new Map(),
  mdy: new Map(),
};

/** Two digits of a text as a number; not a number where they are none. */
const twoDigits = (text: string, at: number): number => {
  const [tens, ones] = [text.charCodeAt(at) - 48, text.charCodeAt(at + 1) - 48];
  return tens >= 0 && tens <= 9 && ones >= 0 && ones <= 9 ? tens * 10 + ones : NaN;
};

/** The plain form, as most reports write it: a day in ten characters, and perhaps `21:22` or `21:22:40` behind it. */
const plainMoment = (cell: string, order: DateOrder): number | undefined => {
  const { length } = cell;
  if (length !== 10 && length !== 16 && length !== 19) return undefined;
  let time = 0;
  if (length > 10) {
    if (cell[13] !== ':' || (length === 19 && cell[16] !== ':') || (cell[10] !== ' ' && cell[10] !== 'T'))
      return undefined;
    const [hours, minutes] = [twoDigits(cell, 11), twoDigits(cell, 14)];
    const seconds = length === 19 ? twoDigits(cell, 17) : 0;
    if (!(hours < 24 && minutes < 60 && seconds < 60)) return undefined;
    time = ((hours * 60 + minutes) * 60 + seconds) * 1000;
  }
  const day = length === 10 ? cell : cell.slice(0, 10);
  const known = midnights[order];
  let midnight = known.get(day);
  if (midnight === undefined && !known.has(day)) {
    if (known.size >= mostDays) known.clear();
    const parts = dateParts(day);
    known.set(day, (midnight = parts && !parts.hasTime ? midnightOf(parts, order) : undefined));
  }
  return midnight === undefined ? undefined : midnight + time;
};

/**
 * The moment a date cell means, in milliseconds since 1970 UTC; undefined when it is no date in that order.
 *
 * @param time a cell of its own with the time of day, or empty
 * @param zone IANA name of the zone the report is in, unless the cell tells its own
 * @param since1904 days written as numbers count from 1904
 */
export const readMoment = (
  cell: string,
  time: string,
  order: DateOrder,
  zone: string,
  since1904 = false,
): number | undefined => {
  const plain = time === '' ? plainMoment(cell, order) : undefined;
  if (plain !== undefined) return momentIn(zone, plain);
  const parts = dateParts(cell, time);
  if (!parts) return isNumericDate(cell) ? numericMoment(cell, time, zone, since1904) : undefined;
  const midnight = midnightOf(parts, order);
  if (midnight === undefined) return undefined;
  const local = midnight + parts.time;
  return parts.offset === undefined ? momentIn(zone, local) : local - parts.offset;
};
