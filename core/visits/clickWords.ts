import { element, ulidAlphabet } from '#core/catalogue';

const values = new Int8Array(128).fill(-1);
for (let i = 0; i < 32; i++) {
  values[ulidAlphabet.charCodeAt(i)] = i;
  values[ulidAlphabet.toLowerCase().charCodeAt(i)] = i;
}

/**
 * Writes the beginning of a click ID as four 32-bit words, 16 bytes of an ULID, the bits that are not told being `rest`
 * (all 0 or all 1). Gives false when it holds another letter than Crockford's base 32 has, or is no beginning of one.
 */
export const packClick = (text: string, words: Uint32Array, offset: number, rest: 0 | 1 = 0): boolean => {
  if (text.length > 26 || text.length === 0) return false;
  let word = offset;
  /** Bits that fill no word yet, and how many they are. */
  let bits = 0;
  let held = 0;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    const value = code < 128 ? element(values[code]) : -1;
    if (value < 0 || (i === 0 && value > 7)) return false;
    // 26 letters hold 130 bits; the first has three of its five.
    const width = i === 0 ? 3 : 5;
    const over = held + width - 32;
    if (over < 0) {
      bits = (bits << width) | value;
      held += width;
      continue;
    }
    words[word] = (bits << (width - over)) | (value >> over);
    word += 1;
    bits = value & ((1 << over) - 1);
    held = over;
  }
  const filler = rest === 0 ? 0 : 0xffffffff;
  if (held > 0) {
    words[word] = (bits << (32 - held)) | (filler >>> held);
    word += 1;
  }
  while (word < offset + 4) words[word++] = filler;
  return true;
};

/** Letters of the ID that is being read; one list for all, as millions are. */
const letters = Array<number>(26).fill(0);

/** The click ID that was written as four words. */
export const unpackClick = (words: Uint32Array, offset: number): string => {
  for (let i = 0; i < 26; i++) {
    const width = i === 0 ? 3 : 5;
    const at = i === 0 ? 0 : 5 * i - 2;
    const word = offset + (at >> 5);
    const free = 32 - (at & 31);
    const value =
      free >= width
        ? (element(words[word]) >>> (free - width)) & ((1 << width) - 1)
        : ((element(words[word]) & ((1 << free) - 1)) << (width - free)) |
          (element(words[word + 1]) >>> (32 - (width - free)));
    letters[i] = ulidAlphabet.charCodeAt(value);
  }
  return String.fromCharCode(...letters);
};
