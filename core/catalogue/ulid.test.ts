import fc from 'fast-check';
import { decodeTime, isValid, ulid } from 'ulid';
import { describe, expect, it } from 'vitest';
import { isUlid, isUlidBeginning, ulidAlphabet, ulidTime } from './index.ts';

const times = fc.integer({ min: 1, max: 2 ** 48 - 1 });

describe('a ULID, beside the package `ulid` as the reference', () => {
  it('is known for one, in either case, and tells its time', () =>
    fc.assert(
      fc.property(times, (at) => {
        const id = ulid(at);
        expect([isUlid(id), isUlid(id.toLowerCase()), isValid(id)]).toEqual([true, true, true]);
        expect([ulidTime(id), decodeTime(id)]).toEqual([at, at]);
      }),
    ));

  it('tells its time by its first ten letters, and by no fewer', () =>
    fc.assert(
      fc.property(times, fc.integer({ min: 1, max: 26 }), (at, letters) => {
        const cut = ulid(at).slice(0, letters);
        expect(isUlidBeginning(cut)).toBe(true);
        expect(ulidTime(cut)).toBe(letters < 10 ? undefined : at);
      }),
    ));

  it('has no I, L, O and U, 26 letters, and no more than 128 bits', () => {
    expect(/[ILOU]/.test(ulidAlphabet)).toBe(false);
    expect(ulidAlphabet).toHaveLength(32);
    for (const text of ['', '01M84BDPSKXE4HN0RD2V6W3PB', '01M84BDPSKXE4HN0RD2V6W3PBCC', '{click}'])
      expect([text, isUlid(text)]).toEqual([text, false]);
    for (const text of ['81M84BDPSKXE4HN0RD2V6W3PBC', '01M84BDPSKXE4HN0RD2V6W3PBI', 'a81f-2291'])
      expect([text, isUlid(text), ulidTime(text)]).toEqual([text, false, undefined]);
  });
});
