import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { differingKinds, digestOf } from './digest.ts';

const held = fc.uniqueArray(
  fc.record({
    kind: fc.constantFrom('link' as const, 'domain' as const, 'report' as const),
    record: fc.stringMatching(/^lnk_[a-z0-9]{1,6}$/),
    change: fc.stringMatching(/^[0-9A-Z]{4}$/),
  }),
  { selector: ({ record }) => record, minLength: 1, maxLength: 30 },
);

describe('the digest of what is held', () => {
  it('does not depend on the order', () => {
    fc.assert(
      fc.property(held, (records) => {
        expect(differingKinds(digestOf(records), digestOf(records.toReversed()))).toEqual([]);
      }),
    );
  });

  it('tells the kind in which one record is missing, or stands at another change', () => {
    fc.assert(
      fc.property(held, fc.nat(), (records, n) => {
        const i = n % records.length;
        const kind = records[i]?.kind;
        expect(differingKinds(digestOf(records), digestOf(records.toSpliced(i, 1)))).toEqual([kind]);
        const other = records.map((record, j) => (j === i ? { ...record, change: 'other' } : record));
        expect(differingKinds(digestOf(records), digestOf(other))).toEqual([kind]);
      }),
    );
  });
});
