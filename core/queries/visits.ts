import type { HopRecord, Outcome, Segment, VisitColumns } from '#core/visits';
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
export const rowOfClick = ({ journal }: Dataset, click: string): number => journal.columns.rowOf(click);

/** Most clicks of one journey. */
export const mostLegs = 50;

/** Rows of the clicks that led to a click by pages of the person's own, the nearest first. */
export const rowsBefore = (columns: VisitColumns, row: number): number[] => {
  const found: number[] = [];
  for (
    let before = columns.rowBefore(row);
    before >= 0 && found.length < mostLegs;
    before = columns.rowBefore(before)
  )
    found.push(before);
  return found;
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
