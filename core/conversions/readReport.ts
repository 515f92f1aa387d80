import type {
  BadRow,
  ClickRow,
  Network,
  Problem,
  ReportProfile,
  ReportRole,
  ReportRow,
} from '#core/catalogue';
import { element } from '#core/catalogue';
import { calendarDay, dayName, offsetIn } from '#core/hop';
import { currencyIn, knownCurrency, orderWords, readMoment, readReportAmount } from '#core/values';
import { clickAt } from './clickInside.ts';
import type { FileRow, StateSum } from './orderRows.ts';
import { foldRows } from './orderRows.ts';
import { currencyOfHeading, isInMinorUnits } from './reportHeadings.ts';
import type { ReportTable } from './report.ts';
import { statusOf } from './statusWords.ts';

/** What the rows of a report say. */
export interface ReadReport {
  readonly rows: readonly ReportRow[];
  readonly clicks: readonly ClickRow[];
  readonly bad: readonly BadRow[];
  /** First and last day, in the report's zone; empty texts when no row was good. */
  readonly from: string;
  readonly until: string;
  /** The money of the good rows by currency and state, items and refunds each for itself. */
  readonly sums: readonly StateSum[];
  /** How many rows of the file were good, those of one order each for itself. */
  readonly good: number;
  /** How many rows lie in an hour that came twice, where the order of the rows does not say which it was. */
  readonly twiceHour: number;
}

const hourMs = 3_600_000;

/** The same local time when its hour comes a second time, as clocks are set back; undefined where it comes once. */
const secondTime = (zone: string, at: number): number | undefined => {
  const back = offsetIn(zone, at) - offsetIn(zone, at + hourMs);
  if (back <= 0) return undefined;
  return offsetIn(zone, at + back) < offsetIn(zone, at) ? at + back : undefined;
};

/** True for each day of a zone on which its clocks are set back. */
const daysSetBack = (zone: string): ((day: number) => boolean) => {
  const known = new Map<number, boolean>();
  return (day) => {
    let is = known.get(day);
    // A day of a zone lies within these two of UTC.
    if (is === undefined)
      known.set(
        day,
        (is = offsetIn(zone, (day - 1) * 24 * hourMs) > offsetIn(zone, (day + 2) * 24 * hourMs)),
      );
    return is;
  };
};

/**
 * Tells by the order of rows which of two hours of the same name is meant, and sets it: where the rows are in order of time and a
 * clock goes back among them, what comes after that is the second.
 *
 * @param tells true for a row that says its zone
 * @returns how many rows stay unsure; the first hour is taken for these
 */
const settleTwiceHour = (
  rows: readonly FileRow[],
  zone: string,
  tells: (row: FileRow) => boolean,
): number => {
  const isSetBack = daysSetBack(zone);
  const seconds = new Map<number, number>();
  for (const [i, row] of rows.entries()) {
    if (!isSetBack(row.day)) continue;
    const second = secondTime(zone, row.row.at);
    if (second !== undefined && !tells(row)) seconds.set(i, second);
  }
  if (seconds.size === 0) return 0;
  const others = rows.filter((_, i) => !seconds.has(i)).map(({ row }) => row.at);
  const rises = others.every((moment, i) => i === 0 || element(others[i - 1]) <= moment);
  const falls = others.every((moment, i) => i === 0 || element(others[i - 1]) >= moment);
  if (rises === falls) return seconds.size;
  const places = [...seconds.keys()];
  if (falls) places.reverse();
  let before = -Infinity;
  let isSecond = false;
  for (const i of places) {
    const { row } = element(rows[i]);
    if (!isSecond && row.at < before) isSecond = true;
    before = row.at;
    if (isSecond) row.at = element(seconds.get(i));
  }
  return isSecond ? 0 : seconds.size;
};

