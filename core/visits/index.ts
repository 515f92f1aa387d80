export type {
  AuditEvent,
  AuditRecord,
  HopRecord,
  JournalDraft,
  JournalRecord,
  LostRecord,
  PostbackRecord,
  ReadingRecord,
  TraceRecord,
  Unverified,
} from './records.ts';
export type { RecordVersion } from './journal.ts';
export { isVisit, makeIsRobot, SortedJournal, visitOf } from './journal.ts';
export { pageBranch } from './beacon.ts';
export type { BeaconBody } from './records.ts';
export { beaconBody, journalRecord } from './records.ts';
export type { AskLogs, LinesOfSort, LogFile, LogReading, LogReport } from './accessLogs.ts';
export { logPieceBytes, logReadingBody, sendLogs } from './accessLogs.ts';
export type { GivenBackRecord } from './givenBack.ts';
export { givenBackKinds, givenBackPerCall, isGivenBackKind } from './givenBack.ts';
export type { BotKind, Outcome, ClassificationRules, MachineRule } from './classificationRules.ts';
export { botKinds, defaultRules } from './classificationRules.ts';
export type { Segment, StoredRows } from './columns.ts';
export { VisitColumns, segmentRows } from './columns.ts';
export { decodeSegment, encodeSegment, SegmentDamaged, segmentOf, takeSegment } from './segmentFile.ts';
export { Classification, outcomeNumber, outcomes } from './classification.ts';
export type { DailyCount } from './rollUp.ts';
export { mergeCounts, rollUp } from './rollUp.ts';
