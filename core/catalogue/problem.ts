/** One thing a person has to mend: where it is and what to do. An empty list means "nothing to mend". */
export interface Problem {
  /** Dotted path to the field, for instance `hop.status`; empty for the whole. */
  readonly path: string;
  /** A plain sentence: what is wrong and what to do about it. */
  readonly message: string;
}

/** A value that passed its checks, or the reasons why it did not. */
export type Checked<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problems: readonly Problem[] };

/** A row of a file that could not be read: as it came, with all that has to be mended in it. */
export interface BadRow {
  /** In the file, from 1. */
  readonly line: number;
  readonly cells: readonly string[];
  readonly problems: readonly Problem[];
}

/** What is wrong with a value, in the first of its sentences; empty where it passed. */
export const firstProblem = (checked: Checked<unknown>): string => {
  if (checked.ok) return '';
  const [first] = checked.problems;
  if (!first) throw new Error('What is refused has a reason.');
  return first.message;
};
