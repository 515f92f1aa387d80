import type { DefaultTreeAdapterTypes } from 'parse5';
import { headings, readGrid } from './csv.ts';
import type { FoundTable, Grid } from './reportGrid.ts';
import { findTable } from './reportGrid.ts';
import { decodeText } from './text.ts';

/** A file as a table, with what it turned out to be; or why it is none. */
export type OpenedReport =
  | { readonly ok: true; readonly table: FoundTable; readonly format: string }
  | { readonly ok: false; readonly message: string };

const cellText = (cell: unknown): string => {
  if (cell === null || cell === undefined) return '';
  // A date cell of a spreadsheet knows no zone; its clock is written as it shows there. Its fraction of a day is seldom a whole
  // second, and a time alone is the fraction of no day.
  if (cell instanceof Date) {
    const [day = '', clock = ''] = new Date(Math.round(cell.getTime() / 1000) * 1000)
      .toISOString()
      .slice(0, 19)
      .split('T');
    return cell.getUTCFullYear() < 1905 ? clock : clock === '00:00:00' ? day : `${day} ${clock}`;
  }
  // What was computed ends in digits nobody means; and three decimals might be taken for thousands.
  if (typeof cell === 'number') {
    const text = String(Number(cell.toPrecision(15)));
    return /^-?\d+\.\d{3}$/.test(text) ? `${text}0` : text;
  }
  return String(cell);
};

const gridOf = (all: readonly (readonly string[])[]): Grid => {
  const filled = all
    .map((cells, i) => ({ cells, line: i + 1 }))
    .filter(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  return { rows: filled.map(({ cells }) => cells), lines: filled.map(({ line }) => line) };
};

/** An object's values by their names, those inside another one by both names. */
const flat = (value: object, before = ''): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(value).flatMap(([name, inner]): [string, unknown][] =>
      typeof inner === 'object' && inner !== null && !Array.isArray(inner)
        ? Object.entries(flat(inner, `${before}${name}.`))
        : [[`${before}${name}`, inner]],
    ),
  );
const tableOfObjects = (list: readonly { value: object; line: number }[], format: string): OpenedReport => {
  const records = list.map(({ value, line }) => ({ values: flat(value), line }));
  const names = [...new Set(records.flatMap(({ values }) => Object.keys(values)))];
  const rows = records.map(({ values }) => names.map((name) => cellText(values[name])));
  const lines = records.map(({ line }) => line);
  return { ok: true, format, table: { header: headings(names), rows, lines, aside: [], headerLine: 0 } };
};

const isObject = (value: unknown): value is object =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
/** The longest list of objects in a JSON value, at most three levels deep. */
const longestList = (value: unknown, depth = 0): readonly object[] => {
  if (Array.isArray(value)) return value.every(isObject) ? value : [];
  if (!isObject(value) || depth > 3) return [];
  const lists = Object.values(value).map((inner) => longestList(inner, depth + 1));
  return lists.reduce((longest, list) => (list.length > longest.length ? list : longest), []);
};

const readJson = (text: string): OpenedReport => {
  let whole: unknown;
  try {
    whole = JSON.parse(text);
  } catch {
    return readJsonLines(text);
  }
  const list = longestList(whole);
  if (list.length > 0)
    return tableOfObjects(
      list.map((value, i) => ({ value, line: i + 1 })),
      'JSON',
    );
  return isObject(whole)
    ? tableOfObjects([{ value: whole, line: 1 }], 'JSON')
    : { ok: false, message: 'This is JSON without a list of rows in it.' };
};

const readJsonLines = (text: string): OpenedReport => {
  const records: { value: object; line: number }[] = [];
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === '') continue;
    try {
      const value: unknown = JSON.parse(line);
      if (!isObject(value)) throw new Error('no object');
      records.push({ value, line: i + 1 });
    } catch {
      return { ok: false, message: `Line ${i + 1} is no JSON object. Each line has to be one.` };
    }
  }
  return tableOfObjects(records, 'JSON lines');
};

