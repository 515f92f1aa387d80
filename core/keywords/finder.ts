import type { InflectedLanguage } from './endings.ts';
import { formsOf } from './endings.ts';
import { foldWord, isBoundary, isSpacelessAt, scanWords, spaceEnd, wordEnd } from './wordScan.ts';

/** Words that are linked where they are read. */
export interface Keyword {
  readonly text: string;
  /** The link they lead to. */
  readonly link: string;
  /** Regular forms of the last word are it too. */
  readonly forms: boolean;
  /** Capitals count. */
  readonly exact: boolean;
  /** Number of its words and its link: the same words of one link are one keyword. */
  readonly counter: number;
}

/** Keywords that are read at a place. */
interface Longest {
  readonly end: number;
  /** By their place in the list; several where more than one link has these words. */
  readonly keywords: readonly number[];
}

interface Node {
  readonly next: Map<string, Node>;
  /** Keywords that end here. */
  readonly ends: number[];
}
const emptyNode = (): Node => ({ next: new Map(), ends: [] });

/**
 * The pieces of a text from a place on, as keywords are told apart by: a word, white space (which is one whatever it is made
 * of), or a single other letter.
 */
const pieceAt = (text: string, at: number): { readonly piece: string; readonly end: number } => {
  const endOfWord = wordEnd(text, at);
  if (endOfWord > at) return { piece: foldWord(text.slice(at, endOfWord)), end: endOfWord };
  const endOfSpace = spaceEnd(text, at);
  if (endOfSpace > at) return { piece: ' ', end: endOfSpace };
  const letter = String.fromCodePoint(text.codePointAt(at) ?? 0);
  // Typography is not what tells words apart.
  return {
    piece: letter === '’' ? "'" : letter === '‐' || letter === '‑' ? '-' : letter,
    end: at + letter.length,
  };
};
const piecesOf = (text: string): string[] => {
  const pieces: string[] = [];
  for (let at = 0; at < text.length;) {
    const { piece, end } = pieceAt(text, at);
    pieces.push(piece);
    at = end;
  }
  return pieces;
};

/** A keyword from its first word on. */
const bare = (text: string): string =>
  text
    .normalize('NFC')
    .trim()
    .replace(/^[^\p{L}\p{N}\p{M}]+/u, '');

/** Stands where a text is never linked. */
const never = -1;

/** Finds keywords in texts, all of them in one pass. */
export interface KeywordFinder {
  /**
   * The places where keywords are read as whole words, from left to right, the longest where several begin at one.
   *
   * @param see is told where each begins and ends, which keywords it is, and how many words come before it
   * @param word is told of each word that is looked at
   * @returns how many words the text has
   */
  readonly scan: (
    text: string,
    see: (start: number, end: number, keywords: readonly number[], wordsBefore: number) => void,
    word?: (start: number, wordsBefore: number) => void,
  ) => number;
  /** Keywords that a whole text is. */
  readonly whole: (text: string) => readonly number[];
}

/**
 * @param skip texts that are never linked, nor anything in them
 * @param language whose endings make forms
 */
export const makeKeywordFinder = (
  keywords: readonly Keyword[],
  skip: readonly string[],
  language: InflectedLanguage,
): KeywordFinder => {
  const root = emptyNode();
  const nodeOf = (pieces: readonly string[]): Node => {
    let node = root;
    for (const piece of pieces) {
      let next = node.next.get(piece);
      if (!next) node.next.set(piece, (next = emptyNode()));
      node = next;
    }
    return node;
  };
  const add = (text: string, keyword: number) => {
    const pieces = piecesOf(bare(text));
    if (pieces.length > 0) nodeOf(pieces).ends.push(keyword);
  };
  keywords.forEach(({ text }, i) => {
    add(text, i);
  });
  for (const text of skip) add(text, never);
  // Forms come last: what somebody wrote as a keyword is nobody else's form.
  keywords.forEach(({ text, forms }, i) => {
    const pieces = piecesOf(bare(text));
    const last = pieces.pop() ?? '';
    for (const form of forms ? formsOf(last, language) : []) {
      const { ends } = nodeOf([...pieces, form]);
      if (ends.every((end) => keywords[end]?.forms && keywords[end].text !== text) && !ends.includes(i))
        ends.push(i);
    }
  });

  /** First words of keywords, by some of their letters and their length: most words of a text are none, and are told by that. */
  const firstWords = new Uint8Array(0x10000);
  const traceOf = (text: string, start: number, end: number): number =>
    // A letter of ASCII with this bit is lower case.
    (((text.charCodeAt(start) | 32) * 4391) ^
      ((text.charCodeAt(start + 1) | 32) * 877) ^
      ((text.charCodeAt(end - 1) | 32) * 151) ^
      ((end - start) * 59)) &
    0xffff;
  for (const first of root.next.keys()) firstWords[traceOf(`${first} `, 0, first.length)] = 1;

  const isMeant = (keyword: number, found: string): boolean => {
    const { text = '', exact = false } = keywords[keyword] ?? {};
    const plain = (letters: string) => letters.trim().replace(/\s+/g, ' ').normalize('NFC');
    return !exact || plain(found).startsWith(plain(bare(text)));
  };
  /**
   * The longest keyword that begins at a place.
   *
   * @param ends where a word may end in a script without spaces
   */
  const longestAt = (
    text: string,
    start: number,
    ends: ReadonlySet<number> | undefined,
  ): Longest | undefined => {
    let best: Longest | undefined;
    let at = start;
    let node: Node | undefined = root;
    while (node.next.size > 0 && at < text.length) {
      const { piece, end } = pieceAt(text, at);
      node = node.next.get(piece);
      if (!node) break;
      at = end;
      const isEnd = isBoundary(text, at) && (!ends || ends.has(at) || !isSpacelessAt(text, at));
      if (node.ends.length === 0 || !isEnd) continue;
      const found = text.slice(start, at);
      const meant = node.ends.filter((each) => isMeant(each, found));
      if (meant.length > 0) best = { end: at, keywords: meant };
    }
    return best && isBoundary(text, start) ? best : undefined;
  };

  return {
    scan: (text, see, word) =>
      scanWords(text, (start, end, ends, wordsBefore, isAscii) => {
        word?.(start, wordsBefore);
        // The letter behind a word of one letter is any; it is looked up.
        if (isAscii && end - start > 1 && firstWords[traceOf(text, start, end)] === 0) return undefined;
        const place = longestAt(text, start, ends);
        if (place && !place.keywords.includes(never)) see(start, place.end, place.keywords, wordsBefore);
        return place?.end;
      }),
    whole: (text) => {
      const trimmed = text.trim();
      const place = longestAt(trimmed, 0, new Set([trimmed.length]));
      return place?.end === trimmed.length ? place.keywords.filter((each) => each !== never) : [];
    },
  };
};
