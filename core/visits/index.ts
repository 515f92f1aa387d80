export type {
  AuditEvent,
  AuditRecord,
  HopRecord,
  JournalDraft,
  JournalRecord,
  LostRecord,
  PostbackRecord,
  TraceRecord,
  Unsure,
} from './records.ts';
export { visitOfBeacon } from './beacon.ts';
export type { Wire } from './journal.ts';
export { makeIsRobot, readWire } from './journal.ts';
export { postbackOfPixel } from './pixel.ts';
export { beaconBody, journalRecord } from './records.ts';
export type { Outcome, SieveRules } from './sieve.ts';
export { defaultRules, makeSieve } from './sieve.ts';
export type { Segment, StoredRows } from './columns.ts';
export { Columns, segmentRows } from './columns.ts';
export { ColumnSieve, outcomes } from './columnSieve.ts';
export type { DaySum } from './thin.ts';
export { addSums, thin } from './thin.ts';