/** The longest table of a page, as networks save them under the name of a workbook. */
const readHtml = async (text: string, headerLine?: number): Promise<OpenedReport> => {
  const { parse, html } = await import('parse5');
  type Node = DefaultTreeAdapterTypes.Node;
  const childrenOf = (node: Node): Node[] => ('childNodes' in node ? node.childNodes : []);
  const nameOf = (node: Node): string =>
    'tagName' in node && node.namespaceURI === html.NS.HTML ? node.tagName : '';
  const within = (node: Node, names: readonly string[]): Node[] =>
    childrenOf(node).flatMap((child) => [
      ...(names.includes(nameOf(child)) ? [child] : []),
      ...(nameOf(child) === 'table' && !names.includes('table') ? [] : within(child, names)),
    ]);
  const textOf = (node: Node): string =>
    node.nodeName === '#text' && 'value' in node ? node.value : childrenOf(node).map(textOf).join('');
  const tables = within(parse(text), ['table']).map((table) =>
    within(table, ['tr']).map((row) =>
      within(row, ['td', 'th']).map((cell) => textOf(cell).replace(/\s+/g, ' ').trim()),
    ),
  );
  const longest = tables.reduce<string[][]>((best, rows) => (rows.length > best.length ? rows : best), []);
  return longest.length < 2
    ? {
        ok: false,
        message:
          'This is a web page without a table of rows, as when a download asks to sign in. Download the report again, as CSV.',
      }
    : found(gridOf(longest), 'a table of a web page', headerLine);
};

const found = (grid: Grid, format: string, headerLine?: number): OpenedReport => {
  const table = findTable(grid, headerLine);
  return table.rows.length === 0
    ? { ok: false, message: 'There is no row under a heading in this file.' }
    : { ok: true, table, format };
};

const delimiters: Readonly<Record<string, string>> = {
  ',': 'commas',
  ';': 'semicolons',
  '\t': 'tabs',
  '|': 'bars',
};

/**
 * Reads a report: CSV, TSV, semicolons, XLSX, a table of a web page, JSON, JSON lines; what it is is found from its content.
 *
 * @param headerLine the line of its heading, from 1, where a person pointed at it; 0 for none
 */
export const openReport = async (bytes: Uint8Array, headerLine?: number): Promise<OpenedReport> => {
  if (bytes.length === 0) return { ok: false, message: 'The file is empty.' };
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) {
    try {
      const [{ readSheet }, { strFromU8, unzipSync }] = await Promise.all([
        import('read-excel-file/universal'),
        import('fflate'),
      ]);
      const rows = await readSheet(new Blob([new Uint8Array(bytes)]));
      if (rows.length === 0) return { ok: false, message: 'The first sheet of this workbook has no rows.' };
      const opened = found(gridOf(rows.map((row) => row.map(cellText))), 'XLSX, its first sheet', headerLine);
      // Cells with a format of dates are dates already; those without are numbers, counted as the workbook says (ECMA-376 §18.2.28).
      const name = 'xl/workbook.xml';
      const book = unzipSync(bytes, { filter: (file) => file.name === name })[name];
      const since1904 = /<workbookPr\b[^>]*\bdate1904="(?:1|true)"/.test(book ? strFromU8(book) : '');
      return opened.ok && since1904 ? { ...opened, table: { ...opened.table, since1904 } } : opened;
    } catch (error) {
      return {
        ok: false,
        message: `This workbook cannot be read: ${error instanceof Error ? error.message : String(error)}. It may have been cut off; download it again.`,
      };
    }
  }
  if (bytes[0] === 0xd0 && bytes[1] === 0xcf)
    return { ok: false, message: 'This is a workbook of an old kind. Save it as XLSX or CSV.' };
  if (String.fromCharCode(...bytes.slice(0, 5)) === '%PDF-')
    return {
      ok: false,
      message: 'This is a PDF, made to be printed. Download the report as CSV or as a workbook.',
    };
  const { text, encoding } = decodeText(bytes);
  if (text.includes('\u0000')) return { ok: false, message: 'This is no text and no workbook.' };
  if (/^\s*[{[]/.test(text)) return readJson(text);
  if (/^\s*</.test(text)) return readHtml(text, headerLine);
  const { delimiter, ...grid } = readGrid(text);
  if (grid.rows.length === 0) return { ok: false, message: 'There is no row in this file.' };
  return found(grid, `${delimiters[delimiter] ?? 'text'}, ${encoding}`, headerLine);
};
