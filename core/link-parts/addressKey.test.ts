import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fnv1a } from './addressKey.ts';
import { addressKey, shortKey } from './index.ts';

describe('the key of an address', () => {
  it.each([
    ['http://www.polehouse.example:8080/kits/saturn/#buy', 'https://polehouse.example/kits/saturn'],
    ['https://polehouse.example/find?q=saturn&b=&utm_source=x', 'https://polehouse.example/find?b=&q=saturn'],
    ['https://polehouse.example/kit;jsessionid=1A2B', 'https://POLEHOUSE.example/kit?fbclid=9'],
    ['https://polehouse.example/', 'https://polehouse.example'],
  ])('%s is %s', (one, other) => expect(addressKey(one)).toBe(addressKey(other)));

  it.each([
    ['https://polehouse.example/kits/saturn', 'https://polehouse.example/kits/Saturn'],
    ['https://polehouse.example/find?q=saturn', 'https://polehouse.example/find?q=moon'],
    ['https://shop.polehouse.example/', 'https://polehouse.example/'],
  ])('%s is not %s', (one, other) => expect(addressKey(one)).not.toBe(addressKey(other)));

  it('drops what a network fills anew at each click, on its hosts alone', () => {
    const dropped = { 'harrowmead.example': ['s1'] };
    expect(addressKey('https://go.harrowmead.example/c?a=1&s1=abc', dropped)).toBe(
      addressKey('https://go.harrowmead.example/c?s1=&a=1', dropped),
    );
    expect(addressKey('https://other.example/c?s1=abc', dropped)).toBe('other.example/c?s1=abc');
  });

  it('is empty for what no browser asks the web for', () => {
    for (const text of ['', '/kit', 'mailto:a@b.example', 'https://', 'javascript:1'])
      expect(addressKey(text)).toBe('');
  });

  it('never throws', () => {
    fc.assert(fc.property(fc.webUrl({ withQueryParameters: true }), (url) => addressKey(url) !== ''));
    fc.assert(fc.property(fc.string(), (text) => typeof addressKey(text) === 'string'));
  });

  // Test vectors of the algorithm's authors, from memory.
  it.each([
    ['', 0xcbf29ce484222325n],
    ['a', 0xaf63dc4c8601ec8cn],
    ['foobar', 0x85944171f73967e8n],
  ])('of "%s" is hashed by FNV-1a', (text, hash) => expect(fnv1a(text)).toBe(hash));

  it('has a short name of few letters', () =>
    expect(shortKey('polehouse.example/kits/saturn')).toMatch(/^[0-9a-z]{9}$/));
});
