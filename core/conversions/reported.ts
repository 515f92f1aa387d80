import type { ClickRow, Report, ReportRow } from '#core/catalogue';

/** A conversion as the network states it, over all of its reports. */
export interface Reported extends ReportRow {
  readonly network: string;
  /** What earlier reports said of it, oldest first; empty where it never changed. */
  readonly earlier: readonly (ReportRow & { readonly reportedAt: number })[];
  /** When the report that says so was imported; milliseconds since 1970 UTC. */
  readonly reportedAt: number;
}

const none: Reported['earlier'] = [];

const inOrder = (a: Report, b: Report): number => a.at - b.at || (a.id < b.id ? -1 : 1);

/** Everything the reports of all networks say by now: the newest word on each row, and what was said before. */
export const foldReports = (reports: readonly Report[]): Map<string, Reported> => {
  const found = new Map<string, Reported>();
  for (const report of [...reports].sort(inOrder))
    for (const row of report.rows) {
      const key = `${report.network} ${row.key}`;
      const before = found.get(key);
      const { txn, click, program, event, status, amount, currency, at } = row;
      found.set(key, {
        network: report.network,
        key: row.key,
        txn,
        click,
        program,
        event,
        status,
        amount,
        currency,
        at,
        reportedAt: report.at,
        earlier: before ? [...before.earlier, before] : none,
      });
    }
  return found;
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
  a.program === b.program;

/** What an import would bring: rows never seen, rows that say something else than before, and rows that say the same. */
export const compareRows = (
  known: ReadonlyMap<string, Reported>,
  network: string,
  rows: readonly ReportRow[],
): { readonly fresh: ReportRow[]; readonly changed: ReportRow[]; readonly same: number } => {
  const fresh: ReportRow[] = [];
  const changed: ReportRow[] = [];
  let unchanged = 0;
  for (const row of rows) {
    const before = known.get(`${network} ${row.key}`);
    if (!before) fresh.push(row);
    else if (same(before, row)) unchanged += 1;
    else changed.push(row);
  }
  return { fresh, changed, same: unchanged };
};
