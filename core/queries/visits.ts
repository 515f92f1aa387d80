import type { HopRecord, Outcome, Segment, VisitColumns } from '#core/visits';
import { isUlid } from '#core/catalogue';
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

/** Calls back with every segment that has a row since a moment and its number, the newest first. */
export const segmentsSince = (
  { segments, newest }: VisitColumns,
  from: number,
  see: (segment: Segment, n: number) => void,
): void => {
  for (const [n, segment] of [...segments.entries()].reverse())
    if ((newest[n] ?? -Infinity) >= from) see(segment, n);
};
