import type { Report, ReportRow } from '#core/catalogue';
import { dayMs } from './days.ts';

/** A row, and whether a later report lists it no longer. */
export interface Told extends ReportRow {
  readonly gone: boolean;
}

/** What a network's reports count by their last word on each row: sales that are not reversed, and what is taken back of them. */
export const rowsOf = (reports: readonly Report[], network: string): Told[] => {
  const last: Told[] = [];
  const ordered = reports
    .filter((report) => report.network === network)
    .sort((a, b) => a.at - b.at || (a.id < b.id ? -1 : 1));
  for (const report of ordered) {
    for (const row of report.rows) {
      const at = last.findIndex((one) => one.key.toLowerCase() === row.key.toLowerCase());
      const told = { ...row, gone: false };
      if (at < 0) last.push(told);
      else last[at] = { ...told, key: last[at]?.key ?? row.key };
    }
    for (const key of report.gone ?? []) {
      const at = last.findIndex((one) => one.key.toLowerCase() === key.toLowerCase());
      const row = last[at];
      if (row) last[at] = { ...row, gone: true };
    }
  }
  const isBack = (row: ReportRow) => (row.amount ?? 0) < 0;
  const saleOf = (refund: ReportRow) =>
    last.filter(
      (row) =>
        !isBack(row) &&
        row.txn !== '' &&
        row.txn.trim().toLowerCase() === refund.txn.trim().toLowerCase() &&
        row.event === refund.event,
    );
  const settled = last.map((row): Told => {
    // Listed no longer, and taken back the same day: it was reversed.
    const taken = last.some(
      (refund) =>
        isBack(refund) &&
        refund.status === 'reversed' &&
        saleOf(refund).length === 1 &&
        saleOf(refund)[0] === row &&
        Math.abs(refund.at - row.at) < dayMs,
    );
    return row.gone && taken ? { ...row, gone: false, status: 'reversed' } : row;
  });
  return settled.filter((row) => {
    if (row.gone) return false;
    if (!isBack(row)) return row.status !== 'reversed';
    const sales = settled.filter(
      (one) =>
        !isBack(one) &&
        one.txn !== '' &&
        one.txn.trim().toLowerCase() === row.txn.trim().toLowerCase() &&
        one.event === row.event,
    );
    return !(sales.length === 1 && sales[0]?.status === 'reversed');
  });
};
