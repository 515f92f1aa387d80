import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { clickId } from '#core/hop';
import type { HopRecord } from './index.ts';
import { VisitColumns } from './index.ts';
import { decodeSegment, encodeSegment, SegmentDamaged, segmentOf, takeSegment } from './segmentFile.ts';
import { hopRecord } from './testing/records.ts';

/** Texts of any kind, as visitors send them: lone halves of letters cannot be sent. */
const text = fc.oneof(
  fc.constantFrom('', 'flyer', 'newsletter'),
  fc.string({ unit: 'binary', maxLength: 12 }),
);
const hops: fc.Arbitrary<HopRecord[]> = fc
  .array(
    fc.record({
      source: text,
      query: text,
      from: text,
      ua: text,
      country: fc.constantFrom('', 'DE', 'JP'),
      visitor: fc.constantFrom('00000000000000a1', 'ffffffff00000000'),
      status: fc.constantFrom(307, 410),
      prefetch: fc.boolean(),
      bytes: fc.uint8Array({ minLength: 10, maxLength: 10 }),
    }),
    { minLength: 1, maxLength: 40 },
  )
  .map((list) =>
    list.map(({ bytes, ...rest }, i) =>
      hopRecord({
        ...rest,
        seq: i + 1,
        at: 1_790_000_000_000 + i,
        click: rest.prefetch ? '' : clickId(1_790_000_000_000 + i, bytes),
      }),
    ),
  );
const recordsOf = (columns: VisitColumns): HopRecord[] =>
  Array.from({ length: columns.rows }, (_, row) => columns.record(row));

describe('a segment as a file', () => {
  it('comes back as it was, behind others that know its texts by other places', () => {
    fc.assert(
      fc.property(hops, hops, fc.nat(40), (before, list, cut) => {
        const columns = new VisitColumns();
        for (const hop of before) columns.add(hop);
        const at = Math.min(cut, list.length);
        for (const part of [list.slice(0, at), list.slice(at)])
          if (part.length > 0) takeSegment(columns, decodeSegment(encodeSegment(segmentOf(part))));
        expect(recordsOf(columns)).toEqual([...before, ...list]);
        // And its clicks are found.
        for (const { click } of list)
          if (click !== '') expect(columns.beginningWith(click).count).toBeGreaterThan(0);
      }),
    );
  });

  it('is told from one that was damaged, wherever', () => {
    const file = encodeSegment(segmentOf([hopRecord(), hopRecord({ seq: 2, source: 'flyer' })]));
    for (let i = 0; i < file.length; i++) {
      const damaged = file.slice();
      damaged[i] = (damaged[i] ?? 0) ^ 0x10;
      expect(() => decodeSegment(damaged)).toThrow(SegmentDamaged);
    }
    for (const length of [0, 3, 40, file.length - 1])
      expect(() => decodeSegment(file.slice(0, length))).toThrow(SegmentDamaged);
  });

  it('holds some requests, and no more than a segment has rows', () => {
    expect(() => segmentOf([])).toThrow(RangeError);
  });
});
