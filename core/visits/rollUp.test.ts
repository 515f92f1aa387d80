import fc from 'fast-check';
import { isbot } from 'isbot';
import { describe, expect, it } from 'vitest';
import { clickId } from '#core/hop';
import type { HopRecord, Outcome } from './index.ts';
import { mergeCounts, VisitColumns, Classification, defaultRules, rollUp } from './index.ts';
import { hopRecord } from './testing/records.ts';

const day = 86_400_000;
const start = Date.UTC(2026, 5, 1);
const hop = fc.record({
  wait: fc.oneof(fc.integer({ min: 0, max: 2000 }), fc.integer({ min: 0, max: day / 2 })),
  // A visitor of a cookie comes back on other days; the others are known for one day.
  visitor: fc.constantFrom('00000000000000a1', 'ffffffff00000000', 'today1', 'today2', 'today3'),
  link: fc.constantFrom('lnk_gloves', 'lnk_chair'),
  source: fc.constantFrom('', 'flyer'),
  ua: fc.constantFrom(
    'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
    'examplebot/2.1',
  ),
  test: fc.constantFrom(false, false, false, true),
});
const journals = fc.array(hop, { minLength: 1, maxLength: 80 }).map((rows): HopRecord[] => {
  let at = start;
  return rows.map(({ wait, visitor, ...more }, i) => {
    at += wait;
    const today = String(Math.floor(at / day)).padStart(8, '0');
    return hopRecord({
      seq: i + 1,
      at,
      click: clickId(at, new Uint8Array(10).fill(i)),
      visitor: visitor.startsWith('today') ? `0000000${visitor.slice(5)}${today}` : visitor,
      ...more,
    });
  });
});
const columnsOf = (records: readonly HopRecord[]): VisitColumns => {
  const columns = new VisitColumns();
  for (const record of records) columns.add(record);
  return columns;
};
const classificationOf = (columns: VisitColumns, rules = defaultRules): Classification => {
  const classification = new Classification(columns, isbot, rules);
  classification.update();
  return classification;
};
const rowsOf = ({ rows }: VisitColumns): number[] => Array.from({ length: rows }, (_, row) => row);
const zones = { zone: 'Europe/Berlin', theirZone: () => 'America/Los_Angeles' };

describe('days rolled up', () => {
  it('are, with the rows that stay, what there was', () =>
    fc.assert(
      fc.property(journals, fc.nat(20), fc.nat(), (records, days, picked) => {
        const columns = columnsOf(records);
        const classification = classificationOf(columns);
        const stays = (row: number) => row === picked % columns.rows;
        const { columns: kept, counts } = rollUp({
          columns,
          classification,
          before: start + days * day,
          stays,
          ...zones,
        });
        const count = (of: VisitColumns, by: Classification) => {
          const found = new Map<string, number>();
          for (const row of rowsOf(of)) {
            const key = `${of.text('link', row)} ${of.text('source', row)} ${by.outcome(row)}`;
            found.set(key, (found.get(key) ?? 0) + 1);
          }
          return found;
        };
        const now = count(kept, classificationOf(kept));
        for (const { link, source, outcome, count: n } of counts) {
          const key = `${link} ${source} ${outcome}`;
          now.set(key, (now.get(key) ?? 0) + n);
        }
        expect(new Map([...now].sort())).toEqual(new Map([...count(columns, classification)].sort()));
      }),
    ));

  it('leave every row that stays the outcome it had, by these rules and by others', () =>
    fc.assert(
      fc.property(
        journals,
        fc.nat(20),
        fc.integer({ min: 1, max: 600 }),
        fc.boolean(),
        (records, days, repeatMinutes, ownByTest) => {
          const columns = columnsOf(records);
          const before = start + days * day;
          const { columns: kept } = rollUp({
            columns,
            classification: classificationOf(columns),
            before,
            stays: () => false,
            ...zones,
          });
          const rules = { ...defaultRules, repeatMinutes, burstRequests: 3, ownByTest };
          const outcomes = (of: VisitColumns): Map<number, Outcome> => {
            const classification = classificationOf(of, rules);
            return new Map(rowsOf(of).map((row) => [of.record(row).seq, classification.outcome(row)]));
          };
          const whole = outcomes(columns);
          for (const [seq, outcome] of outcomes(kept)) expect([seq, outcome]).toEqual([seq, whole.get(seq)]);
          // Nothing of the days since is missing.
          const since = records.filter(({ at }) => at >= before).map(({ seq }) => seq);
          expect(rowsOf(kept).map((row) => kept.record(row).seq)).toEqual(expect.arrayContaining(since));
        },
      ),
    ));

  it('name the day on both sides of midnight, and add up', () => {
    // 1 June 23:30 in Berlin is still the afternoon of that day in Los Angeles; half an hour later the days part.
    const at = Date.UTC(2026, 5, 1, 21, 30);
    const one = (more: Partial<HopRecord>): HopRecord => hopRecord({ at, link: 'lnk_chair', ...more });
    const columns = columnsOf([one({}), one({ seq: 2, at: at + 45 * 60_000, visitor: '00000000000000b2' })]);
    const { counts } = rollUp({
      columns,
      classification: classificationOf(columns),
      before: at + 2 * day,
      stays: () => false,
      ...zones,
    });
    expect(counts.map(({ day: ours, theirDay, count }) => [ours, theirDay, count])).toEqual([
      ['2026-06-01', '2026-06-01', 1],
      ['2026-06-02', '2026-06-01', 1],
    ]);
    expect(mergeCounts([counts, counts]).map(({ count }) => count)).toEqual([2, 2]);
  });
});
