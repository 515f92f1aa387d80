import { pushTo } from './present.ts';
import type { BadRow } from './problem.ts';

/** A word that is wrong in the same way in many rows, so that it can be mended once for all of them. */
export interface AlikeWord {
  /** The column it stands in, from 0. */
  readonly column: number;
  /** A whole cell, or a piece of one. */
  readonly word: string;
  /** What is wrong with it, as a sentence. */
  readonly message: string;
  /** In how many rows. */
  readonly rows: number;
}

/** The word a sentence speaks of: in quotes, or a token at its start. */
const quoted = (message: string): string | undefined => {
  const found = /“([^”]+)”|^(\{[^{}]+\})/.exec(message);
  return found?.[1] ?? found?.[2];
};
const says = ({ problems }: BadRow, message: string): boolean =>
  problems.some((problem) => problem.message === message);

/**
 * Finds words that are wrong in the same way in several rows: the same sentence speaks of them, and they stand in the same column.
 *
 * @returns the most frequent first
 */
export const alikeWords = (bad: readonly BadRow[]): AlikeWord[] => {
  const byMessage = new Map<string, BadRow[]>();
  for (const row of bad)
    for (const message of new Set(row.problems.map((problem) => problem.message)))
      pushTo(byMessage, message, row);
  return [...byMessage]
    .flatMap(([message, rows]): AlikeWord[] => {
      const word = quoted(message);
      const [first] = rows;
      if (word === undefined || first === undefined || rows.length < 2) return [];
      const column = first.cells.findIndex((_, i) => rows.every(({ cells }) => cells[i]?.includes(word)));
      return column < 0 ? [] : [{ column, word, message, rows: rows.length }];
    })
    .toSorted((a, b) => b.rows - a.rows);
};

/** The cells of each row of which the sentence speaks, with another text in the place of the word. */
export const mendAlike = (
  bad: readonly BadRow[],
  { column, word, message }: Omit<AlikeWord, 'rows'>,
  by: string,
): { readonly line: number; readonly cells: readonly string[] }[] =>
  bad
    .filter((row) => says(row, message))
    .map(({ line, cells }) => ({
      line,
      cells: cells.map((cell, i) => (i === column ? cell.replaceAll(word, () => by) : cell)),
    }));
