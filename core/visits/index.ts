export type { HopRecord, JournalDraft, JournalRecord, PostbackRecord, TraceRecord } from './records.ts';
export { beaconBody, journalRecord } from './records.ts';
export type { Outcome, SieveRules } from './sieve.ts';
export { defaultRules, makeSieve } from './sieve.ts';
export type { Segment, StoredRows } from './columns.ts';
export { Columns, segmentRows } from './columns.ts';
export { ColumnSieve, outcomes } from './columnSieve.ts';
