import { headings, readGrid } from './csv.ts';
import type { FeedBatch } from './feedLines.ts';
import { makeRowReader } from './feedLines.ts';
import type { FeedEncoding, FileBytes } from './feedText.ts';
import { decodeFile, findEncoding } from './feedText.ts';
import type { XmlShape } from './feedXml.ts';
import { makeXmlReader, xmlShape } from './feedXml.ts';

export type { FeedBatch, FeedRow, UnreadRow } from './feedLines.ts';
export type { FeedEncoding, FileBytes } from './feedText.ts';
export { feedEncodings } from './feedText.ts';

/** How a feed is written, and its first products. */
export interface FeedHead {
  readonly encoding: FeedEncoding;
  /** Bytes that are no letter in it. */
  readonly broken: number;
  readonly header: readonly string[];
  readonly sample: readonly (readonly string[])[];
  /** For people: `tabs`. */
  readonly format: string;
  readonly delimiter?: string;
  /** Lines of the file up to the end of its heading. */
  readonly headLines?: number;
  /** Its lines end as they did on old machines, by a carriage return alone. */
  readonly oldEnds: boolean;
  readonly xml?: XmlShape;
}

export type OpenedFeed =
  { readonly ok: true; readonly head: FeedHead } | { readonly ok: false; readonly message: string };

/** So many letters of a file show how it is written. */
const shown = 1_000_000;
const sampleRows = 2000;

/** The beginning of a text, and whether that is all of it. */
const beginningOf = async (pieces: AsyncIterable<string>): Promise<{ text: string; isWhole: boolean }> => {
  let text = '';
  for await (const piece of pieces) {
    text += piece;
    if (text.length > shown) return { text, isWhole: false };
  }
  return { text, isWhole: true };
};

const delimiterNames: Readonly<Record<string, string>> = {
  ',': 'commas',
  ';': 'semicolons',
  '\t': 'tabs',
  '|': 'bars',
};

/** A piece of text with line ends as they are today: a file without any of them may have those of old machines. */
const withLineEnds = (text: string, hasOld: boolean): string => (hasOld ? text.replaceAll('\r', '\n') : text);

/** The line with the headings: the first of those as wide as most, and how many lines there are up to it. */
const headingOf = (text: string): { cells: string[]; line: number; delimiter: string } | undefined => {
  const { rows, lines, delimiter } = readGrid(text.slice(0, 200_000));
  const widths = new Map<number, number>();
  for (const { length } of rows) widths.set(length, (widths.get(length) ?? 0) + 1);
  const width = [...widths].toSorted((a, b) => b[1] - a[1])[0]?.[0] ?? 0;
  const at = rows.findIndex(({ length }) => length === width);
  const cells = rows[at];
  return cells && width > 1 ? { cells, line: lines[at] ?? 1, delimiter } : undefined;
};

/**
 * Looks at a shop's feed: CSV, TSV or another delimiter with headings, or XML.
 *
 * @param encoding what its letters are written in, where a person said so
 */
export const openFeed = async (bytes: FileBytes, encoding?: FeedEncoding): Promise<OpenedFeed> => {
  const found = await findEncoding(bytes);
  const as = encoding ?? found.encoding;
  const { text: raw, isWhole } = await beginningOf(decodeFile(bytes, as));
  const oldEnds = !raw.includes('\n') && raw.includes('\r');
  const text = withLineEnds(raw, oldEnds);
  if (text.trim() === '') return { ok: false, message: 'The file is empty.' };
  if (/^PK\u0003\u0004/.test(text))
    return { ok: false, message: 'This is a packed file or a workbook. Unpack it, or save it as CSV.' };
  if (/[\u0000-\u0008]/.test(text.slice(0, 10_000)))
    return { ok: false, message: 'This is no text. A feed is CSV, TSV or XML.' };
  const head = { encoding: as, oldEnds, broken: as === found.encoding ? found.broken : 0 };
  if (/^\s*</.test(text)) {
    if (/^\s*<(?:!doctype html|html)/i.test(text))
      return {
        ok: false,
        message: 'This is a web page, as when a download asks to sign in. Download the feed again.',
      };
    const xml = xmlShape(text);
    if (!xml)
      return {
        ok: false,
        message: 'No element of this XML looks like a product: none holds several values.',
      };
    const reader = makeXmlReader(xml);
    const rows = [...reader.take(text).rows, ...(isWhole ? reader.end().rows : [])];
    return {
      ok: true,
      head: {
        ...head,
        xml,
        header: xml.header,
        sample: rows.slice(0, sampleRows).map(({ cells }) => cells),
        format: 'XML',
      },
    };
  }
  if (/^\s*[{[]/.test(text))
    return { ok: false, message: 'This is JSON, which is not read here. A feed is CSV, TSV or XML.' };
  const heading = headingOf(text);
  if (!heading)
    return {
      ok: false,
      message: 'Nothing parts the lines of this file into cells: no comma, semicolon, tab or bar.',
    };
  const { delimiter } = heading;
  const header = headings(heading.cells);
  const reader = makeRowReader(delimiter, header.length, heading.line + 1);
  const below = text.split('\n').slice(heading.line).join('\n');
  const rows = [...reader.take(below).rows, ...(isWhole ? reader.end().rows : [])];
  return {
    ok: true,
    head: {
      ...head,
      header,
      sample: rows.slice(0, sampleRows).map(({ cells }) => cells),
      format: delimiterNames[delimiter] ?? `parted by ${delimiter}`,
      delimiter,
      headLines: heading.line,
    },
  };
};

/** Reads a feed to its end, piece by piece; no more than a piece of it is held. */
export async function* readFeed(bytes: FileBytes, head: FeedHead): AsyncGenerator<FeedBatch> {
  const pieces = decodeFile(bytes, head.encoding);
  if (head.xml) {
    const reader = makeXmlReader(head.xml);
    for await (const piece of pieces) yield reader.take(piece);
    yield reader.end();
    return;
  }
  const headLines = head.headLines ?? 1;
  const reader = makeRowReader(head.delimiter ?? ',', head.header.length, headLines + 1);
  /** Lines of the heading that have to be passed over still. */
  let skipped = headLines;
  let held = '';
  for await (const piece of pieces) {
    let text = held + withLineEnds(piece, head.oldEnds);
    held = '';
    while (skipped > 0) {
      const end = text.indexOf('\n');
      if (end < 0) break;
      text = text.slice(end + 1);
      skipped -= 1;
    }
    if (skipped > 0) held = text;
    else yield reader.take(text);
  }
  yield reader.end();
}
