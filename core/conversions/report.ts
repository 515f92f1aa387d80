import type {
  BadRow,
  ClickRow,
  Network,
  Problem,
  ReportProfile,
  ReportRole,
  ReportRow,
  Status,
} from '#core/catalogue';
import { isUlid, statuses, element } from '#core/catalogue';
import { calendarDay, dayName } from '#core/hop';
import { knownCurrency } from './money.ts';
import type { ChosenColumn } from './reportColumns.ts';
import { commissionColumn, dateColumn } from './reportColumns.ts';
import {
  currencyIn,
  dateParts,
  inferDateOrder,
  inferDecimal,
  readMoment,
  readReportAmount,
} from './reportCells.ts';

/** A table as a file gave it. */
export interface ReportTable {
  readonly header: readonly string[];
  readonly rows: readonly (readonly string[])[];
  /** Line of each row in the file, from 1. */
  readonly lines: readonly number[];
}

/** What a report may leave open: the order of its dates, its decimals, which column is the commission, the date, and the rest. */
export type ReportQuestion = 'dates' | 'decimal' | 'amount' | 'at' | 'columns';

/** What a person answered: the heading of the commission, null where no column holds it, and that of the date. */
export interface ReportChoices {
  readonly amount?: string | null;
  readonly at?: string;
}

/** How a report would be read, and how sure that is. */
export interface ReportReading {
  readonly profile: ReportProfile;
  /** What has to be asked, because the file leaves it open. */
  readonly asks: readonly ReportQuestion[];
  /** Headings of the columns of which one has to be chosen as commission or date; empty where that is not asked. */
  readonly candidates: { readonly amount: readonly string[]; readonly at: readonly string[] };
  /** Why a column was taken or not, in a few words, by its heading. */
  readonly why: Readonly<Record<string, string>>;
  /** What is not sure, and why the dates are read so, as sentences. */
  readonly because: string;
  readonly kind: 'conversions' | 'clicks';
}

