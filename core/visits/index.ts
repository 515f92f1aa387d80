export type {
  AuditEvent,
  AuditRecord,
  GivenBackRecord,
  HopRecord,
  JournalDraft,
  JournalRecord,
  LostRecord,
  PostbackRecord,
  TraceRecord,
  Unverified,
} from './records.ts';
export type { RecordVersion } from './journal.ts';
export { isVisit, makeIsRobot, SortedJournal } from './journal.ts';
export { beaconBody, givenBackKinds, givenBackPerCall, isGivenBackKind, journalRecord } from './records.ts';
export type { Outcome, ClassificationRules } from './classificationRules.ts';
export { defaultRules } from './classificationRules.ts';
export type { Segment, StoredRows } from './columns.ts';
export { VisitColumns, segmentRows } from './columns.ts';
export { Classification, outcomeNumber, outcomes } from './classification.ts';
export type { DailyCount } from './rollUp.ts';
export { mergeCounts, rollUp } from './rollUp.ts';
