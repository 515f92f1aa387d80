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
  const filler = rest === 0 ? 0 : 0xffffffff;
  words.fill(filler, offset, offset + 4);
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    const value = code < 128 ? element(values[code]) : -1;
    if (value < 0 || (i === 0 && value > 7)) return false;
    // 26 letters hold 130 bits; the first has three of its five.
    const width = i === 0 ? 3 : 5;
    const at = i === 0 ? 0 : 5 * i - 2;
    const word = offset + (at >> 5);
    const free = 32 - (at & 31);
    const put = (index: number, shift: number, mask: number, bits: number) => {
      words[index] = (element(words[index]) & ~(mask << shift)) | (bits << shift);
    };
    if (free >= width) put(word, free - width, (1 << width) - 1, value);
    else {
      const over = width - free;
      put(word, 0, (1 << free) - 1, value >> over);
      put(word + 1, 32 - over, (1 << over) - 1, value & ((1 << over) - 1));
    }
  }
  return true;
};

/** The click ID that was written as four words. */
export const unpackClick = (words: Uint32Array, offset: number): string => {
  let text = '';
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
    text += element(ulidAlphabet[value]);
  }
  return text;
};
