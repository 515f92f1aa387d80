import fc from 'fast-check';
import { isbot } from 'isbot';
import { describe, expect, it } from 'vitest';
import { clickId } from '#core/hop';
import type { HopRecord } from './index.ts';
import { botKinds, VisitColumns, Classification, defaultRules, segmentRows } from './index.ts';
import { plainClassified } from './testing/plainClassifier.ts';
import { hopRecord } from './testing/records.ts';

const agents = [
  'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
  'Mozilla/5.0 (compatible; examplebot/2.1)',
  '',
];
const bytes = fc.uint8Array({ minLength: 10, maxLength: 10 });
const hop = (at: number, more: Partial<HopRecord> = {}): HopRecord =>
  hopRecord({
    at,
    click: clickId(at, new Uint8Array(10)),
    link: 'lnk_gloves',
    version: 3,
    source: 'flyer',
    ua: agents[0] ?? '',
    country: 'DE',
    query: 'kw=saturn',
    lang: 'de-DE',
    ...more,
  });
const hops = fc
  .array(
    fc.record({
      wait: fc.integer({ min: 0, max: 900_000 }),
      /** Many come within a burst, and now and then the clock is set back. */
      pace: fc.constantFrom('slow', 'slow', 'quick', 'quick', 'quick', 'back'),
      bytes,
      visitor: fc.constantFrom('00000000000000a1', 'ffffffff00000000', 'f3a91c0000000001'),
      link: fc.constantFrom('lnk_gloves', 'lnk_chair', 'lnk_lamp', 'lnk_flask'),
      source: fc.constantFrom('flyer', 'newsletter', 'newsletter', 'moon-mail'),
      hosting: fc.constantFrom(true, true, false),
      ua: fc.constantFrom(...agents),
      branch: fc.constantFrom('everyone', 'before'),
      status: fc.constantFrom(307, 200, 503),
      method: fc.constantFrom('GET', 'GET', 'GET', 'HEAD'),
      device: fc.constantFrom('phone' as const, 'tablet' as const, 'desktop' as const),
      prefetch: fc.constantFrom(false, false, false, true),
      test: fc.constantFrom(false, false, false, true),
    }),
    { maxLength: 120 },
  )
  .map((rows) => {
    let at = Date.UTC(2026, 9, 1);
    return rows.map(({ wait, pace, bytes: random, ...more }, i) => {
      at += pace === 'back' ? -(wait % 60_000) : pace === 'quick' ? wait % 400 : wait;
      return hop(at, { seq: i + 1, click: more.prefetch ? '' : clickId(at, random), ...more });
    });
  });

