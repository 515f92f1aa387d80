import { element, foldText } from '#core/catalogue';
import { headings } from './csv.ts';

/** Every line of a file that holds anything, as cells. */
export interface Grid {
  readonly rows: readonly (readonly string[])[];
  /** Line of each row in the file, from 1. */
  readonly lines: readonly number[];
}

/** A line of a file that is no row of its table, and what it is. */
export interface AsideLine {
  readonly line: number;
  readonly cells: readonly string[];
  readonly why: 'before the heading' | 'a total' | 'a note';
}

/** A table in a file, with what stands around it. */
export interface FoundTable {
  readonly header: readonly string[];
  readonly rows: readonly (readonly string[])[];
  readonly lines: readonly number[];
  readonly aside: readonly AsideLine[];
  /** A workbook whose days, where they are plain numbers, count from 1904. */
  readonly since1904?: boolean;
  /** Line of the heading, from 1; 0 where the file has none and columns are called by their numbers. */
  readonly headerLine: number;
}

/** So many lines from the top a heading is looked for. */
const mostBefore = 50;

/** A letter or digit in front leaves no doubt, and there are many cells. */
const isFilled = (cell: string): boolean => cell !== '' && (cell.charCodeAt(0) > 32 || cell.trim() !== '');
const filledIn = (row: readonly string[]): number => {
  let filled = 0;
  for (const cell of row) if (isFilled(cell)) filled += 1;
  return filled;
};
/** True for a number, a date, an ID: what stands under a heading, and is none. */
const isValue = (cell: string): boolean =>
  /^[^\p{Letter}]*\d[^\p{Letter}]*$/u.test(cell) || /\d{3,}/.test(cell);

/** The number of filled cells that most rows have: that of a row of the table. */
const usualWidth = (rows: readonly (readonly string[])[]): number => {
  const times = new Map<number, number>();
  for (const row of rows) times.set(row.length, (times.get(row.length) ?? 0) + 1);
  return [...times].sort((a, b) => b[1] - a[1] || b[0] - a[0])[0]?.[0] ?? 0;
};

/** True for a row that could be the heading of those under it: words over values. */
const isHeading = (row: readonly string[], under: readonly (readonly string[])[], width: number): boolean => {
  if (filledIn(row) < Math.max(2, width * 0.6) || row.some((cell) => isFilled(cell) && isValue(cell.trim())))
    return false;
  return (
    under.length === 0 ||
    under.some((next) => row.some((cell, i) => isFilled(cell) && isValue(next[i]?.trim() ?? '')))
  );
};

const totalWords =
  /^(?:grand |sub)?(?:totals?|totale|totaux|totales|totaal|sum|summe|somme|suma|somma|gesamt(?:summe|betrag)?|insgesamt|zwischensumme|som)\b/;

/** A cell as a number to add up; undefined where it is none. */
const numberIn = (cell: string): number | undefined => {
  if (!/\d/.test(cell) || /\p{Letter}{4,}/u.test(cell)) return undefined;
  const text = cell.replace(/[^\d.,]/g, '');
  const isMinus = /[-\u2212]|\([^()]*\d[^()]*\)/.test(cell);
  const sign = Math.max(text.lastIndexOf('.'), text.lastIndexOf(','));
  const decimals = sign < 0 ? 0 : text.length - sign - 1;
  const whole = Number(text.replace(/[.,]/g, '')) * (isMinus ? -1 : 1);
  if (Number.isNaN(whole)) return undefined;
  return decimals === 1 || decimals === 2 || decimals === 4 ? whole / 10 ** decimals : whole;
};

/** The sums of each column of a growing list of rows. What was added up once is not added up again: there may be many rows. */
const makeSums = (rows: readonly (readonly string[])[]) => {
  const sums: number[] = [];
  let done = 0;
  return (column: number): number => {
    for (; done < rows.length; done++)
      for (const [i, cell] of element(rows[done]).entries()) sums[i] = (sums[i] ?? 0) + (numberIn(cell) ?? 0);
    return sums[column] ?? 0;
  };
};

