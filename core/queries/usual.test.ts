import { describe, expect, it } from 'vitest';
import { costRates } from '#core/costs';
import { completeness, payoutOf } from '#core/figures';
import { Dataset } from './index.ts';
import { seasonOf } from './testing/seasons.ts';
import { domain, links, networks, programs } from './testing/worlds.ts';
import { dimensionsOf } from './trafficDimensions.ts';
import { paidUnits, usualOf } from './usual.ts';

const now = Date.UTC(2026, 10, 20, 12, 34);
const hour = 3_600_000;

/** What is usual of the worlds' programs after a season, and the season's own lines. */
const usualAfter = (parts: Parameters<typeof seasonOf>[1], terms = programs) => {
  const journal = seasonOf(now, parts);
  const data = new Dataset();
  data.setRecords({ domains: [domain], networks, programs: terms, links });
  data.add(journal);
  const rates = costRates(
    [{ id: 'rat_a', from: 'EUR', to: 'USD', day: '2026-01-01', rate: '1.1', source: 'my bank' }],
    'USD',
  );
  const units = paidUnits(data, rates);
  return { journal, usual: usualOf(data, units, dimensionsOf(data)('program'), rates, now) };
};

describe('what is usual of a program', () => {
  const after = [0, 0, 1, 3, 9, 20];
  const season = usualAfter([
    ...['2026-10-01', '2026-10-12', '2026-11-01', '2026-11-15', '2026-11-19'].map((day) => ({
      ...{ source: 'letter', day, visits: 90, sales: 30, after },
    })),
    { source: 'letter', day: '2026-10-05', visits: 300, sales: 60, of: 'b' },
    { source: 'letter', day: '2026-10-07', visits: 50, sales: 2, of: 'c' },
  ]);

  it('is when its sales come by Kaplan and Meier over every click one by one', () => {
    const hops = season.journal.filter((one) => one.kind === 'hop' && one.link === 'lnk_a');
    const first = new Map(
      season.journal.flatMap((one) =>
        one.kind === 'postback' ? [[/click=(\w+)/.exec(one.query)?.[1] ?? '', one.at]] : [],
      ),
    );
    const plain = completeness(
      hops.map((one) => {
        const at = one.kind === 'hop' ? first.get(one.click) : undefined;
        return at === undefined
          ? { ms: Math.floor((now - one.at) / hour) * hour, came: false }
          : { ms: at - one.at, came: true };
      }),
    );
    const { complete } = season.usual.of('prg_a');
    for (const ms of [0, 30_000, 60_000, hour, 24 * hour, 73 * hour, 10 * 24 * hour, 40 * 24 * hour])
      expect([ms, complete(ms)]).toEqual([ms, expect.closeTo(plain?.(ms) ?? NaN, 12)]);
    expect(complete(24 * hour + 60_000)).toBeGreaterThan(complete(2 * hour));
  });

  it('is its own, and that of all programs where fewer than five sales came', () => {
    const [a, b, c] = ['prg_a', 'prg_b', 'prg_c'].map((name) => season.usual.of(name));
    expect([a?.own, b?.own, c?.own]).toEqual([true, true, false]);
    expect(b?.complete(2 * 60_000)).toBe(1);
    expect(a?.complete(2 * 60_000)).toBeLessThan(0.6);
    expect(c?.complete(2 * 60_000)).toBe(season.usual.all.complete(2 * 60_000));
    expect(b?.rate).toBeCloseTo(0.2, 12);
  });

  it('is what its sales paid, in the one currency', () => {
    expect(season.usual.of('prg_b').payout).toEqual(payoutOf(Array.from({ length: 60 }, () => 1100)));
  });

  it('is what its terms fix for every sale, unless one was paid otherwise', () => {
    const fixed = (amount: number) =>
      programs.map((one) => ({
        ...one,
        terms: [
          { kind: 'fixed' as const, from: '2026-01-01', event: '', amount, currency: 'EUR' },
          { kind: 'fixed' as const, from: '2027-01-01', event: '', amount: 1, currency: 'EUR' },
        ],
      }));
    const sold = [{ source: 'letter', day: '2026-10-05', visits: 300, sales: 60, of: 'b' }];
    const payoutBy = (amount: number, parts = sold) =>
      usualAfter(parts, fixed(amount)).usual.of('prg_b').payout;
    expect(payoutBy(1000)).toEqual({ mean: 1100, spread: 0, sales: Infinity });
    expect(payoutBy(900)).toMatchObject({ mean: 1100, sales: 60 });
    expect(payoutBy(900, [])).toEqual({ mean: 990, spread: 0, sales: Infinity });
    expect(usualAfter([]).usual.of('prg_b').payout).toBeUndefined();
  });

  it('where nothing ever came is a wait of thirty days', () => {
    const { complete, rate, approval } = usualAfter([]).usual.of('prg_b');
    expect([complete(0), complete(15 * 24 * hour), complete(60 * 24 * hour)]).toEqual([0, 0.5, 1]);
    expect([rate, approval]).toEqual([undefined, undefined]);
  });
});
