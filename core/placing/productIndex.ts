import { foldText } from '#core/catalogue';

/**
 * The words of many products and where each stands: words in order, joined by line ends, with the rows of each behind the other.
 * It holds no text of a row, and is kept as it is.
 */
export interface ProductIndex {
  readonly rows: number;
  /** Every word once, in the order of its UTF-16 units, each followed by a line end. */
  readonly words: string;
  /** Where each word begins in `words`; one more at the end. */
  readonly starts: Uint32Array;
  /** Where the rows of each word begin in `places`; one more at the end. */
  readonly firsts: Uint32Array;
  readonly places: Uint32Array;
}

/** More words than this are not looked at: no name has as many. */
const mostAsked = 12;

/** Scripts that put no spaces between words: each of their letters is a word. */
const spaceless =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}]/gu;

/** A text as the words it is found by. */
const wordsOf = (text: string): string[] => {
  const folded = foldText(text);
  // Most texts are plain letters and digits.
  if (!/[^\x00-\x7f]/.test(folded)) return folded.match(/[a-z0-9]+/g) ?? [];
  const parted = /[^\x00-\u0e00]/.test(folded) ? folded.replace(spaceless, ' $& ') : folded;
  return parted.match(/[\p{Letter}\p{Number}]+/gu) ?? [];
};
/** A code as a word: `TS-4471/b` is found as it is typed with signs and without. */
const codeWord = (code: string): string => wordsOf(code).join('');

/** A list of numbers that grows. */
const makeNumbers = () => {
  let list = new Uint32Array(1 << 16);
  let length = 0;
  return {
    add: (value: number): void => {
      if (length === list.length) {
        const longer = new Uint32Array(length * 2);
        longer.set(list);
        list = longer;
      }
      list[length++] = value;
    },
    get: (): Uint32Array => list.subarray(0, length),
  };
};

const addAt = (list: Uint32Array, at: number, more: number): void => {
  list[at] = (list[at] ?? 0) + more;
};

/** Gathers products for an index, in the order of their rows. */
export const makeProductIndex = () => {
  const numbers = new Map<string, number>();
  /** The word of each place, row by row, and where each row begins. */
  const found = makeNumbers();
  const begins = makeNumbers();
  let rows = 0;
  return {
    add: ({
      name,
      code,
      secondCode,
    }: {
      readonly name: string;
      readonly code: string;
      readonly secondCode: string;
    }): void => {
      begins.add(found.get().length);
      const words = new Set(wordsOf(name));
      for (const each of [code, secondCode]) {
        if (each === '') continue;
        const pieces = wordsOf(each);
        for (const piece of pieces) words.add(piece);
        if (pieces.length > 1) words.add(pieces.join(''));
      }
      for (const word of words) {
        let number = numbers.get(word);
        if (number === undefined) numbers.set(word, (number = numbers.size));
        found.add(number);
      }
      rows += 1;
    },
    /** The index of what was added. */
    build: (): ProductIndex => {
      const words = [...numbers.keys()].sort();
      const placeOf = new Uint32Array(words.length);
      for (const [place, word] of words.entries()) placeOf[numbers.get(word) ?? 0] = place;
      const all = found.get();
      const firsts = new Uint32Array(words.length + 1);
      for (const number of all) addAt(firsts, (placeOf[number] ?? 0) + 1, 1);
      for (let i = 1; i < firsts.length; i++) addAt(firsts, i, firsts[i - 1] ?? 0);
      const next = firsts.slice();
      const places = new Uint32Array(all.length);
      const rowBegins = begins.get();
      for (let row = 0; row < rows; row++)
        for (let i = rowBegins[row] ?? 0; i < (rowBegins[row + 1] ?? all.length); i++) {
          const word = placeOf[all[i] ?? 0] ?? 0;
          places[next[word] ?? 0] = row;
          addAt(next, word, 1);
        }
      const starts = new Uint32Array(words.length + 1);
      for (const [i, word] of words.entries()) starts[i + 1] = (starts[i] ?? 0) + word.length + 1;
      return { rows, words: words.map((word) => `${word}\n`).join(''), starts, firsts, places };
    },
  };
};

/** Makes finders of rows in an index; a finder holds one byte a row to count in. */
export const makeProductFinder = ({ rows, words, starts, firsts, places }: ProductIndex) => {
  const marks = new Uint8Array(rows);
  const count = starts.length - 1;
  const wordAt = (i: number): string => words.slice(starts[i], (starts[i + 1] ?? 0) - 1);
  /** The first word that is not before a text. */
  const firstFrom = (text: string): number => {
    let [low, high] = [0, count];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (wordAt(middle) < text) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  /** The words that begin with a text, as a stretch of the index. */
  const beginning = (text: string): readonly [number, number] => {
    // No word holds the last of all units, so it is behind all that begin with the text.
    return [firstFrom(text), firstFrom(`${text}\uffff`)];
  };
  /** Rows of which each asked word begins a word: how many there are, and the first of them in their order. */
  const rowsWith = (asked: readonly string[], most: number): { count: number; rows: number[] } => {
    const stretches = asked
      .map(beginning)
      .map(([from, until]) => [firsts[from] ?? 0, firsts[until] ?? 0] as const)
      .toSorted((a, b) => a[1] - a[0] - (b[1] - b[0]));
    marks.fill(0);
    let left = 0;
    for (const [n, [from, until]] of stretches.entries()) {
      left = 0;
      for (let i = from; i < until; i++) {
        const row = places[i] ?? 0;
        if (marks[row] !== n) continue;
        marks[row] = n + 1;
        left += 1;
      }
      if (left === 0) break;
    }
    const found: number[] = [];
    const wanted = Math.min(most, left);
    for (let row = 0; found.length < wanted; row++) if (marks[row] === stretches.length) found.push(row);
    return { count: left, rows: found };
  };
  /**
   * Rows whose name or codes have words that begin with each of the asked ones, and rows of exactly that code first.
   *
   * @returns how many there are, and the first `most` of them
   */
  return (text: string, most: number): { readonly count: number; readonly rows: readonly number[] } => {
    const asked = wordsOf(text).slice(0, mostAsked);
    if (asked.length === 0) return { count: 0, rows: [] };
    const code = codeWord(text);
    const place = firstFrom(code);
    const exact = wordAt(place) === code ? [...places.subarray(firsts[place], firsts[place + 1])] : [];
    const named = rowsWith(asked, most + exact.length);
    const first = new Set(exact);
    // What is found by its code alone, written otherwise than in the index, is found besides.
    const besides = exact.filter((row) => marks[row] !== asked.length).length;
    const rows = [...exact, ...named.rows.filter((row) => !first.has(row))];
    return { count: named.count + besides, rows: rows.slice(0, most) };
  };
};
