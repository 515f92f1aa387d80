import type { Report, ReportRow } from '#core/catalogue';

/** A row of a sale at noon UTC of a day, or, with a negative amount, of what takes back from it, with whatever is given over that. */
export const reportRow = (
  txn: string,
  day: string,
  amount: number,
  more: Partial<ReportRow> = {},
): ReportRow => ({
  key: amount < 0 ? `${txn}|sale|refund|${day}|${amount}` : `${txn}|sale`,
  txn,
  click: '',
  program: '',
  event: 'sale',
  status: 'approved',
  amount,
  currency: 'EUR',
  at: Date.parse(`${day}T12:00:00Z`),
  ...more,
});

/** A report of October 2026 of the network `net_h`, the n-th that was brought in. */
export const octoberReport = (n: number, rows: readonly ReportRow[], more: Partial<Report> = {}): Report => ({
  id: `rep_${n}`,
  network: 'net_h',
  batch: `b${n}`,
  file: 'report.csv',
  at: n,
  from: '2026-10-01',
  until: '2026-10-31',
  rows: [...rows],
  clicks: [],
  ...more,
});
