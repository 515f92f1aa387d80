/** Crockford's base 32, the alphabet of ULIDs: no I, L, O and U. */
export const ulidAlphabet = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';

/** A ULID as it is written: 26 letters, the first at most 7, for its 48 bits of time and 80 of chance are 128. */
export const ulidPattern = /^[0-7][0-9A-HJKMNP-TV-Z]{25}$/;

const anyCase = new RegExp(ulidPattern.source, 'i');
const beginning = /^[0-7][0-9A-HJKMNP-TV-Z]{0,25}$/i;

/** True for a text in the form of a ULID, in any case. */
export const isUlid = (text: string): boolean => anyCase.test(text);

/** True for a text a ULID could begin with, in any case. */
export const isUlidBeginning = (text: string): boolean => beginning.test(text);

/** Letters of a ULID that carry its time. */
const timeLetters = 10;

/** When a ULID was made, by its beginning, in milliseconds since 1970 UTC; undefined where that does not tell. */
export const ulidTime = (text: string): number | undefined => {
  if (text.length < timeLetters || !isUlidBeginning(text)) return undefined;
  let at = 0;
  for (const letter of text.slice(0, timeLetters).toUpperCase()) at = at * 32 + ulidAlphabet.indexOf(letter);
  return at;
};
