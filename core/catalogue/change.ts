import * as v from 'valibot';
import { recordKinds } from './records.ts';
import { ulidPattern } from './ulid.ts';

/** Most changes one call may carry. */
export const changesPerCall = 1000;

/** One edit of one record, as it travels in the change feed. */
export const changeSchema = v.strictObject({
  /** ID of the change itself; a repeat is answered like the first. */
  change: v.pipe(v.string(), v.regex(ulidPattern, 'A change ID is a ULID.')),
  kind: v.picklist(recordKinds),
  record: v.pipe(v.string(), v.regex(/^[a-z]{3}_[a-z0-9]{1,40}$|^settings$/, 'Not a record ID.')),
  /** One more than the revision it was made on; the first is 1. */
  revision: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(Number.MAX_SAFE_INTEGER)),
  /** Name of the person, as set in that browser. */
  by: v.pipe(v.string(), v.maxLength(80)),
  /** Changes made as one step carry the ID of the first of them. */
  step: v.exactOptional(v.pipe(v.string(), v.regex(ulidPattern, 'A step is named by a change ID.'))),
  /** Milliseconds since 1970 UTC, by that browser's clock. */
  at: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(8.64e15)),
  /** The whole record, or null when it was removed. */
  value: v.nullable(v.record(v.string(), v.unknown())),
});
export type Change = v.InferOutput<typeof changeSchema>;

/** A change the server has kept, with its place in the feed. */
export interface StoredChange extends Change {
  /** Rises by one with every change kept. */
  readonly version: number;
}

/** A change the server did not take, and why. */
export interface Refused {
  readonly change: string;
  readonly path: string;
  readonly message: string;
  /** When somebody changed the record first: the newest version there is. */
  readonly theirs?: StoredChange;
}

/** The answer to `POST /api/changes`: each change is among the taken, the overtaken or the refused. */
export interface ChangesAnswer {
  readonly version: number;
  /** Those kept, now or when they first came, each with its place in the feed. */
  readonly taken: readonly { readonly change: string; readonly version: number }[];
  /** Those that came before and on which somebody has built since: the newest version there is. */
  readonly overtaken: readonly { readonly change: string; readonly newest: StoredChange }[];
  readonly refused: readonly Refused[];
}

/** The answer to `GET /api/changes`: the newest version of each record changed after a version. */
export interface ChangesPage {
  readonly version: number;
  readonly changes: readonly StoredChange[];
  /** True when there is more to ask for after `version`. */
  readonly more: boolean;
}
