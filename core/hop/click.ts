import { element, isUlid, ulidAlphabet, ulidTime } from '#core/catalogue';

const digits = Array.from(ulidAlphabet);
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
    text = element(digits[rest % 32]) + text;
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
    const a = element(bytes[group]);
    const b = element(bytes[group + 1]);
    const c = element(bytes[group + 2]);
    const d = element(bytes[group + 3]);
    const e = element(bytes[group + 4]);
    text +=
      element(pairs[(a << 2) | (b >> 6)]) +
      element(pairs[((b & 63) << 4) | (c >> 4)]) +
      element(pairs[((c & 15) << 6) | (d >> 2)]) +
      element(pairs[((d & 3) << 8) | e]);
  }
  return text;
};

/** When a click ID was made, in milliseconds since 1970 UTC; undefined when the text is none. */
export const clickTime = (id: string): number | undefined => (isUlid(id) ? ulidTime(id) : undefined);
