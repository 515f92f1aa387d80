import type { BadRow, ReportProfile, ReportRole, ReportRow, Status } from '#core/catalogue';
import { element, pushTo, statuses } from '#core/catalogue';
import { dayName } from '#core/hop';
import type { Minor } from '#core/values';
import { speaksOfItem } from './reportHeadings.ts';

/** A good row of a file, before those of one order become one conversion. */
export interface FileRow {
  /** What it says; its key is given once it is known what stands beside it. */
  readonly row: ReportRow;
  readonly line: number;
  readonly cells: readonly string[];
  /** Days since 1970, in the report's zone. */
  readonly day: number;
}

/** Money of rows that are in the same state, as the network's own screen shows it. */
export interface StateSum {
  readonly currency: string;
  /** A row with a negative amount takes back, whatever its state. */
  readonly status: Status | 'refund';
  readonly rows: number;
  /** Null where none of the rows brings an amount: terms price them. */
  readonly minor: Minor | null;
}

/** Adds up the money of rows by currency and state, in the order of both. */
export const sumByState = (rows: Iterable<Pick<ReportRow, 'currency' | 'status' | 'amount'>>): StateSum[] => {
  const sums = new Map<string, StateSum>();
  for (const { currency, status: said, amount } of rows) {
    const status = amount !== null && amount < 0 ? 'refund' : said;
    const key = `${currency} ${status}`;
    const { rows: n, minor } = sums.get(key) ?? { rows: 0, minor: null };
    sums.set(key, { currency, status, rows: n + 1, minor: amount === null ? minor : amount + (minor ?? 0) });
  }
  const order: readonly string[] = [...statuses, 'refund'];
  return [...sums.values()].toSorted(
    (a, b) =>
      (a.currency < b.currency ? -1 : a.currency > b.currency ? 1 : 0) ||
      order.indexOf(a.status) - order.indexOf(b.status),
  );
};

/** True for a cell with an amount below zero. */
const isNegative = (cell: string): boolean => /\([^()]*\d[^()]*\)|[-\u2212]/.test(cell);

/** What the rows of a file say about several rows of one order. */
export interface RowsOfOrders {
  /** Orders with several rows. */
  readonly orders: number;
  /** Rows that stand in the file before, letter for letter. */
  readonly twins: number;
  /** Rows of one order differ in nothing. */
  readonly onlyTwins: boolean;
  /** What the several rows are; undefined where they leave it open. */
  readonly are: ReportProfile['orders'];
}

/**
 * Finds out what several rows of one order are. Items: a column of items differs in each, or rows of the same day and state have
 * other amounts. States of one sale: the amount stays, the day moves on and so does the state.
 *
 * @param columns place of the columns that matter, from 0
 */
export const rowsOfOrders = (
  header: readonly string[],
  rows: readonly (readonly string[])[],
  columns: Partial<Record<ReportRole, number>>,
): RowsOfOrders => {
  const { txn } = columns;
  if (txn === undefined) return { orders: 0, twins: 0, onlyTwins: true, are: undefined };
  const cellOf = (row: readonly string[], role: ReportRole): string => {
    const index = columns[role];
    return index === undefined ? '' : (row[index] ?? '').trim();
  };
  const first = new Map<string, number>();
  /** Places of rows whose transaction stands in others too: nearly every one stands alone. */
  const shared = new Set<number>();
  for (const [i, row] of rows.entries()) {
    const id = cellOf(row, 'txn');
    if (id === '') continue;
    const before = first.get(id);
    if (before === undefined) first.set(id, i);
    else shared.add(before).add(i);
  }
  const groups = new Map<string, (readonly string[])[]>();
  for (const i of shared) {
    const row = element(rows[i]);
    if (isNegative(cellOf(row, 'amount'))) continue;
    const key = JSON.stringify([
      cellOf(row, 'txn'),
      cellOf(row, 'event').toLowerCase(),
      cellOf(row, 'program'),
    ]);
    pushTo(groups, key, row);
  }
  const several = [...groups.values()].filter((group) => group.length > 1);
  let twins = 0;
  const distinct = several.map((group) => {
    const seen = new Map(group.map((row) => [row.join('\n'), row]));
    twins += group.length - seen.size;
    return [...seen.values()];
  });
  const parted = distinct.filter((group) => group.length > 1);
  if (parted.length === 0) return { orders: several.length, twins, onlyTwins: true, are: undefined };

  const byItem = header.some(
    (heading, i) =>
      speaksOfItem(heading) &&
      parted.every((group) => new Set(group.map((row) => row[i]?.trim() ?? '')).size === group.length),
  );
  const when = (row: readonly string[]) => `${cellOf(row, 'at')} ${cellOf(row, 'time')}`;
  /** Two rows of the same day and state have other amounts. */
  const hasAmounts = (group: readonly (readonly string[])[]): boolean => {
    const amounts = new Map<string, string>();
    return group.some((row) => {
      const key = `${when(row)}\n${cellOf(row, 'status')}`;
      const before = amounts.get(key) ?? cellOf(row, 'amount');
      amounts.set(key, before);
      return before !== cellOf(row, 'amount');
    });
  };
  const byAmount = parted.some(hasAmounts);
  const isHistory = (group: readonly (readonly string[])[]) =>
    new Set(group.map((row) => cellOf(row, 'amount'))).size === 1 &&
    new Set(group.map(when)).size === group.length &&
    new Set(group.map((row) => cellOf(row, 'status'))).size === group.length;
  const isStates = parted.length >= 2 && parted.every(isHistory);
  return {
    orders: several.length,
    twins,
    onlyTwins: false,
    are: (byItem || byAmount) === isStates ? undefined : isStates ? 'newest' : 'items',
  };
};