/** A count of clicks; undefined where it is none, such as 12.5. */
const readCount = (cell: string): number | undefined => {
  const whole = cell.replace(/[.,]0{1,2}$/, '');
  if (!/^\d+$|^\d{1,3}(?:[.,'\s\u00A0\u202F]\d{3})+$/.test(whole)) return undefined;
  const count = Number(whole.replace(/\D/g, ''));
  return Number.isSafeInteger(count) ? count : undefined;
};

/** Why a cell is no amount. */
const amountProblem = (cell: string, currency: string, decimal: '.' | ','): string =>
  readReportAmount(cell, decimal, 'UYW') !== undefined
    ? `“${cell}” has more decimals than ${currency}.`
    : `“${cell}” is no amount of ${currency} with “${decimal}” before the decimals.`;

/** True for a date cell that tells its zone, or is a moment by itself. */
const tellsZone = (cell: string, time: string): boolean =>
  /(?:\d ?(?:z|utc|gmt)|[+-]\d{2}:?\d{2}| \d{10,})$/i.test(` ${cell} ${time}`.trimEnd());

/**
 * Reads the rows of a report, one by one: good ones as records, bad ones with their reasons. Rows of one order become one
 * conversion as the profile says. The order of the rows matters only in an hour that comes twice.
 *
 * @param onProgress told of every thousandth row; ends the reading when it answers false
 */
export const readReport = (
  table: ReportTable,
  profile: ReportProfile,
  network: Pick<Network, 'currency' | 'postback'>,
  onProgress: (done: number) => boolean = () => true,
): ReadReport => {
  const at: Partial<Record<ReportRole, number>> = {};
  for (const [i, name] of table.header.entries()) {
    const role = profile.columns[name];
    if (role !== undefined && role !== 'nothing') at[role] ??= i;
  }
  const found: FileRow[] = [];
  const clicks = new Map<string, ClickRow>();
  const bad: BadRow[] = [];
  const recurs: ReadonlySet<string> = new Set(network.postback.recurs);
  let first = Infinity;
  let last = -Infinity;
  const countsClicks = at.clicks !== undefined && at.amount === undefined && at.txn === undefined;
  const width = table.header.length;
  const amountHeading = at.amount === undefined ? '' : (table.header[at.amount] ?? '');
  const headingCurrency = currencyOfHeading(amountHeading, network.currency);
  const isMinor = isInMinorUnits(amountHeading);

  for (const [i, cells] of table.rows.entries()) {
    if (i % 1000 === 999 && !onProgress(i + 1)) break;
    const problems: Problem[] = [];
    const cell = (role: ReportRole): string => {
      const index = at[role];
      return index === undefined ? '' : (cells[index] ?? '').trim();
    };
    if (cells.length !== width)
      problems.push({
        path: '',
        message: `It has ${cells.length} cells where the heading has ${width}.`,
      });
    const moment = readMoment(cell('at'), cell('time'), profile.dates, profile.zone, profile.since1904);
    if (moment === undefined)
      problems.push({
        path: 'at',
        message:
          cell('at') === ''
            ? 'It has no date.'
            : `“${`${cell('at')} ${cell('time')}`.trim()}” is no date, read as ${orderWords[profile.dates]}.`,
      });

    if (countsClicks) {
      const count = readCount(cell('clicks'));
      if (count === undefined)
        problems.push({ path: 'clicks', message: `“${cell('clicks')}” is no number of clicks.` });
      if (problems.length > 0 || moment === undefined || count === undefined) {
        bad.push({ line: element(table.lines[i]), cells, problems });
        continue;
      }
      const day = calendarDay(profile.zone, moment);
      first = Math.min(first, day);
      last = Math.max(last, day);
      const label = cell('label') || cell('click') || cell('program');
      const key = `${day} ${label}`;
      const before = clicks.get(key);
      clicks.set(key, { day: dayName(day), label, clicks: (before?.clicks ?? 0) + count });
      continue;
    }

    const amountCell = cell('amount');
    const currency =
      cell('currency').toUpperCase() ||
      (currencyIn(amountCell, network.currency) ?? headingCurrency ?? network.currency);
    if (!knownCurrency(currency))
      problems.push({ path: 'currency', message: `“${currency}” is no currency of ISO 4217, such as EUR.` });
    let amount: number | null = null;
    if (amountCell !== '') {
      // A whole number of cents is one of a currency without decimals.
      const read = readReportAmount(amountCell, profile.decimal, isMinor ? 'JPY' : currency);
      if (read === undefined)
        problems.push({
          path: 'amount',
          message: amountProblem(amountCell, currency, profile.decimal),
        });
      else amount = read;
    }
    const word = cell('status');
    const status = word === '' ? 'pending' : statusOf(word, network.postback.statuses);
    if (status === undefined)
      problems.push({
        path: 'status',
        message: `“${word}” is no state this network is known to use.`,
      });
    if (problems.length > 0 || moment === undefined || status === undefined) {
      bad.push({ line: element(table.lines[i]), cells, problems });
      continue;
    }
    const row: ReportRow = {
      key: '',
      txn: cell('txn').slice(0, 200),
      click: clickAt(cell('click'), profile.clickPlace).slice(0, 200),
      program: cell('program').slice(0, 200),
      event: (cell('event') || 'sale').toLowerCase().slice(0, 80),
      status,
      amount,
      currency,
      at: moment,
      line: element(table.lines[i]),
    };
    const coupon = cell('coupon').slice(0, 80);
    if (coupon !== '') row.coupon = coupon;
    found.push({ row, line: element(table.lines[i]), cells, day: calendarDay(profile.zone, moment) });
  }
  const cellOf = ({ cells }: FileRow, role: ReportRole): string => cells[at[role] ?? -1] ?? '';
  const unsure = settleTwiceHour(found, profile.zone, (row) =>
    tellsZone(cellOf(row, 'at'), cellOf(row, 'time')),
  );
  const folded = foldRows(found, profile, recurs, network.postback.caseMatters);
  for (const { day } of found) {
    first = Math.min(first, day);
    last = Math.max(last, day);
  }
  return {
    rows: folded.rows,
    clicks: [...clicks.values()],
    bad: [...bad, ...folded.bad].toSorted((a, b) => a.line - b.line),
    from: Number.isFinite(first) ? dayName(first) : '',
    until: Number.isFinite(last) ? dayName(last) : '',
    sums: folded.sums,
    good: clicks.size > 0 ? clicks.size : found.length - folded.bad.length,
    twiceHour: unsure,
  };
};
