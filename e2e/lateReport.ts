import type { Report, ReportRow } from '#core/catalogue';

/** A report of a part of October that is brought in now, with these rows. */
export const lateReport = (network: string, rows: readonly ReportRow[]): Report => ({
  id: 'rep_late',
  network,
  batch: 'late',
  file: 'late.csv',
  at: Date.now(),
  from: '2026-10-01',
  until: '2026-11-02',
  part: true,
  rows: [...rows],
  clicks: [],
});
