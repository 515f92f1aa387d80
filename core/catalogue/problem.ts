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