/** Fewer rows make no total: two numbers may be alike by chance. */
const fewestAbove = 3;
/** True where a cell of the row is the sum of those above it in its column. */
const isSum = (row: readonly string[], above: number, sumOf: (column: number) => number): boolean =>
  above >= fewestAbove &&
  row.some((cell, i) => {
    const total = numberIn(cell);
    if (total === undefined || total === 0) return false;
    return Math.abs(sumOf(i) - total) < 0.005;
  });

/**
 * Finds the table in a file: its heading among the first fifty lines, title lines before it, totals and notes after it or between.
 * A total is known by its word, or by lacking cells that rows have and being the sum of what is above. What is set aside is given
 * with the reason, so that a person can see it.
 *
 * @param headerLine the line a person pointed at, from 1; 0 for a file without a heading
 */
export const findTable = ({ rows, lines }: Grid, headerLine?: number): FoundTable => {
  const width = usualWidth(rows);
  const pointed = headerLine === undefined ? undefined : lines.indexOf(headerLine);
  const found =
    pointed ??
    rows.slice(0, mostBefore).findIndex((row, i) =>
      isHeading(
        row,
        rows.slice(i + 1, i + 4).filter((next) => filledIn(next) > 1),
        width,
      ),
    );
  const before: AsideLine[] = rows.slice(0, Math.max(0, found)).map((cells, i) => ({
    line: element(lines[i]),
    cells,
    why: 'before the heading',
  }));
  const header =
    found < 0
      ? Array.from({ length: width }, (_, i) => `Column ${i + 1}`)
      : headings(trimmed(element(rows[found]), width));
  const first = found + 1;
  const under = { rows: rows.slice(first), lines: lines.slice(first) };
  const parted = partRows(under, header.length, true);
  // More single cells than rows are no notes about them, but rows that lack their cells.
  const isBroken = parted.aside.filter(({ why }) => why === 'a note').length > parted.body.rows.length;
  const { body, aside: after } = isBroken ? partRows(under, header.length, false) : parted;
  return {
    header,
    ...body,
    aside: [...before, ...after],
    headerLine: found < 0 ? 0 : element(lines[found]),
  };
};

/** Parts the lines under a heading into rows of the table and what stands aside. */
const partRows = (
  { rows, lines }: Grid,
  width: number,
  hasNotes: boolean,
): { body: Grid; aside: AsideLine[] } => {
  const body: (readonly string[])[] = [];
  const bodyLines: number[] = [];
  const aside: AsideLine[] = [];
  const sumOf = makeSums(body);
  /** How many cells the last rows of the table have. */
  const lately: number[] = [];
  for (const [i, cells] of rows.entries()) {
    const filled = filledIn(cells);
    const usual = lately.length === 0 ? width : Math.min(...lately);
    const why = whyAside(cells, filled < usual, hasNotes && filled === 1 && usual > 1 && width > 2, () =>
      isSum(cells, body.length, sumOf),
    );
    const line = element(lines[i]);
    if (why) {
      aside.push({ line, cells, why });
      continue;
    }
    // Empty cells at the end of a line are no cells of the table.
    body.push(cells.length > width ? trimmed(cells, width) : cells);
    bodyLines.push(line);
    lately.push(filled);
    if (lately.length > 20) lately.shift();
  }
  return { body: { rows: body, lines: bodyLines }, aside };
};

/** A row without the empty cells behind a width. */
const trimmed = (cells: readonly string[], width: number): readonly string[] => {
  let end = cells.length;
  while (end > width && !isFilled(cells[end - 1] ?? '')) end -= 1;
  return cells.slice(0, end);
};

/** The word a total begins with, looked for in a few letters first: there are many rows. */
const isTotalWord = (word: string): boolean =>
  /^\s*(?:grand|sub|tot|sum|som|ges|ins|zwi)/i.test(word) && totalWords.test(foldText(word.trim()));

const whyAside = (
  cells: readonly string[],
  isShort: boolean,
  isSentence: boolean,
  sums: () => boolean,
): AsideLine['why'] | undefined => {
  const word = cells.find((cell) => /\p{Letter}/u.test(cell));
  if (word !== undefined && isTotalWord(word) && (isShort || sums())) return 'a total';
  if (!isShort) return undefined;
  if (sums()) return 'a total';
  // A single cell in a table of several is a sentence about it.
  return isSentence ? 'a note' : undefined;
};
