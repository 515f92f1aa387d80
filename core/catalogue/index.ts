export type { AlikeWord } from './alikeRows.ts';
export { alikeWords, mendAlike } from './alikeRows.ts';
export type { BulkChange, BulkPreview, FollowedParts, LinkFilter } from './bulk.ts';
export { bulkPreview, bulkProblem, fits } from './bulk.ts';
export * from './change.ts';
export * from './check.ts';
export * from './defaults.ts';
export { foldText } from './foldText.ts';
export { ownAfterEdit, withoutChoice } from './ownChoices.ts';
export { keepingPlaced } from './placed.ts';
export type { BrowserSeal, KeptSeal } from './seal.ts';
export { keepSeal, keptSeal, sealToCheck } from './seal.ts';
export * from './digest.ts';
export * from './generation.ts';
export * from './merge.ts';
export type { HopChoices, Marks, Wait } from './hopChoices.ts';
export { hostIn, withAsciiHost } from './fields.ts';
export { isScriptAddress, pageKinds, redirectStatuses, relValues } from './hopChoices.ts';
export { looksLikeEvent } from './event.ts';
export { fieldName, undoChange } from './history.ts';
export * from './id.ts';
export type {
  Account,
  LinkFormat,
  Network,
  PostbackField,
  OpenNetwork,
  PostbackProfile,
  PostbackSecrets,
  Program,
  ProgramRules,
  PageCoding,
  Role,
  Slot,
  ClickPlace,
  DateOrder,
  ReportProfile,
  ReportRole,
} from './network.ts';
export type {
  ClaimAnswer,
  ClickRow,
  ClosedMonth,
  Decision,
  Payment,
  Rate,
  Report,
  ReportRow,
  Terms,
} from './books.ts';
export { claimAnswers } from './books.ts';
export type { Choice } from './choices.ts';
export type { Cost, CostBasis } from './costs.ts';
export type { Promotion } from './promotions.ts';
export { promotionSeparator } from './promotions.ts';
export { rowsPerPart } from './books.ts';
export type { Page } from './pages.ts';
export type { Kit, OwnPicture, Product, SourceRecord } from './products.ts';
export { parameter } from './fields.ts';
export { comesByMail, sourceNames } from './sourceNames.ts';
export type { Status } from './statuses.ts';
export { statuses } from './statuses.ts';
export {
  allowedCharacters,
  pageCodings,
  openNetwork,
  postbackFields,
  postbackSecrets,
  programStates,
  reportRoles,
  roles,
} from './network.ts';
export * from './leaning.ts';
export { Lists } from './lists.ts';
export * from './present.ts';
export * from './problem.ts';
export type {
  ArticleChoices,
  Domain,
  Link,
  LinkKeyword,
  RecordKind,
  RecordOf,
  SavedFilter,
  Settings,
  TableLook,
} from './records.ts';
export { recordKinds, recordSchemas } from './records.ts';
export * from './rules.ts';
export * from './slug.ts';
export * from './local.ts';
export * from './ulid.ts';
export type { Branch, ClosedAnswer, Conditions, Device, Hours } from './branches.ts';
export { branchDays, devices, freshBranchId } from './branches.ts';
