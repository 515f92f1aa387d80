import Papa from 'papaparse';

/** A table as it was read: every row as long as the header says, or as it came where there is none. */
export interface CsvTable {
  readonly header: readonly string[];
  readonly rows: readonly (readonly string[])[];
  /** Line of each row in the file, from 1. */
  readonly lines: readonly number[];
  readonly delimiter: string;
}

/** As many lines as tell a file's delimiter, and as much of it as is looked through for them. */
const [sniffedLines, sniffed] = [60, 200_000];
const delimiters = [',', ';', '\t', '|', '^', '~', '¦'];

/**
 * The sign that parts the cells of most lines into the same number, and into many. A comma before decimals parts lines too, but not
 * their heading, and not each alike.
 */
const likelyDelimiter = (text: string): string => {
  const beginning = text.slice(0, sniffed);
  let best = { delimiter: ',', score: 0 };
  for (const delimiter of delimiters) {
    if (!beginning.includes(delimiter)) continue;
    const { data } = Papa.parse<string[]>(beginning, {
      delimiter,
      preview: sniffedLines,
      skipEmptyLines: 'greedy',
    });
    const times = new Map<number, number>();
    for (const cells of data) times.set(cells.length, (times.get(cells.length) ?? 0) + 1);
    for (const [width, lines] of times) {
      const score = width < 2 ? 0 : (lines / data.length) ** 2 * Math.log(width);
      if (score > best.score) best = { delimiter, score };
    }
  }
  return best.delimiter;
};

/** Takes the apostrophes off that keep a spreadsheet from computing a cell, or what it may take for one. */
const unguard = (cell: string): string =>
  cell.includes("'") ? cell.replace(/(^|[;|\t\r\n])'('*)(?=[=+\-@])|^'('*)(?=[\t\r])/g, '$1$2$3') : cell;

const looksLikeHeader = (first: readonly string[], others: readonly (readonly string[])[]): boolean => {
  const texts = first.map((cell) => cell.trim());
  if (texts.some((cell) => /^https?:\/\//i.test(cell)) || texts.every((cell) => cell === '')) return false;
  // A header differs from what stands under it: an address, a number, or longer text.
  const differs = texts.some((cell, i) =>
    others.some(
      (row) => /^https?:\/\//i.test(row[i] ?? '') || (/^\d/.test(row[i] ?? '') && !/^\d/.test(cell)),
    ),
  );
  // One that says the same twice may be a row of words; with something else under it, it is a careless header.
  if (new Set(texts).size < texts.length) return differs && !texts.some((cell) => /^\d/.test(cell));
  return others.length === 0 || differs || texts.every((cell) => /^[\p{L}][\p{L}\d _./-]{0,40}$/u.test(cell));
};

/** No heading is longer; its number may follow. */
const longestHeading = 190;

/** Headings as columns are known by: trimmed, and one that stands there again with its number. */
export const headings = (cells: readonly string[]): string[] => {
  const times = new Map<string, number>();
  return cells.map((cell) => {
    const name = cell.trim().slice(0, longestHeading);
    const n = (times.get(name) ?? 0) + 1;
    times.set(name, n);
    // What every object has by itself is the name of no column.
    return n === 1 && !(name in Object.prototype) ? name : `${name} (${n})`;
  });
};

/** Every line of a text that holds anything, as cells; the delimiter is found, or told by a `sep=` line. */
export const readGrid = (text: string): { rows: string[][]; lines: number[]; delimiter: string } => {
  const lines: number[] = [];
  const rows: string[][] = [];
  const whole = text.replace(/^\uFEFF/, '');
  const told = /^sep=(.)\r?\n/i.exec(whole);
  const body = told ? whole.slice(told[0].length) : whole;
  const delimiter = told?.[1] ?? likelyDelimiter(body);
  // Nearly all files have no cell over several lines, and none that is guarded: then no cell needs a look.
  const hasQuotes = body.includes('"');
  const hasGuards = body.includes("'");
  let line = told ? 2 : 1;
  for (const cells of Papa.parse<string[]>(body, { delimiter }).data) {
    if (cells.some((cell) => cell.trim() !== '')) {
      rows.push(hasGuards ? cells.map(unguard) : cells);
      lines.push(line);
    }
    line += 1;
    // A quoted cell may go on over several lines.
    if (hasQuotes) for (const cell of cells) if (cell.includes('\n')) line += cell.split('\n').length - 1;
  }
  return { rows, lines, delimiter };
};

/**
 * Reads CSV, TSV or semicolon-separated text (RFC 4180, and what people make of it): delimiter and header are found.
 * Without a header the columns are called by their numbers.
 */
export const readTable = (text: string): CsvTable => {
  const { rows: all, lines, delimiter } = readGrid(text);
  const [first = []] = all;
  if (all.length > 0 && looksLikeHeader(first, all.slice(1, 20)))
    return { header: headings(first), rows: all.slice(1), lines: lines.slice(1), delimiter };
  const width = Math.max(0, ...all.slice(0, 100).map((row) => row.length));
  return { header: Array.from({ length: width }, (_, i) => `Column ${i + 1}`), rows: all, lines, delimiter };
};

/** A number a spreadsheet adds up; it computes nothing. */
const isNumber = (cell: string): boolean => /^-?\d+(?:\.\d+)?$/.test(cell);

/**
 * Keeps a spreadsheet from computing a cell. One that parts cells by something else than commas does not heed our quotes,
 * so a cell may begin for it after any `;`, bar, tab or line break inside of ours.
 */
const guard = (cell: string): string =>
  isNumber(cell)
    ? cell
    : cell.replace(
        /(^|[;|\t\r\n])('*)(?=[=+\-@])|^('*)(?=[\t\r])/g,
        (_, before: string = '', quotes: string = '', alone: string = '') => `${before}'${quotes}${alone}`,
      );

/**
 * Writes CSV (RFC 4180, UTF-8 with a byte order mark so that spreadsheets read it as such). A text cell that a
 * spreadsheet would compute gets an apostrophe in front, which our own import takes off again; numbers get none, written
 * as texts neither.
 */
export const writeTable = (
  header: readonly string[],
  rows: readonly (readonly (string | number)[])[],
): string =>
  `\uFEFF${Papa.unparse([
    [...header],
    ...rows.map((row) => row.map((cell) => (typeof cell === 'number' ? cell : guard(cell)))),
  ])}\r\n`;