/** Roles told by headings one by one; commission and date are told by all columns together. */
const names: Readonly<Record<Exclude<ReportRole, 'nothing' | 'amount' | 'at'>, RegExp>> = {
  txn: /^(?:.*\b)?(?:transaction|txn|order|sale|lead|conversion|action|reference)(?:\s*(?:id|no|nr|number|#))?$|^id$/i,
  click: /sub.?id|click.?(?:id|ref)|^ref\s?\d?$|^k\d$|^tag$|^note$|^s\d$|tracking/i,
  program: /program|campaign|merchant|advertiser|offer|deal|shop/i,
  event: /^(?:kind|event|goal|type|what|action type)$/i,
  status: /status|state|^result$|^outcome$/i,
  currency: /currency|^cur$/i,
  time: /^time$|^hour$|zeit/i,
  clicks: /^(?:clicks?|visits?|hits?)$/i,
  label: /label|link|source|placement/i,
};
const order: readonly (keyof typeof names)[] = [
  'clicks',
  'currency',
  'time',
  'status',
  'event',
  'click',
  'txn',
  'program',
  'label',
];

const shareOf = (cells: readonly string[], holds: (cell: string) => boolean): number => {
  const filled = cells.filter((cell) => cell.trim() !== '');
  return filled.length === 0 ? 0 : filled.filter(holds).length / filled.length;
};

/** Role of a column by what stands in it; its name comes first. */
const roleOf = (name: string, cells: readonly string[]): ReportRole => {
  const words = name.replace(/[_-]+/g, ' ').trim();
  for (const role of order)
    if (names[role].test(words)) {
      // What holds whole dates is no time of day, and no transaction.
      if (shareOf(cells, (cell) => dateParts(cell) !== undefined) > 0.5) continue;
      return role;
    }
  return shareOf(cells, (cell) => isUlid(cell.trim())) > 0.6 ? 'click' : 'nothing';
};

/** A column that was chosen, that the network's reports have told, or that is found. */
const chosenOr = (
  choice: string | null | undefined,
  header: readonly string[],
  isTold: boolean | undefined,
  find: () => ChosenColumn,
): ChosenColumn => {
  const none: ChosenColumn = { column: undefined, candidates: [], why: new Map() };
  if (choice !== undefined) {
    const { why } = find();
    const column = choice === null ? -1 : header.indexOf(choice);
    return { column: column < 0 ? undefined : column, candidates: [], why };
  }
  return isTold ? none : find();
};

/**
 * Reads how a report is to be read: the role of each column, the order of its dates, its decimals. What was learned of
 * the network before is taken where the headings are the same.
 *
 * @param choices what a person answered of it
 */
export const guessReport = (
  table: ReportTable,
  network: Pick<Network, 'zone' | 'currency' | 'report'>,
  choices: ReportChoices = {},
): ReportReading => {
  // What a column holds shows in a thousand rows from all over the file.
  const every = Math.max(1, Math.floor(table.rows.length / 1000));
  const sample = every === 1 ? table.rows : table.rows.filter((_, i) => i % every === 0);
  const column = (i: number) => sample.map((row) => row[i] ?? '');
  const before = network.report;
  // Of a file with other headings nobody knows that it writes dates and decimals the same way.
  const known = before && table.header.every((name) => Object.hasOwn(before.columns, name));
  const columns: Record<string, ReportRole> = {};
  const taken = new Set<ReportRole>();
  const cells = table.header.map((_, i) => column(i));
  const told = (role: ReportRole) => table.header.some((name) => before?.columns[name] === role);
  // What a person said of this network's reports holds; what never stood in them is told by all columns together.
  const amounts = chosenOr(choices.amount, table.header, known || told('amount'), () =>
    commissionColumn(table.header, cells),
  );
  const days = chosenOr(choices.at, table.header, known || told('at'), () => dateColumn(table.header, cells));
  for (const [i, name] of table.header.entries()) {
    const found =
      i === amounts.column
        ? 'amount'
        : i === days.column
          ? 'at'
          : amounts.why.has(i) || days.why.has(i) || [...amounts.candidates, ...days.candidates].includes(i)
            ? 'nothing'
            : roleOf(name, element(cells[i]));
    const earlier = before?.columns[name];
    const isAnswered =
      [choices.amount, choices.at].includes(name) ||
      (earlier === 'amount' && choices.amount !== undefined) ||
      (earlier === 'at' && choices.at !== undefined);
    let role = isAnswered ? found : (earlier ?? found);
    if (role !== 'nothing' && taken.has(role)) role = 'nothing';
    taken.add(role);
    columns[name] = role;
  }
  const indexOf = (role: ReportRole) => table.header.findIndex((name) => columns[name] === role);
  const kind = taken.has('clicks') && !taken.has('amount') && !taken.has('txn') ? 'clicks' : 'conversions';
  const asks: ReportQuestion[] = [];
  if (kind === 'conversions' && amounts.candidates.length > 0) asks.push('amount');
  if (days.candidates.length > 0) asks.push('at');
  const dateAt = indexOf('at');
  // Every date of the file counts: one proof among a thousand is enough.
  const dates = inferDateOrder(dateAt < 0 ? [] : table.rows.map((row) => row[dateAt] ?? ''));
  if (dates.order === undefined && !known && dateAt >= 0) asks.push('dates');
  const currencies = column(indexOf('currency'));
  const decimal =
    indexOf('amount') < 0
      ? '.'
      : inferDecimal(
          column(indexOf('amount')),
          (i, cell) => currencies[i]?.trim().toUpperCase() || (currencyIn(cell) ?? network.currency),
        );
  if (
    decimal === undefined &&
    !known &&
    column(indexOf('amount')).some((cell) => /\d[.,]\d{3}(?!\d)/.test(cell))
  )
    asks.push('decimal');
  if (
    (!taken.has('at') && days.candidates.length === 0) ||
    (kind === 'conversions' && !taken.has('amount') && !taken.has('txn') && amounts.candidates.length === 0)
  )
    asks.push('columns');
  const how = { ymd: 'year, month, day', dmy: 'day, month, year', mdy: 'month, day, year' };
  const chosen = dates.order ?? before?.dates ?? 'dmy';
  return {
    profile: {
      columns,
      dates: chosen,
      decimal: decimal ?? before?.decimal ?? '.',
      zone: before?.zone ?? network.zone,
    },
    asks,
    candidates: {
      amount: asks.includes('amount') ? amounts.candidates.map((i) => element(table.header[i])) : [],
      at: days.candidates.map((i) => element(table.header[i])),
    },
    why: Object.fromEntries(
      [...amounts.why, ...days.why].map(([i, words]) => [element(table.header[i]), words]),
    ),
    because: [
      asks.includes('amount') ? 'Its headings do not say for sure which column is the commission.' : '',
      asks.includes('at') ? 'Its headings do not say for sure which column is the day of the sale.' : '',
      dateAt < 0
        ? ''
        : dates.mixed
          ? 'The dates contradict each other: some can only be day first, some only month first.'
          : dates.order
            ? `Dates are ${how[dates.order]}: ${dates.proofs} of them can be read in no other way.`
            : known
              ? `Dates are ${how[chosen]}, as in the last report of this network.`
              : 'Every date could be read in two ways. Say which number is the day.',
    ]
      .filter(Boolean)
      .join(' '),
    kind,
  };
};

/** What a network's reports are known to look like after one more was read: a report of clicks forgets no column of the other. */
export const learnProfile = (before: ReportProfile | undefined, read: ReportProfile): ReportProfile => ({
  ...read,
  columns: { ...before?.columns, ...read.columns },
});

export interface ReadReport {
  readonly rows: readonly ReportRow[];
  readonly clicks: readonly ClickRow[];
  readonly bad: readonly BadRow[];
  /** First and last day, in the report's zone; empty texts when no row was good. */
  readonly from: string;
  readonly until: string;
}

const isStatus = (word: string): word is Status => (statuses as readonly string[]).includes(word);
const words: Readonly<Record<string, Status>> = {
  open: 'pending',
  new: 'pending',
  hold: 'pending',
  confirmed: 'approved',
  accepted: 'approved',
  ok: 'approved',
  locked: 'approved',
  settled: 'paid',
  cancelled: 'reversed',
  canceled: 'reversed',
  rejected: 'reversed',
  declined: 'reversed',
  void: 'reversed',
  refunded: 'reversed',
};

/**
 * Reads the rows of a report, one by one: good ones as records, bad ones with their reasons. The order of the rows
 * does not matter. A row is known by its transaction and event, and by its day where the event recurs; without a
 * transaction by its content and how often it occurs.
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
  const rows: ReportRow[] = [];
  const clicks = new Map<string, ClickRow>();
  const bad: BadRow[] = [];
  const occurrences = new Map<string, number>();
  const recurs: ReadonlySet<string> = new Set(network.postback.recurs);
  let first = Infinity;
  let last = -Infinity;
  const countsClicks = at.clicks !== undefined && at.amount === undefined && at.txn === undefined;
  const width = table.header.length;

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
    const moment = readMoment(cell('at'), cell('time'), profile.dates, profile.zone);
    if (moment === undefined)
      problems.push({
        path: 'at',
        message:
          cell('at') === ''
            ? 'It has no date.'
            : `“${`${cell('at')} ${cell('time')}`.trim()}” is no date in the order of the others.`,
      });

    if (countsClicks) {
      const count = Number(cell('clicks').replace(/[.,\s']/g, ''));
      if (cell('clicks') === '' || !Number.isSafeInteger(count) || count < 0)
        problems.push({ path: 'clicks', message: `“${cell('clicks')}” is no number of clicks.` });
      if (problems.length > 0 || moment === undefined) {
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
    const currency = cell('currency').toUpperCase() || (currencyIn(amountCell) ?? network.currency);
    if (!knownCurrency(currency))
      problems.push({ path: 'currency', message: `“${currency}” is no currency of ISO 4217, such as EUR.` });
    let amount: number | null = null;
    if (amountCell !== '') {
      const read = readReportAmount(amountCell, profile.decimal, currency);
      if (read === undefined)
        problems.push({
          path: 'amount',
          message: `“${amountCell}” is no amount of ${currency} with “${profile.decimal}” before the decimals.`,
        });
      else amount = read;
    }
    const word = cell('status').toLowerCase();
    const status =
      (Object.hasOwn(network.postback.statuses, word) ? network.postback.statuses[word] : undefined) ??
      (isStatus(word) ? word : words[word]);
    if (word !== '' && status === undefined)
      problems.push({
        path: 'status',
        message: `“${cell('status')}” is no state this network is known to use.`,
      });
    if (problems.length > 0 || moment === undefined) {
      bad.push({ line: element(table.lines[i]), cells, problems });
      continue;
    }
    const day = calendarDay(profile.zone, moment);
    first = Math.min(first, day);
    last = Math.max(last, day);
    const row = {
      txn: cell('txn').slice(0, 200),
      click: cell('click').slice(0, 200),
      program: cell('program').slice(0, 200),
      event: (cell('event') || 'sale').toLowerCase().slice(0, 80),
      status: status ?? 'pending',
      amount,
      currency,
      at: moment,
    };
    const content =
      row.txn === ''
        ? `${row.click}|${row.event}|${row.at}|${row.amount}`
        : `${row.txn}|${row.event}${recurs.has(row.event) ? `|${dayName(day)}` : ''}`;
    const occurrence = (occurrences.get(content) ?? 0) + 1;
    occurrences.set(content, occurrence);
    if (row.txn !== '' && occurrence > 1) {
      bad.push({
        line: element(table.lines[i]),
        cells,
        problems: [{ path: 'txn', message: `${row.txn} stands in the file more than once.` }],
      });
      continue;
    }
    rows.push({ key: row.txn === '' ? `${content}#${occurrence}` : content, ...row });
  }
  return {
    rows,
    clicks: [...clicks.values()],
    bad,
    from: Number.isFinite(first) ? dayName(first) : '',
    until: Number.isFinite(last) ? dayName(last) : '',
  };
};
