import * as v from 'valibot';
import type { Checked, Problem } from './problem.ts';
import type { RecordKind, RecordOf } from './records.ts';
import { recordSchemas } from './records.ts';

/** Turns a schema's issues into sentences with a path. */
const problemsOf = (issues: readonly v.BaseIssue<unknown>[]): Problem[] =>
  issues.map((issue) => ({ path: v.getDotPath(issue) ?? '', message: issue.message }));

/** Checks any value against a schema; gives the parsed value or every problem found. */
export const check = <S extends v.GenericSchema>(schema: S, value: unknown): Checked<v.InferOutput<S>> => {
  const result = v.safeParse(schema, value);
  return result.success
    ? { ok: true, value: result.output }
    : { ok: false, problems: problemsOf(result.issues) };
};

/** Checks a record of a kind, field by field; what spans several records is checked where they meet. */
export const checkRecord = <K extends RecordKind>(kind: K, value: unknown): Checked<RecordOf[K]> => {
  const schema: v.GenericSchema<unknown, unknown> = recordSchemas[kind];
  const result = check(schema, value);
  // The table of schemas and the table of types have the same keys, so the output is this kind's record.
  return result.ok ? { ok: true, value: result.value as RecordOf[K] } : result;
};

/**
 * Gives a record that an earlier version kept what it lacks by now. Links lack nothing: what they gained may be left
 * out; and what cannot be read is given back as it is.
 */
export const upgradeRecord = (kind: RecordKind, value: object): object => {
  if (kind === 'link') return value;
  const checked = checkRecord(kind, value);
  return checked.ok ? checked.value : value;
};
