/** What a letter is for finding words. */
const other = 0;
const word = 1;
const space = 2;
/** Of a script that writes no spaces between its words; where they end is told by `Intl.Segmenter`. */
const spaceless = 3;

/** By their names in Unicode (UAX #24). */
const spacelessScripts =
  /[\p{sc=Han}\p{sc=Hiragana}\p{sc=Katakana}\p{sc=Thai}\p{sc=Lao}\p{sc=Khmer}\p{sc=Myanmar}]/u;

const tell = (letter: string): number =>
  /\s/u.test(letter)
    ? space
    : spacelessScripts.test(letter)
      ? spaceless
      : /[\p{L}\p{N}\p{M}\p{Emoji_Presentation}]/u.test(letter)
        ? word
        : other;

/** By UTF-16 code unit; 255 where it is not known yet. */
const kinds = new Uint8Array(0x10000).fill(255);
/** What a letter of a text is; the second half of a pair is as the first. */
const kindAt = (text: string, at: number): number => {
  const unit = text.charCodeAt(at);
  const known = kinds[unit] ?? other;
  if (known !== 255) return known;
  if (unit >= 0xd800 && unit <= 0xdfff) {
    const start = unit >= 0xdc00 ? at - 1 : at;
    const point = text.codePointAt(start);
    return point === undefined || point < 0x10000 ? other : tell(String.fromCodePoint(point));
  }
  return (kinds[unit] = tell(String.fromCharCode(unit)));
};

/** True between two letters where a whole word may begin or end: `lamp` is none in `lamps`, `head-lamp` and `lamp.example`. */
export const isBoundary = (text: string, at: number): boolean => {
  if (at <= 0 || at >= text.length) return true;
  const [before, after] = [kindAt(text, at - 1), kindAt(text, at)];
  if (before === word && after === word) return false;
  // A hashtag, and somebody's name.
  if (after === word && '#@'.includes(text.charAt(at - 1))) return false;
  const isJoiner = (place: number) => '-‐‑_.@/#&=:\\'.includes(text.charAt(place));
  if (before === word && after === other && isJoiner(at))
    return at + 1 >= text.length || kindAt(text, at + 1) !== word;
  if (after === word && before === other && isJoiner(at - 1)) return at < 2 || kindAt(text, at - 2) !== word;
  return true;
};

const isDigit = (text: string, at: number): boolean => {
  const unit = text.charCodeAt(at);
  return unit >= 48 && unit <= 57;
};

/** Made where it is needed first: that takes some 30 ms. */
let segmenter: Intl.Segmenter | undefined;

/**
 * What a scan tells of each word: where it begins and ends, in a script without spaces where the words around it end, how many words
 * come before it, and whether all its letters are of ASCII.
 */
export type SeeWord = (
  start: number,
  end: number,
  ends: ReadonlySet<number> | undefined,
  wordsBefore: number,
  isAscii: boolean,
) => number | undefined;

/**
 * Goes through the words of a text once.
 *
 * @param see is told of each word; what it gives is where to go on, where that is further than the word's end
 * @returns how many words there are
 */
export const scanWords = (text: string, see: SeeWord): number => {
  let [at, count] = [0, 0];
  const { length } = text;
  while (at < length) {
    const kind = kindAt(text, at);
    if (kind === word || kind === spaceless) {
      let end = at + 1;
      let letters = text.charCodeAt(at);
      while (end < length && kindAt(text, end) === kind) letters |= text.charCodeAt(end++);
      if (kind === word) {
        // A number is no word here, so that a price that is written anew moves nothing.
        const before = count;
        if (!isDigit(text, at)) count += 1;
        const goOn = see(at, end, undefined, before, letters < 128) ?? end;
        // What is passed over counts as words too.
        if (goOn > end) count += countWords(text.slice(end, goOn));
        at = Math.max(end, goOn);
        continue;
      }
      let passed = at;
      const segments = [
        ...(segmenter ??= new Intl.Segmenter(undefined, { granularity: 'word' })).segment(
          text.slice(at, end),
        ),
      ];
      const ends = new Set(segments.map(({ segment, index }) => at + index + segment.length));
      for (const { segment, index, isWordLike } of segments) {
        const start = at + index;
        const before = count;
        if (isWordLike) count += 1;
        if (start < passed) continue;
        passed = see(start, start + segment.length, ends, before, false) ?? passed;
      }
      at = Math.max(end, passed);
      continue;
    }
    at += 1;
  }
  return count;
};

/** How many words a text has. */
export const countWords = (text: string): number => scanWords(text, () => undefined);

/** Where the stretch of white space that begins here ends. */
export const spaceEnd = (text: string, from: number): number => {
  let end = from;
  while (end < text.length && kindAt(text, end) === space) end += 1;
  return end;
};
/** Where the stretch of letters of one word that begins here ends; the same place where none begins. */
export const wordEnd = (text: string, from: number): number => {
  let end = from;
  while (end < text.length && kindAt(text, end) === word) end += 1;
  return end;
};
export const isSpacelessAt = (text: string, at: number): boolean =>
  at < text.length && kindAt(text, at) === spaceless;

/** A word as it is compared: lower case, and composed (Unicode NFC). */
export const foldWord = (text: string): string => {
  const lower = text.toLowerCase();
  return /[^\x00-\x7f]/.test(lower) ? lower.normalize('NFC') : lower;
};
