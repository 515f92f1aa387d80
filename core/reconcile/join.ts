import { addTo, pushTo } from '#core/catalogue';
import type { Conversion, Reported } from '#core/conversions';

/** A conversion we heard of and what the network's report says of it, or either alone. */
export type ReportMatch =
  | { readonly ours: Conversion; readonly theirs?: Reported | undefined }
  | { readonly ours?: undefined; readonly theirs: Reported };

const day = 86_400_000;
/** How far apart both sides may date one of several events that recur: much less than a week, the shortest period usual. */
const recurringMs = 3 * day;

const byTime = <T extends { readonly at: number }>(a: T, b: T): number => a.at - b.at;

/** One key of several texts; none of them holds a line break. */
const keyOf = (...texts: readonly string[]): string => texts.join('\n');

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

/** Characters of a click ID by which a postback and a report row are known for the same click. */
const keyLetters = 20;
/**
 * What a click ID is compared by, in one case. A network that keeps fewer characters on one side than on the other is not
 * joined by click.
 */
const clickKey = (click: string): string => click.trim().toUpperCase().slice(0, keyLetters);

/**
 * Joins postbacks to report rows of the same network: by transaction and event (of several by the nearest time), by
 * transaction alone where only one row has it (and of several conversions the one of its amount), else by click and
 * amount, else by click and time within a day. Each is used once; what is alone stays so. Each conversion looks through
 * the rows of its own transaction or click, so the cost grows with both sides, and with the square of how many rows one
 * click has.
 */
export const joinReports = (
  conversions: readonly Conversion[],
  reported: Iterable<Reported>,
): ReportMatch[] => {
  const all = [...reported];
  // What takes back is no conversion of its own, and none of ours is it.
  const rows = all.filter(({ refundOf }) => refundOf === undefined);
  const used = new Set<Reported>();
  const byTxnEvent = new Map<string, Reported[]>();
  const byTxn = new Map<string, Reported[]>();
  const byClick = new Map<string, Reported[]>();
  for (const row of rows) {
    if (row.txn !== '') {
      pushTo(byTxnEvent, keyOf(row.network, row.txn, row.event), row);
      pushTo(byTxn, keyOf(row.network, row.txn), row);
    }
    if (row.click !== '') pushTo(byClick, `${row.network} ${clickKey(row.click)}`, row);
  }
  for (const list of byClick.values()) list.sort(byTime);

  const pairs: ReportMatch[] = [];
  const rest: Conversion[] = [];
  const take = (ours: Conversion, theirs: Reported) => {
    used.add(theirs);
    pairs.push({ ours, theirs });
  };
  /** How many conversions carry a transaction, and a transaction and event: more than one where an event recurs. */
  const ofTxn = new Map<string, number>();
  for (const { network, txn, event } of conversions)
    if (txn !== '') for (const key of [keyOf(network, txn), keyOf(network, txn, event)]) addTo(ofTxn, key);
  for (const ours of conversions) {
    const key = keyOf(ours.network, ours.txn, ours.event);
    const exact = ours.txn === '' ? undefined : byTxnEvent.get(key);
    const alone = exact?.length === 1 && ofTxn.get(key) === 1;
    const row = alone ? exact[0] : exact && nearest(exact, ours.at, used);
    if (row && !used.has(row)) take(ours, row);
    else rest.push(ours);
  }
  const later: Conversion[] = [];
  for (const ours of rest) {
    const alike = ours.txn === '' ? undefined : byTxn.get(keyOf(ours.network, ours.txn));
    const [only] = alike ?? [];
    const alone = ofTxn.get(keyOf(ours.network, ours.txn)) === 1;
    const sameSum = only?.amount === ours.amount && only.currency === ours.currency;
    if (alike?.length === 1 && only && (alone || sameSum) && !used.has(only)) take(ours, only);
    else later.push(ours);
  }
  const last: Conversion[] = [];
  const among = (ours: Conversion, fits: (row: Reported) => boolean): Reported | undefined =>
    ours.click === '' || ours.txn !== ''
      ? undefined
      : byClick
          .get(`${ours.network} ${clickKey(ours.click)}`)
          ?.find((row) => !used.has(row) && row.event === ours.event && fits(row));
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
