const alphabet = '0123456789ABCDEFGHJKMNPQRSTVWXYZ';
const digits = Array.from(alphabet);
/** Two digits for each ten bits. */
const pairs = digits.flatMap((first) => digits.map((second) => first + second));

/** Random bytes one click ID takes. */
export const clickIdBytes = 10;

let lastAt = -1;
let lastPrefix = '';

const prefixOf = (at: number): string => {
  if (at === lastAt) return lastPrefix;
  let rest = at;
  let text = '';
  for (let i = 0; i < 10; i++) {
    text = (digits[rest % 32] ?? '') + text;
    rest = Math.floor(rest / 32);
  }
  lastAt = at;
  return (lastPrefix = text);
};

/**
 * Makes a ULID: 48 bits of time and 80 fresh random bits in 26 characters of Crockford's base 32.
 * The random part is never counted up, so that an ID cut short still points to one click.
 *
 * @param at milliseconds since 1970 UTC
 * @param bytes random bytes; ten are used, from `offset` on
 */
export const clickId = (at: number, bytes: Uint8Array, offset = 0): string => {
  let text = prefixOf(at);
  for (let group = offset; group < offset + 10; group += 5) {
    const a = bytes[group] ?? 0;
    const b = bytes[group + 1] ?? 0;
    const c = bytes[group + 2] ?? 0;
    const d = bytes[group + 3] ?? 0;
    const e = bytes[group + 4] ?? 0;
    text +=
      (pairs[(a << 2) | (b >> 6)] ?? '') +
      (pairs[((b & 63) << 4) | (c >> 4)] ?? '') +
      (pairs[((c & 15) << 6) | (d >> 2)] ?? '') +
      (pairs[((d & 3) << 8) | e] ?? '');
  }
  return text;
};

/** True for a text in the form of a click ID, in any case. */
export const isClickId = (text: string): boolean => /^[0-7][0-9A-HJKMNP-TV-Z]{25}$/i.test(text);

/** When a click ID was made, in milliseconds since 1970 UTC; undefined when the text is none. */
export const clickTime = (id: string): number | undefined => {
  if (!isClickId(id)) return undefined;
  let at = 0;
  for (const letter of id.slice(0, 10).toUpperCase()) at = at * 32 + alphabet.indexOf(letter);
  return at;
};
