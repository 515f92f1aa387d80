import { decodeHTMLStrict } from 'entities';
import { Parser } from 'htmlparser2';
import type { FeedBatch, FeedRow, UnreadRow } from './feedLines.ts';

/** What a product is in an XML file, and what it can hold. */
export interface XmlShape {
  /** The element that is there for each product. */
  readonly item: string;
  /** Where in it values stand: `price`, `price@currency`, `images/image`. */
  readonly header: readonly string[];
}

/** More columns than this are no columns. */
const mostColumns = 300;

/** Elements with what is inside of them, as far as a beginning of a file shows. */
const elementsIn = (text: string): Map<string, { count: number; columns: Set<string>; name: string }> => {
  const found = new Map<string, { count: number; columns: Set<string>; name: string }>();
  const open: string[] = [];
  const add = (column: string) => {
    // A value belongs to each element around it.
    for (let depth = 0; depth < open.length; depth++) {
      const inner = open.slice(depth + 1).join('/');
      found.get(open.slice(0, depth + 1).join('/'))?.columns.add(inner + column);
    }
  };
  let hasText = false;
  const parser = new Parser(
    {
      onopentag: (name, attributes) => {
        open.push(name);
        hasText = false;
        const path = open.join('/');
        const known = found.get(path) ?? { count: 0, columns: new Set<string>(), name };
        known.count += 1;
        found.set(path, known);
        for (const attribute of Object.keys(attributes))
          if (!attribute.startsWith('xmlns')) add(`@${attribute}`);
      },
      ontext: (words) => (hasText ||= words.trim() !== ''),
      onclosetag: () => {
        if (hasText) add('');
        hasText = false;
        open.pop();
      },
    },
    { xmlMode: true },
  );
  parser.write(text);
  return found;
};

/**
 * Finds what a product is in the beginning of an XML file: of the elements that stand there more than once, the one that holds the
 * most; where none does, the innermost that holds several values. Undefined where there is none.
 */
export const xmlShape = (beginning: string): XmlShape | undefined => {
  const all = [...elementsIn(beginning)].filter(([, { columns }]) => columns.size > 1);
  const repeated = all.filter(([, { count }]) => count > 1);
  const weigh = ({ count, columns }: { count: number; columns: Set<string> }) =>
    columns.size * Math.log2(1 + count);
  const best =
    repeated.toSorted(([, a], [, b]) => weigh(b) - weigh(a))[0] ??
    all.toSorted(([a], [b]) => b.split('/').length - a.split('/').length)[0];
  if (!best) return undefined;
  const [, { name, columns }] = best;
  return { item: name, header: [...columns].filter((column) => column !== '').slice(0, mostColumns) };
};

/**
 * Reads the products of an XML file that comes piece by piece. One that is not well-formed is kept aside, and reading goes on with
 * the next.
 */
export const makeXmlReader = ({ item, header }: XmlShape) => {
  const places = new Map(header.map((name, i) => [name, i]));
  let rows: FeedRow[] = [];
  let unread: UnreadRow[] = [];
  let cells: string[] | undefined;
  let fault = '';
  let hasEnded = false;
  /** Line on which the product begins; and how far lines were counted, up to which place of the file. */
  let line = 0;
  const counted = { line: 1, at: 0 };
  const piece = { text: '', at: 0 };
  const open: string[] = [];
  let words = '';
  /** An element has just begun: one that ends by itself, as `<br/>`, is told as one without an end. */
  let isFresh = false;

  const lineAt = (place: number): number => {
    const until = Math.max(counted.at, place);
    for (
      let i = piece.text.indexOf('\n', counted.at - piece.at);
      i >= 0 && i < until - piece.at;
      i = piece.text.indexOf('\n', i + 1)
    )
      counted.line += 1;
    counted.at = until;
    return counted.line;
  };
  const put = (column: string, value: string) => {
    const at = places.get(column);
    // Of several pictures or categories the first is the one.
    if (cells && at !== undefined && cells[at] === '')
      cells[at] = value.includes('&') ? decodeHTMLStrict(value.trim()) : value.trim();
  };
  const setAside = (why: string) => {
    const text = (cells ?? []).flatMap((cell, i) => (cell === '' ? [] : [`${header[i] ?? ''}: ${cell}`]));
    unread.push({ line, text: text.join('\n').slice(0, 4000), why });
    cells = undefined;
  };
  const parser = new Parser(
    {
      onopentag: (name, attributes) => {
        words = '';
        isFresh = true;
        if (name === item) {
          if (cells) setAside('The next product begins before this one ends.');
          cells = header.map(() => '');
          fault = '';
          line = lineAt(parser.startIndex);
          open.length = 0;
        } else if (cells) open.push(name);
        if (!cells) return;
        const path = open.join('/');
        for (const [attribute, value] of Object.entries(attributes)) put(`${path}@${attribute}`, value);
      },
      ontext: (text) => {
        words += text;
        isFresh = false;
      },
      onclosetag: (name, isImplied) => {
        // What the file leaves open at its end is none of these.
        if (!cells || hasEnded) return;
        if (name !== item) {
          if (isImplied && !isFresh) fault ||= `Its element ${name} has no end.`;
          put(open.join('/'), words);
          words = '';
          isFresh = false;
          open.pop();
          return;
        }
        if (isImplied) fault ||= 'It has no end.';
        if (fault !== '') setAside(fault);
        else rows.push({ line, cells });
        cells = undefined;
      },
    },
    { xmlMode: true },
  );
  const given = (): FeedBatch => {
    const batch = { rows, unread };
    rows = [];
    unread = [];
    return batch;
  };
  return {
    /** Takes the next piece of text; gives the products that are whole by now. */
    take: (text: string): FeedBatch => {
      lineAt(piece.at + piece.text.length);
      piece.at += piece.text.length;
      piece.text = text;
      parser.write(text);
      return given();
    },
    /** Gives what is left at the end of the file. */
    end: (): FeedBatch => {
      hasEnded = true;
      parser.end();
      if (cells) setAside('The file ends within it: it was cut off. Download it again.');
      return given();
    },
  };
};
