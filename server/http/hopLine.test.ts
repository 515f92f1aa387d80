import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hopLine } from './hopLine.ts';

const text = fc.oneof(
  fc.string({ unit: 'binary' }),
  fc.string(),
  fc.constantFrom('"', '\\', '\n', '\u2028', 'é', ''),
);

const always = [
  ...([
    'kind',
    'at',
    'click',
    'link',
    'version',
    'branch',
    'source',
    'status',
    'method',
    'host',
    'ua',
  ] as const),
  ...(['visitor', 'country', 'device', 'from', 'query', 'lang', 'prefetch', 'test'] as const),
];

describe('a hop’s line', () => {
  it('is what JSON.stringify writes, whatever a visitor sent', () =>
    fc.assert(
      fc.property(
        fc.record(
          {
            kind: fc.constant('hop' as const),
            at: fc.nat(),
            click: fc.constantFrom('', '01M84BDPSKXE4HN0RD2V6W3PBC'),
            link: fc.stringMatching(/^lnk_[a-z0-9]{1,40}$/),
            version: fc.nat(),
            branch: fc.constant('everyone'),
            source: fc.stringMatching(/^[A-Za-z0-9][A-Za-z0-9_-]{0,63}$/),
            status: fc.nat(),
            method: fc.constantFrom('GET', 'HEAD'),
            host: fc.domain(),
            ua: text,
            visitor: fc.constant('f3a91c00f3a91c00'),
            country: text,
            device: fc.constantFrom('phone', 'tablet', 'desktop'),
            from: text,
            query: text,
            lang: text,
            prefetch: fc.boolean(),
            test: fc.boolean(),
            hosting: fc.boolean(),
            first: fc.constant('01M84BDPSKXE4HN0RD2V6W3PBC'),
          },
          { noNullPrototype: true, requiredKeys: always },
        ),
        (hop) => {
          expect(`{${hopLine(hop)}`).toBe(JSON.stringify(hop));
        },
      ),
    ));
});
