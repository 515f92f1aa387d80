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
  /** Capitals count for one of them. */
  isExact: boolean;
}
const emptyNode = (): Node => ({ next: new Map(), ends: [], isExact: false });

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
const bare = (text: string): string => text.trim().replace(/^[^\p{Letter}\p{Number}\p{Mark}]+/u, '');

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
  /** Keywords in scripts without spaces, by their first letter, the longest first. */
  const spaceless = new Map<string, { readonly folded: string; readonly ends: number[] }[]>();
  const put = (pieces: readonly string[], last?: string) => {
    let node = root;
    pieces.forEach((piece, i) => {
      const name = last !== undefined && i === pieces.length - 1 ? last : piece;
      let next = node.next.get(name);
      if (!next) node.next.set(name, (next = emptyNode()));
      node = next;
    });
    return node;
  };
  const add = (text: string, keyword: number) => {
    const trimmed = bare(text);
    if (trimmed === '') return;
    if (isSpacelessAt(trimmed, 0)) {
      const folded = foldWord(trimmed);
      const first = folded.charAt(0);
      const list = spaceless.get(first) ?? [];
      const same = list.find((each) => each.folded === folded);
      if (same) same.ends.push(keyword);
      else list.push({ folded, ends: [keyword] });
      spaceless.set(
        first,
        list.toSorted((a, b) => b.folded.length - a.folded.length),
      );
    } else {
      const node = put(piecesOf(trimmed));
      node.ends.push(keyword);
      node.isExact ||= keywords[keyword]?.exact ?? false;
    }
  };
  keywords.forEach(({ text }, i) => {
    add(text, i);
  });
  for (const text of skip) add(text, never);
  // Forms come last: what somebody wrote as a keyword is nobody else's form.
  keywords.forEach(({ text, forms }, i) => {
    if (!forms || isSpacelessAt(bare(text), 0)) return;
    const pieces = piecesOf(bare(text));
    for (const form of formsOf(pieces.at(-1) ?? '', language)) {
      const node = put(pieces, form);
      if (node.ends.every((end) => end !== never && keywords[end]?.forms && keywords[end].text !== text))
        if (!node.ends.includes(i)) {
          node.ends.push(i);
          node.isExact ||= keywords[i]?.exact ?? false;
        }
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
    if (!exact) return true;
    const plain = (letters: string) => letters.trim().replace(/\s+/g, ' ').normalize('NFC');
    return plain(found).startsWith(plain(bare(text)));
  };
  /** The longest keyword that begins at a place. */
  const longestAt = (
    text: string,
    start: number,
    end: number,
    ends: ReadonlySet<number> | undefined,
  ): Longest | undefined => {
    if (ends) {
      const list = spaceless.get(foldWord(text.charAt(start)));
      if (!list) return undefined;
      for (const { folded, ends: found } of list) {
        const stop = start + folded.length;
        const stretch = text.slice(start, stop);
        if (foldWord(stretch) !== folded || !(ends.has(stop) || !isSpacelessAt(text, stop))) continue;
        return {
          end: stop,
          keywords: found.filter((each) => each === never || isMeant(each, stretch)),
        };
      }
      return undefined;
    }
    let node = root.next.get(foldWord(text.slice(start, end)));
    if (!node || !isBoundary(text, start)) return undefined;
    let at = end;
    let bestEnd = 0;
    let best: readonly number[] | undefined;
    while (node) {
      if (node.ends.length > 0 && isBoundary(text, at)) {
        const stretch = node.isExact ? text.slice(start, at) : '';
        const meant = node.isExact
          ? node.ends.filter((each) => each === never || isMeant(each, stretch))
          : node.ends;
        if (meant.length > 0) [bestEnd, best] = [at, meant];
      }
      if (node.next.size === 0 || at >= text.length) break;
      const { piece, end: next } = pieceAt(text, at);
      node = node.next.get(piece);
      at = next;
    }
    return best && { end: bestEnd, keywords: best };
  };

  return {
    scan: (text, see, word) =>
      scanWords(text, (start, end, ends, wordsBefore, isAscii) => {
        word?.(start, wordsBefore);
        // The letter behind a word of one letter is any; it is looked up.
        if (isAscii && end - start > 1 && firstWords[traceOf(text, start, end)] === 0) return undefined;
        const place = longestAt(text, start, end, ends);
        if (!place || place.keywords.length === 0) return undefined;
        if (place.keywords[0] !== never && !place.keywords.includes(never))
          see(start, place.end, place.keywords, wordsBefore);
        return place.end;
      }),
    whole: (text) => {
      const trimmed = text.trim();
      const ends = isSpacelessAt(trimmed, 0) ? new Set([trimmed.length]) : undefined;
      const place = longestAt(trimmed, 0, wordEnd(trimmed, 0), ends);
      return place?.end === trimmed.length ? place.keywords.filter((each) => each !== never) : [];
    },
  };
};
