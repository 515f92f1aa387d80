import type { ClickRow, Report, ReportRow } from '#core/catalogue';
import { rowsPerPart } from '#core/catalogue';

/** What of an import is kept, before it is divided. */
export interface Batch {
  readonly network: string;
  /** Made fresh for each import: small letters and digits, at most 30. */
  readonly batch: string;
  readonly file: string;
  readonly at: number;
  readonly from: string;
  readonly until: string;
  readonly rows: readonly ReportRow[];
  readonly clicks: readonly ClickRow[];
  /** It lists only a part of its days. */
  readonly part?: boolean;
  /** Keys of rows that it lists no longer. */
  readonly gone?: readonly string[];
}

const dayMs = 86_400_000;
/** A month whose first or last days have no row is taken for whole when no more than this many are missing. */
const mostQuietDays = 5;

/**
 * The days a report most likely covers, `2026-10-01` to `2026-10-31`: those of its rows, stretched to the ends of their
 * months where only a few quiet days are missing. A month that is not over yet is covered as far as its rows reach.
 *
 * @param importedOn the day of the import, in the network's zone
 */
export const likelyCover = (
  from: string,
  until: string,
  importedOn: string,
): { from: string; until: string } => {
  const time = (day: string) => Date.parse(`${day}T00:00:00Z`);
  const name = (at: number) => new Date(at).toISOString().slice(0, 10);
  const begin = time(`${from.slice(0, 7)}-01`);
  const [year = 0, month = 1] = until.split('-').map(Number);
  const end = Date.UTC(year, month, 0);
  const over = end < time(importedOn);
  return {
    from: time(from) - begin <= mostQuietDays * dayMs ? name(begin) : from,
    until: over && end - time(until) <= mostQuietDays * dayMs ? name(end) : until,
  };
};

/** Divides an import into records of a size the change feed takes; one that brought no rows still says what it covers. */
export const reportParts = ({
  network,
  batch,
  file,
  at,
  from,
  until,
  rows,
  clicks,
  part = false,
  gone = [],
}: Batch): Report[] => {
  const longest = Math.max(rows.length, clicks.length, gone.length);
  const count = Math.max(1, Math.ceil(longest / rowsPerPart));
  return Array.from({ length: count }, (_, i) => ({
    id: `rep_${batch}${String(i).padStart(4, '0')}`,
    network,
    batch,
    file: file.slice(0, 200) || 'report',
    at,
    from,
    until,
    rows: rows.slice(i * rowsPerPart, (i + 1) * rowsPerPart),
    clicks: clicks.slice(i * rowsPerPart, (i + 1) * rowsPerPart),
    ...(part && { part }),
    ...(gone.length > i * rowsPerPart && { gone: gone.slice(i * rowsPerPart, (i + 1) * rowsPerPart) }),
  }));
};
