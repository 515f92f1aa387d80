import fc from 'fast-check';
import { isbot } from 'isbot';
import { describe, expect, it } from 'vitest';
import { clickId } from '#core/hop';
import type { HopRecord, Outcome } from './index.ts';
import { addSums, Columns, ColumnSieve, defaultRules, thin } from './index.ts';

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
    return {
      seq: i + 1,
      kind: 'hop',
      at,
      click: clickId(at, new Uint8Array(10).fill(i)),
      edition: 1,
      branch: 'everyone',
      status: 307,
      method: 'GET',
      host: '',
      visitor: visitor.startsWith('today') ? `0000000${visitor.slice(5)}${today}` : visitor,
      country: '',
      device: 'phone',
      from: '',
      query: '',
      lang: '',
      prefetch: false,
      ...more,
    };
  });
});
const columnsOf = (records: readonly HopRecord[]): Columns => {
  const columns = new Columns();
  for (const record of records) columns.add(record);
  return columns;
};
const sieveOf = (columns: Columns, rules = defaultRules): ColumnSieve => {
  const sieve = new ColumnSieve(columns, isbot, rules);
  sieve.go();
  return sieve;
};
const rowsOf = ({ rows }: Columns): number[] => Array.from({ length: rows }, (_, row) => row);
const zones = { zone: 'Europe/Berlin', theirZone: () => 'America/Los_Angeles' };

describe('old days as sums', () => {
  it('are, with the rows that stay, what there was', () =>
    fc.assert(
      fc.property(journals, fc.nat(20), fc.nat(), (records, days, picked) => {
        const columns = columnsOf(records);
        const sieve = sieveOf(columns);
        const stays = (row: number) => row === picked % columns.rows;
        const { columns: kept, sums } = thin({ columns, sieve, before: start + days * day, stays, ...zones });
        const count = (of: Columns, by: ColumnSieve) => {
          const found = new Map<string, number>();
          for (const row of rowsOf(of)) {
            const key = `${of.text('link', row)} ${of.text('source', row)} ${by.outcome(row)}`;
            found.set(key, (found.get(key) ?? 0) + 1);
          }
          return found;
        };
        const now = count(kept, sieveOf(kept));
        for (const { link, source, outcome, count: n } of sums) {
          const key = `${link} ${source} ${outcome}`;
          now.set(key, (now.get(key) ?? 0) + n);
        }
        expect(new Map([...now].sort())).toEqual(new Map([...count(columns, sieve)].sort()));
      }),
    ));

  it('leave every row that stays the outcome it had, by these rules and by others', () =>
    fc.assert(
      fc.property(
        journals,
        fc.nat(20),
        fc.integer({ min: 1, max: 600 }),
        fc.boolean(),
        (records, days, againMinutes, ownByTest) => {
          const columns = columnsOf(records);
          const before = start + days * day;
          const { columns: kept } = thin({
            columns,
            sieve: sieveOf(columns),
            before,
            stays: () => false,
            ...zones,
          });
          const rules = { ...defaultRules, againMinutes, burstRequests: 3, ownByTest };
          const outcomes = (of: Columns): Map<number, Outcome> => {
            const sieve = sieveOf(of, rules);
            return new Map(rowsOf(of).map((row) => [of.record(row).seq, sieve.outcome(row)]));
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
    const one = (more: Partial<HopRecord>): HopRecord => ({
      seq: 1,
      kind: 'hop',
      at,
      click: '',
      link: 'lnk_chair',
      edition: 1,
      branch: 'everyone',
      source: '',
      status: 307,
      method: 'GET',
      host: '',
      ua: 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
      visitor: '00000000000000a1',
      country: '',
      device: 'phone',
      from: '',
      query: '',
      lang: '',
      prefetch: false,
      test: false,
      ...more,
    });
    const columns = columnsOf([one({}), one({ seq: 2, at: at + 45 * 60_000, visitor: '00000000000000b2' })]);
    const { sums } = thin({
      columns,
      sieve: sieveOf(columns),
      before: at + 2 * day,
      stays: () => false,
      ...zones,
    });
    expect(sums.map(({ day: ours, theirDay, count }) => [ours, theirDay, count])).toEqual([
      ['2026-06-01', '2026-06-01', 1],
      ['2026-06-02', '2026-06-01', 1],
    ]);
    expect(addSums([sums, sums]).map(({ count }) => count)).toEqual([2, 2]);
  });
});
