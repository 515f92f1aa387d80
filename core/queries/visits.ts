import type { HopRecord, Outcome, Segment, VisitColumns } from '#core/visits';
import { isUlid } from '#core/catalogue';
import { fromLog } from '#core/hop';
import type { Dataset } from './dataset.ts';

/** A request for a link and what became of it. */
export interface Visit {
  readonly hop: HopRecord;
  readonly outcome: Outcome;
}

/** The request in a row. */
export const visitIn = ({ journal, classification }: Dataset, row: number): Visit => ({
  hop: journal.columns.record(row),
  outcome: classification.outcome(row),
});

/** Row of a click; -1 where no request has that ID. */
export const rowOfClick = ({ journal }: Dataset, click: string): number => {
  if (!isUlid(click)) return -1;
  const found = journal.columns.beginningWith(click);
  return found.count > 0 ? found.row(0) : -1;
};

/** ID of the click in a row; empty for -1. */
export const clickIn = ({ journal }: Dataset, row: number): string =>
  row < 0 ? '' : journal.columns.click(row);

/** True for a request that an access log told of. */
export const isFromLog = (columns: VisitColumns, row: number): boolean =>
  columns.text('branch', row) === fromLog;

/** The newest requests that fit, the newest first. */
export const newestRows = (columns: VisitColumns, fits: (row: number) => boolean, most: number): number[] => {
  const found: number[] = [];
  for (let row = columns.rows - 1; row >= 0 && (found.length < most || !columns.isByTime); row--)
    if (fits(row)) found.push(row);
  if (columns.isByTime) return found;
  return found.sort((a, b) => columns.at(b) - columns.at(a) || b - a).slice(0, most);
};

/** Calls back with every segment that has a row since a moment and its number, the newest first. */
export const segmentsSince = (
  { segments, newest }: VisitColumns,
  from: number,
  see: (segment: Segment, n: number) => void,
): void => {
  for (const [n, segment] of [...segments.entries()].reverse())
    if ((newest[n] ?? -Infinity) >= from) see(segment, n);
};
