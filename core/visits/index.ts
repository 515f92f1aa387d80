export type { HopRecord, JournalDraft, JournalRecord, PostbackRecord, TraceRecord } from './records.ts';
export { beaconBody, journalRecord } from './records.ts';
export type { Outcome, SieveRules } from './sieve.ts';
export { makeSieve } from './sieve.ts';
