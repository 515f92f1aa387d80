export type { BulkChange, BulkPreview, LinkFilter } from './bulk.ts';
export { bulkPreview, bulkProblem, fits } from './bulk.ts';
export * from './change.ts';
export * from './check.ts';
export * from './defaults.ts';
export type { HopChoices, Marks, Wait } from './hopChoices.ts';
export { redirectStatuses, relValues } from './hopChoices.ts';
export { looksLikeEvent } from './event.ts';
export { describeChange, undoChange } from './history.ts';
export * from './id.ts';
export type {
  Account,
  Grammar,
  Network,
  PostbackField,
  PostbackProfile,
  Program,
  ProgramRules,
  Role,
  Slot,
  Status,
} from './network.ts';
export { allowedCharacters, postbackFields, programStates, roles, statuses } from './network.ts';
export * from './problem.ts';
export type { Domain, Link, RecordKind, RecordOf, SavedFilter, Settings } from './records.ts';
export { recordKinds, recordSchemas } from './records.ts';
export * from './rules.ts';
export * from './slug.ts';
export type { Branch, ClosedAnswer, Conditions, Device, Hours } from './split.ts';
export { devices } from './split.ts';
