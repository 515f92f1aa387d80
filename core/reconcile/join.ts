import { element, isUlidBeginning, Lists, pushTo } from '#core/catalogue';
import type { Conversion, Reported } from '#core/conversions';
import { txnKey } from '#core/conversions';

/** A conversion we heard of and what the network's report says of it, or either alone. */
export type ReportMatch =
  | { readonly ours: Conversion; readonly theirs?: Reported | undefined }
  | { readonly ours?: undefined; readonly theirs: Reported };

const day = 86_400_000;
/** How far apart both sides may date one of several events that recur: much less than a week, the shortest period usual. */
const recurringMs = 3 * day;

const byTime = <T extends { readonly at: number }>(a: T, b: T): number => a.at - b.at;

/** The row nearest in time that is not used yet, near enough to be the same of several. */
const nearest = (
  rows: readonly Reported[],
  at: number,
  used: ReadonlySet<Reported>,
): Reported | undefined => {
  let found: Reported | undefined;
  for (const row of rows) {
    const apart = Math.abs(row.at - at);
    if (!used.has(row) && apart <= recurringMs && apart < Math.abs((found?.at ?? Infinity) - at)) found = row;
  }
  return found;
};

/** Fewest characters by which a click ID that was cut short is known. */
const fewestLetters = 12;

/** A click ID as it is compared: one case, no spaces around it. */
const clickText = (click: string): string => click.trim().toUpperCase();

/** What rows are looked up by: the characters that every cut ID of a click has. */
export const clickKey = (network: string, click: string): string =>
  `${network} ${clickText(click).slice(0, fewestLetters)}`;

/** True for IDs of one click: the same, or one is the other cut short. */
const isSameClick = (a: string, b: string): boolean => {
  const [one, other] = [clickText(a), clickText(b)];
  if (one === other) return true;
  if (Math.min(one.length, other.length) < fewestLetters) return false;
  return isUlidBeginning(one) && (one.startsWith(other) || other.startsWith(one));
};

/** What transactions have, network by network. */
class ByTxn<V extends object> {
  readonly #networks = new Map<string, Lists<string, V>>();

  of(network: string): Lists<string, V> {
    let lists = this.#networks.get(network);
    if (!lists) this.#networks.set(network, (lists = new Lists()));
    return lists;
  }
}

/**
 * Joins postbacks to report rows of the same network: one that only takes back to a row that does; else by transaction and event (of several by the nearest time), by
 * transaction alone where only one row has it (and of several conversions the one of its amount), else by click and
 * amount, else by click and time within a day, where one side at most has a transaction. Each is used once; what is alone stays so. Each conversion looks through
 * the rows of its own transaction or click, so the cost grows with both sides, and with the square of how many rows one
 * click has.
 *
 * @param sameTxn what a transaction of a network is compared by
 */
export const joinReports = (
  conversions: readonly Conversion[],
  reported: Iterable<Reported>,
  sameTxn: (network: string, txn: string) => string = (_, txn) => txnKey(txn),
): ReportMatch[] => {
  const all = [...reported];
  // What takes back is no conversion of its own, and none of ours is it.
  const rows = all.filter(({ refundOf }) => refundOf === undefined);
  const used = new Set<Reported>();
  const txnOf = ({ network, txn }: { readonly network: string; readonly txn: string }) =>
    sameTxn(network, txn);
  const rowsByTxn = new ByTxn<Reported>();
  for (const row of rows) if (row.txn !== '') rowsByTxn.of(row.network).put(txnOf(row), row);

  const pairs: ReportMatch[] = [];
  /** Places of those that are not joined yet. */
  const rest: number[] = [];
  const take = (ours: Conversion, theirs: Reported) => {
    used.add(theirs);
    pairs.push({ ours, theirs });
  };
  const sales = conversions.filter(({ refundOnly }) => !refundOnly);
  const keys = sales.map((one) => (one.txn === '' ? '' : txnOf(one)));
  /** Ours by their transaction: several where an event recurs, or where a sale follows a lead. */
  const salesByTxn = new ByTxn<Conversion>();
  for (const [i, one] of sales.entries())
    if (one.txn !== '') salesByTxn.of(one.network).put(element(keys[i]), one);
  const refunds = all.filter(({ refundOf }) => refundOf !== undefined);
  for (const ours of conversions) {
    if (!ours.refundOnly) continue;
    const theirs = refunds.find(
      (row) =>
        !used.has(row) &&
        row.amount === ours.amount &&
        row.currency === ours.currency &&
        (ours.txn !== '' && row.txn !== ''
          ? row.network === ours.network && txnOf(row) === txnOf(ours)
          : row.network === ours.network && ours.click !== '' && isSameClick(row.click, ours.click)),
    );
    if (theirs) take(ours, theirs);
    else pairs.push({ ours });
  }
  for (const [i, ours] of sales.entries()) {
    const key = element(keys[i]);
    const byTxn = rowsByTxn.of(ours.network);
    const oursByTxn = salesByTxn.of(ours.network);
    let row = ours.txn === '' ? undefined : byTxn.only(key);
    if (row?.event !== ours.event || oursByTxn.only(key) === undefined) {
      const alike = ours.txn === '' ? [] : byTxn.get(key).filter(({ event }) => event === ours.event);
      const [first] = alike;
      const isAlone =
        alike.length === 1 && oursByTxn.get(key).every((o) => o === ours || o.event !== ours.event);
      row = isAlone ? first : nearest(alike, ours.at, used);
    }
    if (row && !used.has(row)) take(ours, row);
    else rest.push(i);
  }
  const later: Conversion[] = [];
  for (const i of rest) {
    const [ours, key] = [element(sales[i]), element(keys[i])];
    const only = ours.txn === '' ? undefined : rowsByTxn.of(ours.network).only(key);
    const sameSum = only?.amount === ours.amount && only.currency === ours.currency;
    if (only && (sameSum || salesByTxn.of(ours.network).only(key) !== undefined) && !used.has(only))
      take(ours, only);
    else later.push(ours);
  }
  /** Rows by their click, oldest first: of those that are left, where anybody is left to ask. */
  const byClick = new Map<string, Reported[]>();
  for (const row of later.length === 0 ? [] : rows)
    if (row.click !== '' && !used.has(row)) pushTo(byClick, clickKey(row.network, row.click), row);
  for (const list of byClick.values()) list.sort(byTime);
  const last: Conversion[] = [];
  const among = (ours: Conversion, fits: (row: Reported) => boolean): Reported | undefined =>
    ours.click === ''
      ? undefined
      : byClick
          .get(clickKey(ours.network, ours.click))
          ?.find(
            (row) =>
              !used.has(row) &&
              (ours.txn === '' || row.txn === '') &&
              row.event === ours.event &&
              isSameClick(row.click, ours.click) &&
              fits(row),
          );
  for (const ours of later) {
    const found = among(ours, (row) => row.amount === ours.amount && row.currency === ours.currency);
    if (found) take(ours, found);
    else last.push(ours);
  }
  for (const ours of last) {
    const found = among(ours, (row) => Math.abs(row.at - ours.at) <= day);
    if (found) take(ours, found);
    else pairs.push({ ours });
  }
  for (const theirs of all) if (!used.has(theirs)) pairs.push({ theirs });
  return pairs;
};
