import { Parser } from 'htmlparser2';
import { decodeReferences } from './characterReferences.ts';
import type { Edit, MappedText } from './ranges.ts';
import { sourceAt } from './ranges.ts';

/** An article inside of an export. */
export interface ExportedArticle {
  readonly title: string;
  /** Its page; empty where the export does not tell. */
  readonly page: string;
  /** Its HTML, and where each letter stands in the export. */
  readonly html: MappedText;
  /** Edits of its HTML as edits of the export. */
  readonly place: (edits: readonly Edit[]) => Edit[];
}

export interface ReadExport {
  readonly articles: readonly ExportedArticle[];
  /** What could not be read, as sentences. */
  readonly left: readonly string[];
}

/** True for a text that is RSS with articles in it (RSS 2.0; its content module, `content:encoded`). */
export const isExport = (text: string): boolean =>
  /^\uFEFF?\s*(?:<\?xml[\s\S]{0,200}?\?>)?\s*(?:<!--[\s\S]{0,2000}?-->\s*)*<(?:rss|rdf:RDF)\b/i.test(
    text.slice(0, 4000),
  );

/** A piece of an article: in a CDATA section as it is, outside of one with what XML escapes. */
interface Piece extends MappedText {
  readonly isEscaped: boolean;
  readonly end: number;
}

const escapeXml = (text: string): string =>
  text.replace(/[&<>]/g, (letter) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;' })[letter] ?? letter);

const articleOf = (title: string, page: string, pieces: readonly Piece[]): ExportedArticle => {
  const [only] = pieces;
  let text = '';
  const at: number[] = [];
  /** Where each piece begins in the article. */
  const starts: number[] = [];
  for (const piece of pieces) {
    starts.push(text.length);
    text += piece.text;
    if (pieces.length > 1) for (let i = 0; i < piece.text.length; i++) at.push(sourceAt(piece, i));
  }
  at.push(pieces.at(-1)?.end ?? 0);
  const html: MappedText =
    only && pieces.length === 1
      ? { text, base: only.base, at: only.at }
      : { text, base: only?.base ?? 0, at };
  const pieceAt = (index: number): Piece | undefined =>
    pieces[
      Math.max(
        0,
        starts.findLastIndex((start) => start <= index),
      )
    ];
  return {
    title,
    page,
    html,
    place: (edits) =>
      edits.map((edit) => {
        // What is put in at the end of a piece belongs to what stands before it.
        const piece = pieceAt(
          edit.start === edit.end && edit.order === 'closes' ? Math.max(0, edit.start - 1) : edit.start,
        );
        const isLast = edit.end >= text.length;
        return {
          ...edit,
          start: sourceAt(html, edit.start),
          end: isLast && edit.start === edit.end ? sourceAt(html, edit.start) : sourceAt(html, edit.end),
          text: piece?.isEscaped ? escapeXml(edit.text) : edit.text,
        };
      }),
  };
};

/** Reads the articles of a blog's export; one that is cut short in an article gives those before it. */
export const readExport = (source: string): ReadExport => {
  const articles: ExportedArticle[] = [];
  let [title, page, name, isItem, isCut] = ['', '', '', false, false];
  let pieces: Piece[] = [];
  let cdata: number | undefined;
  const parser: Parser = new Parser(
    {
      onopentag: (tag) => {
        name = tag;
        if (tag === 'item') [title, page, isItem] = ['', '', true];
        if (tag === 'content:encoded') pieces = [];
      },
      oncdatastart: () => {
        cdata = parser.startIndex + '<![CDATA['.length;
      },
      oncdataend: () => {
        cdata = undefined;
      },
      ontext: (text) => {
        if (!isItem) return;
        if (name === 'title') title += text;
        if (name === 'link') page += text;
        if (name !== 'content:encoded') return;
        if (cdata !== undefined) {
          // A section ends before the next begins; what the parser gives of it may come in several pieces.
          const base = cdata;
          pieces.push({ text, base, end: base + text.length, isEscaped: false });
          cdata = base + text.length;
          return;
        }
        const end = parser.endIndex + 1;
        const raw = source.slice(parser.startIndex, end);
        pieces.push({ ...decodeReferences(raw, parser.startIndex), end, isEscaped: true });
      },
      onclosetag: (tag, isImplied) => {
        if (tag === 'content:encoded' && isItem) {
          isCut = isImplied;
          if (!isImplied && pieces.some(({ text }) => text.trim() !== ''))
            articles.push(articleOf(title.trim(), page.trim(), pieces));
        }
        if (tag === 'item') {
          isCut ||= isImplied;
          isItem = false;
        }
        name = '';
      },
    },
    { xmlMode: true, recognizeCDATA: true, decodeEntities: true },
  );
  parser.write(source);
  parser.end();
  return {
    articles,
    left: isCut
      ? [
          `The export ends within “${title.trim() || 'an article'}”: it was cut short. What stands before is read.`,
        ]
      : [],
  };
};
