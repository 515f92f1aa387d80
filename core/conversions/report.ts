import type { ClickPlace, Network, ReportProfile, ReportRole, Status } from '#core/catalogue';
import { addTo, element } from '#core/catalogue';
import {
  currencyIn,
  dateParts,
  inferDateOrder,
  inferDecimal,
  isSpreadsheetDay,
  orderWords,
  readMoment,
} from '#core/values';
import type { Minor } from '#core/values';
import { clickPlace, holdsClicks } from './clickInside.ts';
import { columnsAsBefore } from './earlierAmounts.ts';
import type { RowsOfOrders } from './orderRows.ts';
import { rowsOfOrders } from './orderRows.ts';
import type { ChosenColumn } from './reportColumns.ts';
import { commissionColumn, dateColumn, decimalOf } from './reportColumns.ts';
import { currencyOfHeading, roleNamed } from './reportHeadings.ts';
import { statusKey, statusOf } from './statusWords.ts';

/** A table as a file gave it. */
export interface ReportTable {
  readonly header: readonly string[];
  readonly rows: readonly (readonly string[])[];
  /** Line of each row in the file, from 1. */
  readonly lines: readonly number[];
  /** A workbook whose days count from 1904. */
  readonly since1904?: boolean;
}

/**
 * What a report may leave open: the order of its dates, its decimals, which column is the commission, the date, and the rest;
 * what its words for states mean, what several rows of one order are, whether rows alike letter for letter count each, and
 * from when its days count.
 */
export type ReportQuestion =
  'dates' | 'decimal' | 'amount' | 'at' | 'columns' | 'states' | 'orders' | 'twins' | 'epoch';

/** What each question is about, as the rest of a sentence. */
export const questionWords: Readonly<Record<ReportQuestion, string>> = {
  dates: 'which number of a date is the day',
  decimal: 'what stands before the decimals',
  amount: 'which column is the commission',
  at: 'which column is the day of the sale',
  columns: 'which columns hold the day and what was earned',
  states: 'what its words for states mean',
  orders: 'what several rows of one order are',
  twins: 'whether rows that stand there twice count twice',
  epoch: 'from when its days count',
};

/** What a person answered: the heading of the commission, null where no column holds it, and that of the date. */
export interface ReportChoices {
  readonly amount?: string | null;
  readonly at?: string;
}

/** A word for a state that nobody knows here. */
export interface UnknownState {
  readonly word: string;
  readonly rows: number;
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
  /** Why the dates are read so, as a sentence. */
  readonly because: string;
  readonly kind: 'conversions' | 'clicks';
  /** Words for states that have to be taught, the most frequent first. */
  readonly states: readonly UnknownState[];
  /** How many orders have several rows, and how many rows stand twice. */
  readonly several: Pick<RowsOfOrders, 'orders' | 'twins'>;
}

/** More words than this are no states. */
const mostStates = 12;

