import { sha256 } from '@noble/hashes/sha2.js';

const letters = 'abcdefghijkmnpqrstuvwxyz23456789';

/** Makes an ID such as `lnk_7h2k…` from random bytes, five bits a character. */
export const recordId = (
  prefix:
    'dom' | 'net' | 'prg' | 'lnk' | 'acc' | 'rep' | 'pay' | 'pro' | 'pic' | 'kit' | 'cst' | 'chc' | 'prm',
  bytes: Uint8Array,
): string => `${prefix}_${secret(bytes)}`;

/**
 * The ID of a thing there is one of, made of what it is about: whoever makes it, wherever, gives it the same, so that two who
 * do are heard of each other.
 */
export const sameId = (
  prefix: 'cst' | 'dec' | 'mon' | 'pay' | 'pge' | 'rat' | 'src',
  ...about: readonly [string, ...string[]]
): string => `${prefix}_${secret(sha256(new TextEncoder().encode(JSON.stringify(about))).slice(0, 20))}`;

/** Turns random bytes into letters and digits, five bits a character; 16 bytes give 80 bits. */
export const secret = (bytes: Uint8Array): string => Array.from(bytes, (byte) => letters[byte & 31]).join('');
