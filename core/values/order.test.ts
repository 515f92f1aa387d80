import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inOrder } from './index.ts';

describe('rows in order', () => {
  it('reads numbers in words as numbers, and leaves rows without a key at the end, either way', () => {
    const rows = ['row 10', undefined, 'row 9', 'row 100'];
    const key = (row: string | undefined) => row;
    expect(inOrder(rows, { key }, false)).toEqual(['row 9', 'row 10', 'row 100', undefined]);
    expect(inOrder(rows, { key }, true)).toEqual(['row 100', 'row 10', 'row 9', undefined]);
  });

  it('never compares an amount with one of another currency', () => {
    const rows = [
      { currency: 'USD', minor: 900 },
      { currency: 'EUR', minor: 100 },
      { currency: 'USD', minor: 5 },
      { currency: 'EUR', minor: 700 },
    ];
    const found = inOrder(rows, { key: ({ minor }) => minor, band: ({ currency }) => currency }, true);
    expect(found.map(({ currency, minor }) => `${currency} ${minor}`)).toEqual([
      'EUR 700',
      'EUR 100',
      'USD 900',
      'USD 5',
    ]);
  });

  it('loses and makes no row, is the same when it is done again, and keeps equal rows as they were: property', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({ key: fc.option(fc.integer({ min: 0, max: 5 }), { nil: undefined }), at: fc.nat() }),
        ),
        fc.boolean(),
        (rows, down) => {
          const order = { key: (row: (typeof rows)[number]) => row.key };
          const found = inOrder(rows, order, down);
          expect(new Set(found)).toEqual(new Set(rows));
          expect(found).toHaveLength(rows.length);
          expect(inOrder(found, order, down)).toEqual(found);
          for (const key of [0, 1, undefined])
            expect(found.filter((row) => row.key === key)).toEqual(rows.filter((row) => row.key === key));
          const keys = found.flatMap((row) => row.key ?? []);
          expect(keys).toEqual(keys.toSorted((a, b) => (down ? b - a : a - b)));
        },
      ),
    ));
});
