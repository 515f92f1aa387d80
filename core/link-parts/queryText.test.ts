import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decodeLatin1QueryText, decodeQueryText, queryPair } from './index.ts';

describe('the text of a query', () => {
  // The URL standard's own reading of forms, as Node has it.
  it('is read as URLSearchParams reads it, and written so that it reads back', () =>
    fc.assert(
      fc.property(fc.string({ unit: 'grapheme' }), fc.string({ unit: 'grapheme' }), (name, value) => {
        const text = queryPair(name, value);
        const [[key, content] = []] = [...new URLSearchParams(text)];
        if (name !== '' || value !== '') expect([key, content]).toEqual([name, value]);
        const [rawName = '', rawValue = ''] = text.split('=');
        expect([decodeQueryText(rawName), decodeQueryText(rawValue)]).toEqual([name, value]);
      }),
    ));

  it.each([
    ['a+b%20c', 'a b c'],
    ['caf%C3%A9', 'café'],
    // A placeholder of a network is no percent-encoding, and broken encoding is nobody's to guess.
    ['%tag%', '%tag%'],
    ['100%', '100%'],
    ['caf%E9', 'caf%E9'],
  ])('%s is %s', (raw, text) => expect(decodeQueryText(raw)).toBe(text));

  it('of an old system is Latin-1, a letter a byte', () => {
    expect(decodeLatin1QueryText('caf%E9+%DF')).toBe('café ß');
    expect(decodeLatin1QueryText('100%')).toBe('100%');
  });
});
