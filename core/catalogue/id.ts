const letters = 'abcdefghijkmnpqrstuvwxyz23456789';

/** Makes an ID such as `lnk_7h2k…` from random bytes, five bits a character. */
export const recordId = (
  prefix: 'dom' | 'net' | 'prg' | 'lnk' | 'acc' | 'rep' | 'dec' | 'mon' | 'pay' | 'rat',
  bytes: Uint8Array,
): string => `${prefix}_${secret(bytes)}`;

/** Turns random bytes into letters and digits, five bits a character; 16 bytes give 80 bits. */
export const secret = (bytes: Uint8Array): string => Array.from(bytes, (byte) => letters[byte & 31]).join('');
