/** A stretch of a text, in UTF-16 code units; `end` is the first that is no longer part of it. */
export interface Range {
  readonly start: number;
  readonly end: number;
}

/** What takes the place of a stretch of a text; an empty stretch is put in, and nothing goes. */
export interface Edit extends Range {
  readonly text: string;
  /**
   * Where several are put in at the same place: what `closes` belongs to what stands before it; what stands `apart` comes next; the
   * others come last.
   */
  readonly order?: 'closes' | 'apart';
}

/** A text that was decoded, and where each of its letters stands in the source. */
export interface MappedText {
  readonly text: string;
  /** Where the first letter stands; where `at` is left out, the others follow one by one. */
  readonly base: number;
  /** Where each letter stands, and at last where the text ends. */
  readonly at?: readonly number[] | undefined;
}

/** Where a letter of a mapped text stands in its source. */
export const sourceAt = ({ base, at }: MappedText, index: number): number => at?.[index] ?? base + index;

const rank = ({ order }: Edit): number => (order === 'closes' ? 0 : order === 'apart' ? 1 : 2);

/** Edits in the order in which they are carried out. */
export const inOrder = (edits: readonly Edit[]): Edit[] =>
  edits.toSorted((a, b) => a.start - b.start || rank(a) - rank(b) || a.end - b.end);

/**
 * A text with its edits carried out; all else stays as it is.
 *
 * @throws RangeError where two edits touch the same letters: both cannot be true
 */
export const withEdits = (text: string, edits: readonly Edit[]): string => {
  const pieces: string[] = [];
  let done = 0;
  for (const { start, end, text: added } of inOrder(edits)) {
    if (start < done || end < start || end > text.length)
      throw new RangeError(
        `An edit of ${start} to ${end} cannot be carried out after one that reached ${done}.`,
      );
    pieces.push(text.slice(done, start), added);
    done = end;
  }
  return [...pieces, text.slice(done)].join('');
};
