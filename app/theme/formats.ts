import type { Sum } from '#core/values';
import { exponentOf, writeAmount } from '#core/values';

const clockFormat = new Intl.DateTimeFormat(undefined, {
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
  hourCycle: 'h23',
});
const dayFormat = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short' });
const momentFormat = new Intl.DateTimeFormat(undefined, {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
  hourCycle: 'h23',
});
const countFormat = new Intl.NumberFormat();
const moneyFormats = new Map<string, Intl.NumberFormat>();

/** The zone in which the person's browser shows times. */
export const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone;

/** The time of day in the person's zone, `14:02:11`. */
export const clock = (at: number): string => clockFormat.format(at);
/** The same, with the day before it where that is not the day of `now`: `27 Nov, 14:02:11`. */
export const clockOrMoment = (at: number, now: number): string =>
  dayMonth(at) === dayMonth(now) && Math.abs(now - at) < 2 * 86_400_000 ? clock(at) : moment(at);
const dateFormat = new Intl.DateTimeFormat(undefined, {
  day: 'numeric',
  month: 'long',
  year: 'numeric',
  timeZone: 'UTC',
});
/** A day of UTC with its year, from milliseconds since 1970. */
export const dateWords = (at: number): string => dateFormat.format(at);
/** Day and month in the person's zone, `23 Nov`. */
export const dayMonth = (at: number): string => dayFormat.format(at);
/** Day and time in the person's zone. */
export const moment = (at: number): string => momentFormat.format(at);
const localFormat = new Intl.DateTimeFormat(undefined, {
  day: 'numeric',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  hourCycle: 'h23',
  timeZone: 'UTC',
});
/** A time as it was entered, such as `2026-10-24T08:00`, with the zone whose clock it is. */
export const localMoment = (local: string, zone: string): string =>
  `${localFormat.format(Date.parse(`${local}Z`))} (${zone})`;
/** A count with its thousands grouped. */
export const count = (n: number): string => countFormat.format(n);
const units = [
  [86_400_000, 'day'],
  [3_600_000, 'hour'],
  [60_000, 'minute'],
  [1000, 'second'],
] as const;

/** How long something took, in the largest unit of which it is two at least: `40 minutes`. */
export const lasted = (ms: number): string => {
  for (const [length, name] of units)
    if (ms >= 2 * length) return `${count(Math.round(ms / length))} ${name}s`;
  return 'a moment';
};
/** A share of one, `12.5%`. */
export const percent = (share: number): string =>
  share.toLocaleString(undefined, { style: 'percent', maximumFractionDigits: 1 });
const mostInRoom = 999;
/** A number where there is room for three digits: `999+` for more. */
export const shortCount = (n: number): string => (n > mostInRoom ? `${mostInRoom}+` : count(n));

const moneyFormat = (currency: string): Intl.NumberFormat => {
  let format = moneyFormats.get(currency);
  if (!format) {
    const digits = exponentOf(currency);
    format = new Intl.NumberFormat(undefined, {
      style: 'currency',
      currency,
      currencyDisplay: 'narrowSymbol',
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
    });
    moneyFormats.set(currency, format);
  }
  return format;
};

/** Minor units as money, exactly. */
export const money = (minor: number, currency: string): string => {
  const text = writeAmount(minor, currency);
  // Intl formats a decimal text without going through floating point.
  return moneyFormat(currency).format(text as unknown as number); // the type of lib lags behind the standard
};

/** Money as a change, with its sign: `+€5.00`. */
export const signedMoney = (minor: number, currency: string): string =>
  `${minor > 0 ? '+' : minor < 0 ? '\u2212' : ''}${money(Math.abs(minor), currency)}`;

/** Several currencies beside each other, never added. */
export const sums = (list: readonly Sum[]): string =>
  list.map(({ minor, currency }) => money(minor, currency)).join(' + ');

/** Minor units with a fraction, for figures per click. */
export const perClick = (minor: number, currency: string): string =>
  moneyFormat(currency).format(minor / 10 ** exponentOf(currency));

const rangeFormats = new Map<number, Intl.NumberFormat>();
/** From one to another, in minor units with a fraction, without the currency's sign: it stands beside a figure that has it. */
export const rangePerClick = (low: number, high: number, currency: string): string => {
  const digits = exponentOf(currency);
  let format = rangeFormats.get(digits);
  if (!format) {
    format = new Intl.NumberFormat(undefined, {
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
    });
    rangeFormats.set(digits, format);
  }
  return format.formatRange(low / 10 ** digits, high / 10 ** digits);
};