/** Role of a column by its name and by what stands in it, and how specific that is: the smaller the rank, the more. */
const roleOf = (
  name: string,
  cells: readonly string[],
): { readonly role: ReportRole; readonly rank: number } | undefined => {
  // What can only be click IDs needs no name.
  if (holdsClicks(cells)) return { role: 'click', rank: -1 };
  const named = roleNamed(name);
  if (!named) return undefined;
  const filled = cells.filter((cell) => cell.trim() !== '');
  // What holds whole dates is no time of day, and no transaction.
  if (filled.filter((cell) => dateParts(cell) !== undefined).length > filled.length / 2) return undefined;
  if (named.role === 'status' && new Set(filled.map(statusKey)).size > mostStates) return undefined;
  return named;
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

/** The column of transactions: the one the network's reports have told, else the one with the most specific heading; -1 for none. */
const placeOfTransactions = (header: readonly string[], before: ReportProfile | undefined): number => {
  const told = header.findIndex((name) => before?.columns[name] === 'txn');
  if (told >= 0) return told;
  const ranks = header.map((name) => {
    const named = roleNamed(name);
    return named?.role === 'txn' ? named.rank : Infinity;
  });
  const best = Math.min(...ranks);
  return Number.isFinite(best) ? ranks.indexOf(best) : -1;
};

/**
 * What was found for the commission, beside what earlier reports have for the same sales: one of several that these have is it, and
 * one that they do not have, while another column has it, leaves it open.
 *
 * @param told place of the column that is the commission by what was learned; -1 for none
 * @param asBefore columns that have what earlier reports have
 */
const confirmed = (
  found: ChosenColumn,
  told: number,
  asBefore: ReadonlySet<number> | undefined,
): ChosenColumn => {
  if (asBefore === undefined || asBefore.size === 0) return found;
  const [only = -1, ...others] = asBefore;
  if (found.candidates.length > 0)
    return others.length > 0
      ? found
      : { column: only, candidates: [], why: new Map([...found.why, [only, 'as earlier reports have it']]) };
  const at = found.column ?? told;
  if (at < 0 || asBefore.has(at)) return found;
  return { ...found, column: undefined, candidates: [at, ...asBefore] };
};

/** The cells of a column, one after another. */
const cellsOf = function* (table: ReportTable, column: number): Generator<string> {
  for (const row of table.rows) yield row[column] ?? '';
};

/** The words for states that nobody knows here, the most frequent first. */
const unknownStates = (
  table: ReportTable,
  column: number | undefined,
  meaning: (word: string) => Status | undefined,
): UnknownState[] => {
  if (column === undefined) return [];
  const times = new Map<string, number>();
  // The same few words stand in every row.
  const cells = new Map<string, number>();
  for (const row of table.rows) addTo(cells, row[column] ?? '');
  for (const [cell, rows] of cells) if (statusKey(cell) !== '') addTo(times, statusKey(cell), rows);
  return [...times]
    .flatMap(([word, rows]) => (meaning(word) === undefined ? [{ word, rows }] : []))
    .toSorted((a, b) => b.rows - a.rows);
};

const ordinals = ['', 'second ', 'third '];
const clickPlaceWords = ({ by, from, at }: ClickPlace): string =>
  at === 0
    ? `the part ${from === 'start' ? 'before the first' : 'after the last'} ${by === ' ' ? 'space' : by}`
    : `the ${ordinals[at] ?? `${at + 1}th `}part between ${by === ' ' ? 'spaces' : by}${from === 'end' ? ', from the end' : ''}`;

/** No report reaches further back. */
const longestMs = 3 * 365 * 86_400_000;
/**
 * Whether days written as numbers count from 1904 (ECMA-376 §18.17.4.1): as earlier reports had it, or as is usual, unless these
 * would lie years off and by the other count would not.
 */
const isSince1904 = (cells: readonly string[], told: boolean | undefined, now: number): boolean | 'open' => {
  const days = cells.filter(isSpreadsheetDay);
  const usual = told ?? false;
  if (days.length === 0 || !Number.isFinite(now)) return usual;
  const isNow = (since1904: boolean) =>
    days.every((cell) => {
      const at = readMoment(cell, '', 'ymd', 'UTC', since1904) ?? 0;
      return at > now - longestMs && at < now + 2 * 86_400_000;
    });
  return !isNow(usual) && isNow(!usual) ? 'open' : usual;
};

/**
 * Reads how a report is to be read: the role of each column, the order of its dates, its decimals. What was learned of
 * the network before is taken where the headings are the same.
 *
 * @param choices what a person answered of it
 * @param now the moment of reading, in milliseconds since 1970 UTC: no report is much older
 * @param earlier what earlier reports of the network say its sales are worth, by transaction
 */
export const guessReport = (
  table: ReportTable,
  network: Pick<Network, 'zone' | 'currency' | 'report' | 'postback'>,
  choices: ReportChoices = {},
  now: number = Infinity,
  earlier: ReadonlyMap<string, Minor> = new Map(),
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
  const txnAt = placeOfTransactions(table.header, before);
  const asBefore =
    choices.amount !== undefined || txnAt < 0
      ? undefined
      : columnsAsBefore(
          table.rows,
          table.header.length,
          txnAt,
          earlier,
          decimalOf(table.header, cells) ?? before?.decimal ?? '.',
          network.currency,
        );
  const toldAt = table.header.findIndex((name) => before?.columns[name] === 'amount');
  const amounts = confirmed(
    chosenOr(choices.amount, table.header, known || told('amount'), () =>
      commissionColumn(table.header, cells),
    ),
    toldAt,
    asBefore,
  );
  const days = chosenOr(choices.at, table.header, known || told('at'), () => dateColumn(table.header, cells));
  const apart = new Set([
    ...amounts.why.keys(),
    ...days.why.keys(),
    ...amounts.candidates,
    ...days.candidates,
  ]);
  const found = table.header.map((name, i) => {
    if (i === amounts.column) return { role: 'amount' as const, rank: -1 };
    if (i === days.column) return { role: 'at' as const, rank: -1 };
    const answered = [choices.amount, choices.at].includes(name);
    const earlier = before?.columns[name];
    const isReplaced =
      (earlier === 'amount' && choices.amount !== undefined) ||
      (earlier === 'at' && choices.at !== undefined);
    // What a person said of this network's reports comes before what anything looks like.
    if (earlier !== undefined && !answered && !isReplaced) return { role: earlier, rank: -2 };
    return apart.has(i) ? undefined : roleOf(name, element(cells[i]));
  });
  for (const [i, name] of table.header.entries()) {
    const own = found[i];
    const better = found.some(
      (other, n) =>
        own && other?.role === own.role && (other.rank < own.rank || (other.rank === own.rank && n < i)),
    );
    const role = own && !better ? own.role : 'nothing';
    if (role !== 'nothing') taken.add(role);
    columns[name] = role;
  }
  const indexOf = (role: ReportRole) => table.header.findIndex((name) => columns[name] === role);
  const kind = taken.has('clicks') && !taken.has('amount') && !taken.has('txn') ? 'clicks' : 'conversions';
  const asks: ReportQuestion[] = [];
  if (kind === 'conversions' && amounts.candidates.length > 0) asks.push('amount');
  if (days.candidates.length > 0) asks.push('at');
  const dateAt = indexOf('at');
  // Every date of the file counts: one proof among a thousand is enough.
  const dates = inferDateOrder(dateAt < 0 ? [] : cellsOf(table, dateAt));
  if (dates.order === undefined && !known && dateAt >= 0) asks.push('dates');
  const currencies = column(indexOf('currency'));
  const decimal =
    indexOf('amount') < 0
      ? decimalOf(table.header, cells)
      : (inferDecimal(
          column(indexOf('amount')),
          (i, cell) =>
            currencies[i]?.trim().toUpperCase() ||
            (currencyIn(cell, network.currency) ??
              currencyOfHeading(element(table.header[indexOf('amount')]), network.currency) ??
              network.currency),
        ) ?? decimalOf(table.header, cells));
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
  const chosen = dates.order ?? before?.dates ?? 'dmy';
  const places = Object.fromEntries(
    Object.values(columns).flatMap((role) => (role === 'nothing' ? [] : [[role, indexOf(role)]])),
  ) as Partial<Record<ReportRole, number>>; // its keys are the roles of columns
  const meaning = (word: string) => statusOf(word, network.postback.statuses);
  const states = unknownStates(table, places.status, meaning);
  const several = rowsOfOrders(table.header, table.rows, places);
  // What this file shows may contradict what earlier ones were: then nobody knows.
  const isContradicted =
    before?.orders !== undefined && several.are !== undefined && several.are !== before.orders;
  const orders = isContradicted ? undefined : (before?.orders ?? several.are);
  if (kind === 'conversions') {
    if (states.length > 0) asks.push('states');
    // What tells items from states is their amounts, so that column is asked about first.
    if (orders === undefined && !several.onlyTwins && !asks.includes('amount')) asks.push('orders');
    if (before?.twins === undefined && several.twins > 0) asks.push('twins');
  }
  const place =
    (places.click === undefined ? undefined : clickPlace(column(places.click))) ?? before?.clickPlace;
  const since1904 = table.since1904 ?? isSince1904(column(dateAt), known ? before.since1904 : undefined, now);
  if (since1904 === 'open') asks.push('epoch');
  return {
    profile: {
      columns,
      dates: chosen,
      decimal: decimal ?? before?.decimal ?? '.',
      zone: before?.zone ?? network.zone,
      ...(orders !== undefined && { orders }),
      ...(before?.twins !== undefined && { twins: before.twins }),
      ...(place !== undefined && { clickPlace: place }),
      ...(since1904 === true && { since1904 }),
    },
    asks,
    candidates: {
      amount: asks.includes('amount') ? amounts.candidates.map((i) => element(table.header[i])) : [],
      at: days.candidates.map((i) => element(table.header[i])),
    },
    why: Object.fromEntries(
      [
        ...amounts.why,
        ...days.why,
        ...(place === undefined || places.click === undefined
          ? []
          : [[places.click, clickPlaceWords(place)] as const]),
      ].map(([i, words]) => [element(table.header[i]), words]),
    ),
    because:
      dateAt < 0
        ? ''
        : dates.mixed
          ? 'The dates contradict each other: some can only be day first, some only month first.'
          : dates.order
            ? `Dates are ${orderWords[dates.order]}: ${dates.proofs} of them can be read in no other way.`
            : known
              ? `Dates are ${orderWords[chosen]}, as in the last report of this network.`
              : 'Every date could be read in two ways.',
    kind,
    states,
    several: { orders: several.orders, twins: several.twins },
  };
};

/** What a network's reports are known to look like after one more was read: a report of clicks forgets no column of the other. */
export const learnProfile = (before: ReportProfile | undefined, read: ReportProfile): ReportProfile => ({
  ...before,
  ...read,
  columns: { ...before?.columns, ...read.columns },
});
