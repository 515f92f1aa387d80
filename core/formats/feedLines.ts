import Papa from 'papaparse';

/** A row of a feed, under its headings. */
export interface FeedRow {
  /** Line of the file on which it begins, from 1. */
  readonly line: number;
  readonly cells: readonly string[];
}

/** A piece of a feed that is no whole row, kept as it stands. */
export interface UnreadRow {
  readonly line: number;
  readonly text: string;
  /** Why it is none, as a sentence. */
  readonly why: string;
}

export interface FeedBatch {
  readonly rows: readonly FeedRow[];
  readonly unread: readonly UnreadRow[];
}

/** A cell over more lines than this, or longer, was never closed. */
const [mostCellLines, longestCell] = [200, 100_000];
/** Of what could not be read so much is kept. */
const keptLetters = 4000;

const escaped = (sign: string): string => sign.replace(/[\\^$.*+?()[\]{}|-]/g, '\\$&');

/** What lines of a delimiter look like (RFC 4180; a quote inside a cell that does not begin with one is a letter, *common practice*). */
const formsOf = (delimiter: string) => {
  const d = escaped(delimiter);
  const cell = `(?:"(?:[^"]|"")*"|(?:[^"${d}][^${d}]*)?)`;
  const inside = `(?:[^"]|"")*`;
  /** Behind a cell over several lines nothing is guessed: its opening quote may be that of a row that was cut off. */
  const strict = `(?:"(?:[^"]|"")*"|[^"${d}]*)`;
  return {
    /** A row by itself. */
    whole: new RegExp(`^${cell}(?:${d}${cell})*$`),
    /** A row whose last cell goes on in the next line. */
    open: new RegExp(`^(?:${cell}${d})*"${inside}$`),
    /** A line inside of a cell; one that ends it, and the row; and one that ends it and opens another. */
    goesOn: new RegExp(`^${inside}$`),
    ends: new RegExp(`^${inside}"(?:${d}${strict})*$`),
    opensAgain: new RegExp(`^${inside}"${d}(?:${strict}${d})*"${inside}$`),
  };
};

/**
 * Reads rows of a text that comes piece by piece. A row that was cut off spoils no other: reading goes on with the line after the
 * one it begins on.
 *
 * @param width how many cells the heading has; a row has as many, and perhaps empty ones behind
 * @param firstLine the line of the file with which the first piece begins
 */
export const makeRowReader = (delimiter: string, width: number, firstLine: number) => {
  const forms = formsOf(delimiter);
  let lines: string[] = [];
  let line = firstLine;
  let rest = '';

  const cellsIn = (text: string): string[] =>
    Papa.parse<string[]>(text, { delimiter, newline: '\n' }).data[0] ?? [];
  /** A row as wide as the heading, or why it is none. */
  const fitted = (cells: string[]): string[] | string => {
    while (cells.length > width && cells.at(-1)?.trim() === '') cells.pop();
    return cells.length === width ? cells : `It has ${cells.length} cells where the heading has ${width}.`;
  };
  /** The cells of a line whose quotes are no pairs, where only one reading of it has as many as the heading. */
  const looseCells = (text: string): string[] | undefined => {
    const cells = text.split(delimiter);
    if (cells.length !== width) return undefined;
    return cells.map((cell) =>
      /^".*"$/s.test(cell) && cell.length > 1 ? cell.slice(1, -1).replaceAll('""', '"') : cell,
    );
  };
  /** How many lines a row has that begins on a line with an open cell: 0 where it never ends, undefined where more has to come. */
  const linesOf = (from: number, isEnd: boolean): number | undefined => {
    const isFirstCell = /^"(?:[^"]|"")*$/.test(lines[from] ?? '');
    let letters = 0;
    for (let n = 1; n < mostCellLines; n++) {
      const next = lines[from + n];
      if (next === undefined) return isEnd ? 0 : undefined;
      letters += next.length;
      if (letters > longestCell) return 0;
      // A line that is a row by itself is one: sooner than that a cell holds it, a row was cut off before it. What ends the first
      // cell of a row has as many cells as a row, so there it says nothing.
      if (!isFirstCell && forms.whole.test(next) && cellsIn(next).length === width) return 0;
      if (forms.ends.test(next)) return n + 1;
      if (!forms.goesOn.test(next) && !forms.opensAgain.test(next)) return 0;
    }
    return 0;
  };

  const readLines = (isEnd: boolean): FeedBatch => {
    const rows: FeedRow[] = [];
    const unread: UnreadRow[] = [];
    /** Lines that are rows by themselves, to be parted into cells at once. */
    let plain: string[] = [];
    let plainFrom: number[] = [];
    const keep = (at: number, text: string, why: string) =>
      unread.push({ line: at, text: text.slice(0, keptLetters), why });
    const take = (at: number, text: string, cells: string[]) => {
      const row = fitted(cells);
      if (typeof row === 'string') keep(at, text, row);
      else rows.push({ line: at, cells: row });
    };
    const flush = () => {
      if (plain.length === 0) return;
      const { data } = Papa.parse<string[]>(plain.join('\n'), { delimiter, newline: '\n' });
      for (const [i, cells] of data.entries()) take(plainFrom[i] ?? 0, plain[i] ?? '', cells);
      plain = [];
      plainFrom = [];
    };
    let i = 0;
    for (; i < lines.length; i++) {
      const text = lines[i] ?? '';
      if (text.trim() === '') continue;
      if (!text.includes('"') || forms.whole.test(text)) {
        plain.push(text);
        plainFrom.push(line + i);
        continue;
      }
      flush();
      const isOpen = forms.open.test(text);
      const count = isOpen ? linesOf(i, isEnd) : 1;
      if (count === undefined) break;
      if (count > 1) {
        const whole = lines.slice(i, i + count).join('\n');
        const cells = cellsIn(whole);
        if (typeof fitted([...cells]) !== 'string') {
          take(line + i, whole, cells);
          i += count - 1;
          continue;
        }
      }
      const loose = isOpen ? undefined : looseCells(text);
      if (loose) take(line + i, text, loose);
      else
        keep(
          line + i,
          text,
          isOpen
            ? 'A cell is opened by a quote and never closed: the row was cut off.'
            : 'Its quotes are no pairs.',
        );
    }
    flush();
    line += i;
    lines = lines.slice(i);
    return { rows, unread };
  };

  return {
    /** Takes the next piece of text; gives the rows that are whole by now. */
    take: (text: string): FeedBatch => {
      const pieces = (rest + text).split('\n');
      rest = pieces.pop() ?? '';
      for (const piece of pieces) lines.push(piece.endsWith('\r') ? piece.slice(0, -1) : piece);
      return readLines(false);
    },
    /** Gives what is left at the end of the file. */
    end: (): FeedBatch => {
      if (rest !== '') lines.push(rest);
      rest = '';
      return readLines(true);
    },
  };
};