const rank = (status: Status): number => statuses.indexOf(status);

const earliest = (rows: readonly ReportRow[]): number =>
  rows.reduce((first, { at }) => Math.min(first, at), Infinity);

/** Items of one order as one conversion: what was declined lowers it, and it is as far as its last item. */
const addUp = (items: readonly ReportRow[]): ReportRow => {
  const first = element(items[0]);
  const coupon = items.find((item) => item.coupon !== undefined)?.coupon;
  const live = items.filter(({ status }) => status !== 'reversed');
  const counted = live.length > 0 ? live : items;
  const priced = counted.flatMap(({ amount }) => (amount === null ? [] : [amount]));
  return {
    ...first,
    click: items.find(({ click }) => click !== '')?.click ?? '',
    status: counted.reduce<Status>(
      (least, { status }) => (rank(status) < rank(least) ? status : least),
      element(counted[0]).status,
    ),
    amount: priced.length === 0 ? null : priced.reduce((sum, amount) => sum + amount, 0),
    at: earliest(items),
    ...(coupon !== undefined && { coupon }),
  };
};

/** The newest of several states of one sale, at the time of the first. */
const newestOf = (states: readonly ReportRow[]): ReportRow => {
  const newest = states.reduce((best, row) =>
    row.at > best.at || (row.at === best.at && rank(row.status) >= rank(best.status)) ? row : best,
  );
  return { ...newest, at: earliest(states) };
};

/** Gives a row the key by which it is known from now on. */
const keyed = (row: ReportRow, key: string): ReportRow => {
  row.key = key;
  return row;
};

const badRow = ({ line, cells }: FileRow, message: string): BadRow => ({
  line,
  cells,
  problems: [{ path: 'txn', message }],
});

/** What a row is known by, but for how often it occurs. */
const contentOf = ({ row, day }: FileRow, recurs: ReadonlySet<string>): string => {
  const { txn, click, event, at, amount } = row;
  if (txn === '') return `${click}|${event}|${at}|${amount}`;
  if (amount !== null && amount < 0) return `${txn}|${event}|refund|${dayName(day)}|${amount}`;
  return recurs.has(event) ? `${txn}|${event}|${dayName(day)}` : `${txn}|${event}`;
};

/** What became of the rows of a file. */
export interface FoldedRows {
  readonly rows: readonly ReportRow[];
  readonly bad: readonly BadRow[];
  readonly sums: readonly StateSum[];
}

/**
 * Makes one conversion of the rows of one order. A row with a negative amount takes back from its sale and stays one of its own. A
 * row is known by its transaction and event, and by its day where the event recurs; without a transaction by its content and how
 * often it occurs.
 *
 * @param recurs events of which each day is a conversion of its own
 * @param caseMatters transactions that differ by case only are two
 */
export const foldRows = (
  rows: readonly FileRow[],
  { orders, twins }: Pick<ReportProfile, 'orders' | 'twins'>,
  recurs: ReadonlySet<string>,
  caseMatters = false,
): FoldedRows => {
  const found: ReportRow[] = [];
  const bad: BadRow[] = [];
  const counted: ReportRow[] = [];
  const put = (key: string, row: ReportRow, of: readonly ReportRow[] = [row]) => {
    found.push(keyed(row, key));
    for (const one of of) counted.push(one);
  };
  // Nearly every row is alone, so lists are made only for those that are not.
  const groups = new Map<string, FileRow | FileRow[]>();
  for (const file of rows) {
    const content = contentOf(file, recurs);
    const key = caseMatters ? content : content.toLowerCase();
    const before = groups.get(key);
    if (before === undefined) groups.set(key, file);
    else if (Array.isArray(before)) before.push(file);
    else groups.set(key, [before, file]);
  }
  for (const group of groups.values()) {
    const content = contentOf(Array.isArray(group) ? element(group[0]) : group, recurs);
    if (!Array.isArray(group)) {
      put(group.row.txn === '' ? `${content}#1` : content, group.row);
      continue;
    }
    const all = group.map(({ row }) => row);
    const first = element(all[0]);
    const refuse = (why: string) => {
      for (const file of group) bad.push(badRow(file, `${first.txn} stands in the file ${why}.`));
    };
    if (first.txn === '') {
      for (const [i, row] of all.entries()) put(`${content}#${i + 1}`, row);
      continue;
    }
    const other = all.find(
      ({ program, currency }) => program !== first.program || currency !== first.currency,
    );
    if (other) {
      refuse(
        other.program === first.program
          ? `in ${first.currency} and in ${other.currency}`
          : `for ${first.program || 'no program'} and for ${other.program || 'no program'}`,
      );
      continue;
    }
    const seen = new Map<string, ReportRow>();
    for (const { cells, row } of group) if (!seen.has(cells.join('\n'))) seen.set(cells.join('\n'), row);
    if (seen.size < group.length && twins === undefined) {
      refuse('more than once, letter for letter');
      continue;
    }
    const distinct = twins === 'each' ? all : [...seen.values()];
    if (first.amount !== null && first.amount < 0) {
      // Several of the same day and amount are told apart by how many they are.
      for (const [i, row] of distinct.entries()) put(i === 0 ? content : `${content}#${i + 1}`, row);
    } else if (distinct.length === 1) put(content, first);
    else if (orders === 'items' || (twins === 'each' && seen.size === 1))
      put(content, addUp(distinct), distinct);
    else if (orders === 'newest') put(content, newestOf(distinct));
    else refuse('more than once');
  }
  return { rows: found, bad, sums: sumByState(counted) };
};
