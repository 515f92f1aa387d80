import type { ClickRow, Report, ReportRow, Status } from '#core/catalogue';
import { present, pushTo } from '#core/catalogue';
import { txnKey } from './txnKey.ts';
import type { Minor } from '#core/values';

/** A conversion as the network states it, over all of its reports. */
export interface Reported extends ReportRow {
  readonly network: string;
  /** What earlier reports said of it, oldest first; empty where it never changed. */
  readonly earlier: readonly (ReportRow & { readonly reportedAt: number })[];
  /** When the report that says so was imported; milliseconds since 1970 UTC. */
  readonly reportedAt: number;
  /** A newer report of the same days, imported then, lists it no longer. */
  readonly gone?: number;
  /** It takes money back: of a sale that a report lists, of one that is reversed and so worth nothing, or of none that is known. */
  readonly refundOf?: 'sale' | 'reversed sale' | 'no known sale';
  /** Of one that takes back: the state of its sale. */
  readonly saleStatus?: Status;
  /** What refunds took back of it, as a negative amount. */
  readonly refunded?: Minor;
}

/** True for a row that takes back. */
const takesBack = ({ amount }: Pick<ReportRow, 'amount'>): boolean => amount !== null && amount < 0;

const none: Reported['earlier'] = [];

/** By what a row is found: its network and key. */
const rowKey = (network: string, key: string, caseMatters: (network: string) => boolean): string =>
  `${network} ${caseMatters(network) ? key : key.toLowerCase()}`;

const inOrder = (a: Report, b: Report): number => a.at - b.at || (a.id < b.id ? -1 : 1);

/**
 * Everything the reports of all networks say by now: the newest word on each row, and what was said before. By network and key;
 * the key is in small letters where the network does not tell transactions apart by case.
 */
export const foldReports = (
  reports: readonly Report[],
  caseMatters: (network: string) => boolean = () => false,
): Map<string, Reported> => {
  const found = new Map<string, Reported>();
  let isPlain = true;
  for (const report of [...reports].sort(inOrder)) {
    for (const row of report.rows) {
      const key = rowKey(report.network, row.key, caseMatters);
      const before = found.get(key);
      const { txn, click, program, event, status, amount, currency, at, coupon } = row;
      if (takesBack(row)) isPlain = false;
      found.set(key, {
        network: report.network,
        key: before?.key ?? row.key,
        txn,
        click,
        program,
        event,
        status,
        amount,
        currency,
        at,
        ...(coupon !== undefined && { coupon }),
        reportedAt: report.at,
        earlier: before ? [...before.earlier, before] : none,
      });
    }
    for (const gone of report.gone ?? []) {
      const key = rowKey(report.network, gone, caseMatters);
      const before = found.get(key);
      if (before) found.set(key, { ...before, gone: report.at });
    }
  }
  if (!isPlain) nameRefunds(found, caseMatters);
  return found;
};

const dayMs = 86_400_000;

/**
 * Says of each row that takes back what it takes from. A sale that is listed no longer, while a reversed row of its day takes it
 * back, is that sale reversed.
 */
const nameRefunds = (found: Map<string, Reported>, caseMatters: (network: string) => boolean): void => {
  const saleOf = ({ network, txn, event }: Reported): string =>
    JSON.stringify([network, txnKey(txn, caseMatters(network)), event]);
  const salesOf = new Map<string, string[]>();
  const refunds: string[] = [];
  for (const [key, row] of found)
    if (takesBack(row)) refunds.push(key);
    else if (row.txn !== '') pushTo(salesOf, saleOf(row), key);
  /** The only sale a refund can be of; where an event recurs there may be several. */
  const onlySale = (refund: Reported): string | undefined => {
    const [only, ...others] = salesOf.get(saleOf(refund)) ?? [];
    return others.length === 0 ? only : undefined;
  };
  const rowOf = (key: string): Reported => present(found.get(key), key);
  for (const key of refunds) {
    const refund = rowOf(key);
    const saleKey = onlySale(refund);
    const sale = saleKey === undefined ? undefined : rowOf(saleKey);
    if (saleKey === undefined || sale?.gone === undefined || refund.status !== 'reversed') continue;
    if (Math.abs(refund.at - sale.at) >= dayMs) continue;
    const { gone: _, ...listed } = sale;
    found.set(saleKey, { ...listed, status: 'reversed', reportedAt: refund.reportedAt });
  }
  for (const key of refunds) {
    const refund = rowOf(key);
    const saleKey = onlySale(refund);
    const sale = saleKey === undefined ? undefined : rowOf(saleKey);
    const isWorthless = sale?.status === 'reversed';
    const refundOf = !salesOf.has(saleOf(refund)) ? 'no known sale' : isWorthless ? 'reversed sale' : 'sale';
    found.set(key, { ...refund, refundOf, ...(sale && { saleStatus: sale.status }) });
    if (saleKey !== undefined && sale && !isWorthless && refund.gone === undefined)
      found.set(saleKey, { ...sale, refunded: (sale.refunded ?? 0) + (refund.amount ?? 0) });
  }
};

/**
 * Keys of rows that were known of a stretch of days and that a newer report of these days lists no longer.
 *
 * @param listed what the newer report lists: keys of its rows, and transactions, trimmed and in small letters, of those that could not be read
 */
export const goneRows = (
  known: Iterable<Reported>,
  listed: { readonly keys: ReadonlySet<string>; readonly txns: ReadonlySet<string> },
  isCovered: (at: number) => boolean,
  caseMatters = false,
): string[] => {
  const inCase = (key: string) => (caseMatters ? key : key.toLowerCase());
  const keys = new Set([...listed.keys].map(inCase));
  return [...known]
    .filter(
      ({ key, txn, at, gone }) =>
        gone === undefined &&
        !keys.has(inCase(key)) &&
        (txn === '' || !listed.txns.has(txn.trim().toLowerCase())) &&
        isCovered(at),
    )
    .map(({ key }) => key);
};

/** The clicks networks counted, the newest word on each day and label: by `network day label`. */
export const foldClicks = (reports: readonly Report[]): Map<string, ClickRow & { network: string }> => {
  const found = new Map<string, ClickRow & { network: string }>();
  for (const report of [...reports].sort(inOrder))
    for (const row of report.clicks)
      found.set(`${report.network} ${row.day} ${row.label}`, { ...row, network: report.network });
  return found;
};

const same = (a: ReportRow, b: ReportRow): boolean =>
  a.status === b.status &&
  a.amount === b.amount &&
  a.currency === b.currency &&
  a.at === b.at &&
  a.click === b.click &&
  a.program === b.program &&
  a.coupon === b.coupon;

/** What an import would bring, against what `foldReports` gave: rows never seen, rows that say something else than before, and rows that say the same. */
export const compareRows = (
  known: ReadonlyMap<string, Reported>,
  network: string,
  rows: readonly ReportRow[],
  caseMatters: (network: string) => boolean = () => false,
): { readonly fresh: ReportRow[]; readonly changed: ReportRow[]; readonly same: number } => {
  const fresh: ReportRow[] = [];
  const changed: ReportRow[] = [];
  let unchanged = 0;
  for (const row of rows) {
    const before = known.get(rowKey(network, row.key, caseMatters));
    if (!before) fresh.push(row);
    else if (before.gone === undefined && same(before, row)) unchanged += 1;
    else changed.push(row);
  }
  return { fresh, changed, same: unchanged };
};
