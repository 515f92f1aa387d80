import type { JournalRecord } from './records.ts';

/**
 * What a browser gives back to a server that lost it. Changes of the catalogue are not among them: they are offered again as
 * changes. Nor is what a server wrote of itself: nobody else may write that.
 */
export const givenBackKinds = [
  'hop',
  'second',
  'postback',
  'pixel',
  'beacon',
  'reading',
  'trace',
  'lost',
] as const;
/** A record that can be given back. */
export type GivenBackRecord = Extract<JournalRecord, { kind: (typeof givenBackKinds)[number] }>;
/** True for a record that can be given back to a server that lost it. */
export const isGivenBackKind = (record: JournalRecord): record is GivenBackRecord =>
  givenBackKinds.some((kind) => kind === record.kind);
/** Most records of one call that gives back. */
export const givenBackPerCall = 1000;
