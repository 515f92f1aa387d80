import { sha256 } from '@noble/hashes/sha2.js';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { clickId } from '#core/hop';
import type { HopRecord, StoredRows } from './index.ts';
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
      hosting: fc.constantFrom({}, { hosting: true }, { hosting: false }),
      device: fc.constantFrom('phone' as const, 'desktop' as const),
      leads: fc.option(fc.nat(50)),
      bytes: fc.uint8Array({ minLength: 10, maxLength: 10 }),
    }),
    { minLength: 1, maxLength: 40 },
  )
  .map((list) =>
    list.map(({ bytes, leads, hosting, ...rest }, i) =>
      hopRecord({
        ...rest,
        ...hosting,
        seq: i + 1,
        at: 1_790_000_000_000 + i,
        click: rest.prefetch ? '' : clickId(1_790_000_000_000 + i, bytes),
        ...(leads !== null && { first: clickId(1_790_000_000_000 + leads, bytes) }),
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

  it('may be of before there was a column for the click that led to a page', () => {
    const list = [hopRecord({ seq: 1, source: 'flyer' }), hopRecord({ seq: 2 })];
    const { segment, added } = segmentOf(list);
    const file = encodeSegment({ segment, added });
    // The same file without that column, the last of them: its header names fewer, and the checksum is over what is left.
    const header = 4 + 32;
    const length = new DataView(file.buffer).getUint32(header, true);
    const said = JSON.parse(new TextDecoder().decode(file.subarray(header + 4, header + 4 + length))) as {
      columns: [string, number][];
      texts: Record<string, string[]>;
    };
    expect(said.columns.at(-1)?.[0]).toBe('first');
    said.columns.pop();
    delete said.texts['first'];
    const begin = Math.ceil((header + 4 + length) / 8) * 8;
    const text = new TextEncoder().encode(JSON.stringify(said));
    const older = new Uint8Array(Math.ceil((header + 4 + text.length) / 8) * 8 + file.length - begin - 8);
    older.set(file.subarray(0, 4));
    new DataView(older.buffer).setUint32(header, text.length, true);
    older.set(text, header + 4);
    older.set(file.subarray(begin, file.length - 8), Math.ceil((header + 4 + text.length) / 8) * 8);
    older.set(sha256(older.subarray(header)), 4);
    const columns = new VisitColumns();
    columns.add(hopRecord({ seq: 9, first: '01M84BDPSKXE4HN0RD2V6W3PBC' }));
    takeSegment(columns, decodeSegment(older));
    expect(recordsOf(columns).slice(1)).toEqual(list);
    // So it is with rows that a browser stored before.
    const stored = structuredClone({ segment, added }) as unknown as Record<string, Record<string, unknown>>;
    for (const part of Object.values(stored)) delete part['first'];
    const others = new VisitColumns();
    others.take(stored as unknown as StoredRows);
    others.add(hopRecord({ seq: 3, first: '01M84BDPSKXE4HN0RD2V6W3PBC' }));
    expect(recordsOf(others)).toEqual([...list, hopRecord({ seq: 3, first: '01M84BDPSKXE4HN0RD2V6W3PBC' })]);
  });

  it('holds some requests, and no more than a segment has rows', () => {
    expect(() => segmentOf([])).toThrow(RangeError);
  });
});
