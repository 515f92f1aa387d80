import type { CsvTable } from './csv.ts';
import { headings, readTable } from './csv.ts';
import { decodeText } from './text.ts';

/** A table of a report; the delimiter does not matter any more. */
type ReportTable = Omit<CsvTable, 'delimiter'>;

/** A file as a table, with what it turned out to be; or why it is none. */
export type OpenedReport =
  | { readonly ok: true; readonly table: ReportTable; readonly format: string }
  | { readonly ok: false; readonly message: string };

const cellText = (cell: unknown): string => {
  if (cell === null || cell === undefined) return '';
  // A date cell of a spreadsheet knows no zone; its clock is written as it shows there.
  if (cell instanceof Date) return cell.toISOString().replace('T', ' ').replace('.000Z', '');
  return String(cell);
};

const tableOf = (all: readonly (readonly string[])[]): ReportTable => {
  const filled = all
    .map((cells, i) => ({ cells, line: i + 1 }))
    .filter(({ cells }) => cells.some((cell) => cell.trim() !== ''));
  const [head, ...rows] = filled;
  return {
    header: headings(head?.cells ?? []),
    rows: rows.map((row) => row.cells),
    lines: rows.map((row) => row.line),
  };
};

const readJsonLines = (text: string): OpenedReport => {
  const header: string[] = [];
  const records: { values: Record<string, unknown>; line: number }[] = [];
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === '') continue;
    try {
      const value: unknown = JSON.parse(line);
      if (typeof value !== 'object' || value === null || Array.isArray(value)) throw new Error('no object');
      const values: Record<string, unknown> = { ...value };
      for (const name of Object.keys(values)) if (!header.includes(name)) header.push(name);
      records.push({ values, line: i + 1 });
    } catch {
      return { ok: false, message: `Line ${i + 1} is no JSON object. Each line has to be one.` };
    }
  }
  return {
    ok: true,
    format: 'JSON lines',
    table: {
      header,
      rows: records.map(({ values }) => header.map((name) => cellText(values[name]))),
      lines: records.map(({ line }) => line),
    },
  };
};

const delimiters: Readonly<Record<string, string>> = {
  ',': 'commas',
  ';': 'semicolons',
  '\t': 'tabs',
  '|': 'bars',
};

/** Reads a report: CSV, TSV, semicolons, XLSX, JSON lines; what it is is found from its content. */
export const openReport = async (bytes: Uint8Array): Promise<OpenedReport> => {
  if (bytes.length === 0) return { ok: false, message: 'The file is empty.' };
  if (bytes[0] === 0x50 && bytes[1] === 0x4b) {
    try {
      const { readSheet } = await import('read-excel-file/universal');
      const rows = await readSheet(new Blob([new Uint8Array(bytes)]));
      const table = tableOf(rows.map((row) => row.map(cellText)));
      return table.rows.length === 0
        ? { ok: false, message: 'The first sheet of this workbook has no rows.' }
        : { ok: true, table, format: 'XLSX, its first sheet' };
    } catch (error) {
      return {
        ok: false,
        message: `This workbook cannot be read: ${error instanceof Error ? error.message : String(error)}. It may have been cut off; download it again.`,
      };
    }
  }
  if (bytes[0] === 0xd0 && bytes[1] === 0xcf)
    return { ok: false, message: 'This is a workbook of an old kind. Save it as XLSX or CSV.' };
  const { text, encoding } = decodeText(bytes);
  if (text.includes('\u0000')) return { ok: false, message: 'This is no text and no workbook.' };
  if (/^\s*\{/.test(text)) return readJsonLines(text);
  if (/^\s*</.test(text))
    return { ok: false, message: 'This is a web page, not a report. Download it as CSV.' };
  const table = readTable(text);
  return table.rows.length === 0
    ? { ok: false, message: 'There is no row in this file.' }
    : { ok: true, table, format: `${delimiters[table.delimiter] ?? 'text'}, ${encoding}` };
};
