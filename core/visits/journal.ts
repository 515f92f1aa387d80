import { isbot } from 'isbot';
import { visitOfBeacon } from './beacon.ts';
import { Columns } from './columns.ts';
import { ColumnSieve } from './columnSieve.ts';
import { postbackOfPixel } from './pixel.ts';
import type { JournalRecord, LostRecord, PostbackRecord, TraceRecord } from './records.ts';
import type { SieveRules } from './sieve.ts';
import { defaultRules } from './sieve.ts';

/** A journal sorted by what is asked of it. */
export interface Wire {
  readonly columns: Columns;
  readonly sieve: ColumnSieve;
  readonly postbacks: PostbackRecord[];
  readonly traces: TraceRecord[];
  readonly lost: LostRecord[];
}

/** Tells robots by their user agent: those that are known, and pieces of names the person added. */
export const makeIsRobot =
  (more: readonly string[] = []) =>
  (userAgent: string): boolean =>
    isbot(userAgent) || more.some((piece) => userAgent.toLowerCase().includes(piece.toLowerCase()));

/** Puts the records of a journal where they belong: requests into columns and through the sieve, the rest into lists. */
export const readWire = (records: Iterable<JournalRecord>, rules: SieveRules = defaultRules): Wire => {
  const columns = new Columns();
  const wire: Wire = {
    columns,
    sieve: new ColumnSieve(columns, makeIsRobot(), rules),
    postbacks: [],
    traces: [],
    lost: [],
  };
  for (const record of records) {
    if (record.kind === 'hop') columns.add(record);
    else if (record.kind === 'beacon' && record.event === 'click') columns.add(visitOfBeacon(record));
    else if (record.kind === 'postback') wire.postbacks.push(record);
    else if (record.kind === 'pixel') wire.postbacks.push(postbackOfPixel(record));
    else if (record.kind === 'trace') wire.traces.push(record);
    else if (record.kind === 'lost') wire.lost.push(record);
  }
  wire.sieve.go();
  return wire;
};