describe('columns', () => {
  it('give back every record as it was', () =>
    fc.assert(
      fc.property(hops, (records) => {
        const columns = new VisitColumns();
        for (const record of records) columns.add(record);
        expect(records.map((_, row) => columns.record(row))).toEqual(records);
      }),
    ));

  it('are the same after they were stored in pieces and read again', () =>
    fc.assert(
      fc.property(hops, fc.integer({ min: 1, max: 40 }), (records, size) => {
        const first = new VisitColumns();
        const second = new VisitColumns();
        let known = {};
        for (const [i, record] of records.entries()) {
          first.add(record);
          if ((i + 1) % size === 0) {
            second.take(structuredClone(first.store(i + 1 - size, i + 1, known)));
            known = first.known();
          }
        }
        for (const record of records.slice(records.length - (records.length % size))) second.add(record);
        expect(records.map((_, row) => second.record(row))).toEqual(records);
      }),
    ));

  it('go on in a new segment when one is full', () => {
    const columns = new VisitColumns();
    for (let i = 0; i < segmentRows + 3; i++)
      columns.add(hop(i, { seq: i + 1, click: clickId(i, new Uint8Array(10)) }));
    expect(columns.segments.map((segment) => segment.rows)).toEqual([segmentRows, 3]);
    expect(columns.record(segmentRows + 2).seq).toBe(segmentRows + 3);
    expect(columns.beginningWith(columns.click(segmentRows)).row(0)).toBe(segmentRows);
  });

  it('find the clicks whose IDs begin with a text, as a plain search does, in either case', () =>
    fc.assert(
      fc.property(hops, fc.nat(), fc.integer({ min: 1, max: 26 }), (records, which, length) => {
        const columns = new VisitColumns();
        for (const record of records) columns.add(record);
        const of = records[which % Math.max(1, records.length)]?.click ?? '01M84BDPSK';
        const prefix = of.slice(0, length);
        const plain = records.flatMap((record, row) =>
          prefix !== '' && record.click.startsWith(prefix) ? [row] : [],
        );
        const found = columns.beginningWith(prefix.toLowerCase());
        const rows = Array.from({ length: found.count }, (_, n) => found.row(n));
        expect(rows.sort((a, b) => a - b)).toEqual(plain);
      }),
    ));

  it('find them in whatever order they came, however often they are asked in between, and know it', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 400 }), bytes), { maxLength: 300 }),
        fc.integer({ min: 1, max: 90 }),
        (moments, every) => {
          const columns = new VisitColumns();
          const plain: string[] = [];
          const rowsOf = (prefix: string) => {
            const found = columns.beginningWith(prefix);
            return Array.from({ length: found.count }, (_, n) => columns.click(found.row(n)));
          };
          for (const [i, [hour, random]] of moments.entries()) {
            const at = Date.UTC(2026, 9, 1) + hour * 3_600_000;
            const click = clickId(at, random);
            plain.push(click);
            columns.add(hop(at, { seq: i + 1, click }));
            if (i % every > 0) continue;
            const prefix = click.slice(0, 7);
            expect(rowsOf(prefix)).toEqual(plain.filter((one) => one.startsWith(prefix)).sort());
          }
          const hours = moments.map(([hour]) => hour);
          expect(columns.isByTime).toBe(hours.every((hour, i) => hour >= Math.max(...hours.slice(0, i))));
        },
      ),
    ));

  it('know no click that is none', () => {
    const columns = new VisitColumns();
    columns.add(hop(5));
    for (const text of ['', '!', 'ILO', '8ZZZ', `${columns.click(0)}0`])
      expect(columns.beginningWith(text).count).toBe(0);
  });
});

describe('the classification over columns', () => {
  it('gives each request the outcome it has record by record, and they add up', () =>
    fc.assert(
      fc.property(
        hops,
        fc.constantFrom(0, 10, 30),
        fc.constantFrom(2, 20),
        fc.boolean(),
        (records, repeatMinutes, burst, ownByTest) => {
          const rules = { ...defaultRules, repeatMinutes, burstRequests: burst, ownByTest };
          const columns = new VisitColumns();
          const isMail = (source: string) => source !== 'flyer';
          const classification = new Classification(columns, isbot, rules, isMail);
          for (const [i, record] of records.entries()) {
            columns.add(record);
            if (i % 7 === 0) classification.update();
          }
          classification.update();
          expect(
            records.map((_, row) => ({
              outcome: classification.outcome(row),
              kind: botKinds[classification.kindsIn(columns.segmentOf(row))[row] ?? -1],
            })),
          ).toEqual(plainClassified(records, isbot, rules, isMail));
          expect(classification.counts.reduce((sum, count) => sum + count, 0)).toBe(records.length);
        },
      ),
      { numRuns: 300 },
    ));

  it('knows a person by their test hop for the rest of it, where that is wanted', () => {
    const columns = new VisitColumns();
    const own = { visitor: 'f3a91c0000000001' };
    for (const [i, more] of [own, { ...own, test: true }, own, {}, own].entries())
      columns.add(hop(Date.UTC(2026, 9, 1, i), { seq: i + 1, ...more }));
    const outcomes = (ownByTest: boolean) => {
      const classification = new Classification(columns, isbot, { ...defaultRules, ownByTest });
      classification.update();
      return Array.from({ length: columns.rows }, (_, row) => classification.outcome(row));
    };
    expect(outcomes(false)).toEqual(['counted', 'test', 'counted', 'counted', 'counted']);
    // What came before the test hop is nobody's to say.
    expect(outcomes(true)).toEqual(['counted', 'test', 'test', 'counted', 'test']);
  });
});
