import { readGrid } from './csv.ts';
import type { FoundTable, Grid } from './findTable.ts';
import { findTable } from './findTable.ts';
import { readJson } from './jsonTable.ts';
import { tableOfPage } from './pageTable.ts';
import { cellText, gridOf } from './tableCells.ts';
import { decodeText } from './text.ts';

/** A file as a table, with what it turned out to be; or why it is none. */
export type OpenedTable =
  | { readonly ok: true; readonly table: FoundTable; readonly format: string }
  | { readonly ok: false; readonly message: string };

const found = (grid: Grid, format: string, headerLine?: number): OpenedTable => {
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
 * Opens a file with a table, such as a report: CSV, TSV, semicolons, XLSX, a table of a web page, JSON, JSON lines; what it is is found from its content.
 *
 * @param headerLine the line of its heading, from 1, where a person pointed at it; 0 for none
 */
export const openTable = async (bytes: Uint8Array, headerLine?: number): Promise<OpenedTable> => {
  if (bytes.length === 0) return { ok: false, message: 'The file is empty.' };
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) {
    try {
      const [{ default: readSheets }, { strFromU8, unzipSync }] = await Promise.all([
        import('read-excel-file/universal'),
        import('fflate'),
      ]);
      const sheets = await readSheets(new Blob([new Uint8Array(bytes)]));
      const [first] = sheets;
      // A sheet in front may only say what the next one holds.
      const longest = sheets.reduce(
        (best, one) => (one.data.length > best.data.length ? one : best),
        sheets[0] ?? { sheet: '', data: [] },
      );
      if (longest.data.length === 0) return { ok: false, message: 'No sheet of this workbook has any rows.' };
      const which = longest === first ? 'its first sheet' : `its sheet ${longest.sheet}`;
      const opened = found(
        gridOf(longest.data.map((row) => row.map(cellText))),
        `XLSX, ${which}`,
        headerLine,
      );
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
  if (/[\u0000-\u0008]/.test(text)) return { ok: false, message: 'This is no text and no workbook.' };
  if (/^\s*[{[]/.test(text)) return readJson(text);
  if (/^\s*</.test(text)) {
    const cells = await tableOfPage(text);
    if (cells.length > 1) return found(gridOf(cells), 'a table of a web page', headerLine);
    return {
      ok: false,
      message: /^\s*<\?xml/.test(text)
        ? 'This is XML, which is not read here. Download the report as CSV, JSON or a workbook.'
        : 'This is a web page without a table of rows, as when a download asks to sign in. Download the report again, as CSV.',
    };
  }
  const { delimiter, ...grid } = readGrid(text);
  if (grid.rows.length === 0) return { ok: false, message: 'There is no row in this file.' };
  if (grid.rows.every((cells) => cells.length < 2))
    return {
      ok: false,
      message:
        'Nothing parts the lines of this file into cells: no comma, semicolon, tab or bar. Download the report as CSV.',
    };
  return found(grid, `${delimiters[delimiter] ?? 'text'}, ${encoding}`, headerLine);
};
