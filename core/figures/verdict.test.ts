import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { element } from '#core/catalogue';
import { payoutOf } from './payout.ts';
import { priorOf, rateSequence, sideOf } from './sequence.ts';
import type { Evidence, Verdict } from './verdict.ts';
import { judge, profitBand, visitorsNeeded } from './verdict.ts';
import { calledInRuns } from './testing/lookedAtDaily.ts';

const prior = priorOf(0.01);
const evidence = (more: Partial<Evidence> = {}): Evidence => ({
  visitors: 2000,
  ripe: 2000,
  conversions: 20,
  cost: 20_000,
  payout: { mean: 1000, spread: 0, sales: Infinity },
  prior,
  ...more,
});

describe('what conversions pay', () => {
  it('is their mean and how much they differ', () => {
    // Of 2, 4, 4, 4, 5, 5, 7, 9 the mean is 5 and the sum of squared differences 32.
    expect(payoutOf([2, 4, 4, 4, 5, 5, 7, 9])).toEqual({ mean: 5, spread: 32 / 7 / 25, sales: 8 });
    expect(payoutOf([700, 700])).toEqual({ mean: 700, spread: 0, sales: 2 });
  });

  it('is not known of one alone, or where it is nothing', () => {
    expect([payoutOf([]), payoutOf([700]), payoutOf([5, -5])]).toEqual([undefined, undefined, undefined]);
  });
});

describe('the side of a rate', () => {
  it('is where its band says that it lies', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 300, noNaN: true }),
        fc.double({ min: 0, max: 20_000, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.constantFrom(0.003, 0.01, 0.1),
        (hits, misses, rate, usual) => {
          const { low, high } = rateSequence(hits, misses, priorOf(usual));
          const side = sideOf(rate, hits, misses, priorOf(usual));
          // Nearer to an end than numbers tell apart, it may be either.
          const near = (end: number) => Math.abs(rate - end) <= 1e-9;
          if (near(low) || near(high)) return;
          expect(side).toBe(rate < low ? 'below' : rate > high ? 'above' : 'within');
        },
      ),
      { numRuns: 2000 },
    );
    expect(sideOf(1.5, 0, 0, prior)).toBe('above');
    expect(sideOf(1.5, 3, 2, prior)).toBe('above');
  });
});

describe('a verdict', () => {
  it('goes by the band, in its order', () => {
    const verdicts: [Partial<Evidence>, Verdict][] = [
      [{ visitors: 0, ripe: 0, conversions: 0 }, 'no visitors'],
      [{ cost: 0 }, 'no cost'],
      [{}, 'keep testing'],
      // It costs five times what it earns; also where nothing was sold at all, and before most conversions can have come.
      [{ cost: 100_000 }, 'cut'],
      [{ conversions: 0, cost: 100_000 }, 'cut'],
      [{ ripe: 900, conversions: 2, cost: 100_000 }, 'cut'],
      [{ ripe: 900, conversions: 9 }, 'wait'],
      [{ cost: 4000 }, 'scale'],
      // Its program's sales are too few to know what one pays.
      [{ cost: 100_000, payout: { mean: 1000, spread: 0.64, sales: 19 } }, 'wait'],
      [{ cost: 100_000, payout: { mean: 1000, spread: 0.64, sales: 20 } }, 'cut'],
      // Four sales, however much they earn.
      [{ visitors: 20, ripe: 20, conversions: 4, cost: 20 }, 'keep testing'],
      [{ visitors: 20, ripe: 20, conversions: 5, cost: 20 }, 'scale'],
    ];
    for (const [more, verdict] of verdicts) expect([more, judge(evidence(more))]).toEqual([more, verdict]);
  });

  it('says what its band says', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 50_000 }),
        fc.double({ min: 0.5, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 0.03, noNaN: true }),
        fc.double({ min: 0.5, max: 40, noNaN: true }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        (visitors, ripe, rate, each, spread) => {
          const asked = evidence({
            visitors,
            ripe: visitors * ripe,
            conversions: visitors * ripe * rate,
            cost: each * visitors,
            payout: { mean: 1000, spread, sales: 100 },
          });
          const { low, high } = profitBand(asked);
          if (Math.min(Math.abs(low), Math.abs(high)) < 1e-6) return;
          const verdict = judge(asked);
          expect(verdict === 'cut').toBe(high < 0);
          if (asked.conversions >= 5) expect(verdict === 'scale').toBe(low > 0);
        },
      ),
    );
  });

  it('needs more visitors the nearer a source is to what it costs, and then says it', () => {
    const needed = [40_000, 30_000, 24_000].map((cost) => visitorsNeeded(evidence({ cost })).fewest);
    expect(needed).toEqual(needed.toSorted((a, b) => a - b));
    expect(visitorsNeeded(evidence()).most).toBe(Infinity);
    for (const cost of [28_000, 26_000, 24_000]) {
      const { fewest, most } = visitorsNeeded(evidence({ cost }));
      expect(fewest).toBeGreaterThan(0);
      expect(most).toBeGreaterThanOrEqual(fewest);
      expect(judge(evidence({ cost }))).toBe('keep testing');
      // With so many more of the same rate it can be said.
      const rate = 20 / 2000;
      const more = most === Infinity ? fewest : most;
      const after = { visitors: 2000 + more, ripe: 2000 + more, conversions: 20 + rate * more };
      if (most !== Infinity)
        expect(judge(evidence({ ...after, cost: (cost / 2000) * after.visitors }))).toBe('cut');
    }
  });
});

describe('a verdict that is looked at every day for ninety days', () => {
  const runs = Number(process.env['VERDICT_RUNS'] ?? 400);
  /** Of a hundred sources that earn half of their cost, how many are cut by the ninetieth day; of those that earn twice, how many are scaled. */
  const leastByRate = new Map<number, readonly [cut: number, scaled: number]>([
    [0.005, [0.55, 0.4]],
    [0.01, [0.85, 0.7]],
    [0.03, [0.99, 0.99]],
  ]);
  const threeDeviations = (share: number) => 3 * Math.sqrt((share * (1 - share)) / runs);
  const percents = (shares: readonly number[]) => shares.map((share) => (share * 100).toFixed(1)).join(' | ');

  it.each([
    // With many other sources of the program, few, and none: what a sale pays is known from their sales alone.
    { rate: 0.005, others: 9, beside: 'nine others' },
    { rate: 0.01, others: 9, beside: 'nine others' },
    { rate: 0.03, others: 9, beside: 'nine others' },
    { rate: 0.005, others: 2, beside: 'two others' },
    { rate: 0.01, others: 2, beside: 'two others' },
    { rate: 0.01, others: 0, beside: 'none' },
    { rate: 0.03, others: 0, beside: 'none' },
  ])('at a rate of $rate beside $beside is rarely wrong, and comes in time', ({ rate, others, beside }) => {
    const found = calledInRuns(runs, rate, others);
    const [right] = found;
    const worst = Math.max(...found.map(({ evenIsWrong }) => evenIsWrong));
    if (right)
      process.stdout.write(
        `| ${rate * 100} % | ${beside} | ${percents([right.evenIsWrongByInterval, right.evenIsWrong, worst, Math.max(...found.map(({ profitIsCut }) => profitIsCut)), right.lossIsCut, right.profitIsScaled])} |\n`,
      );
    for (const { evenIsWrong, profitIsCut } of found) {
      expect(evenIsWrong).toBeLessThanOrEqual(0.05 + threeDeviations(0.05));
      expect(profitIsCut).toBeLessThanOrEqual(0.01 + threeDeviations(0.01));
    }
    // An interval made for one look is wrong far more often.
    expect(element(right).evenIsWrongByInterval).toBeGreaterThan(worst * 2);
    // With a prior that is right.
    const [leastCut, leastScaled] = leastByRate.get(rate) ?? [0, 0];
    if (others < 9) return;
    expect(element(right).lossIsCut).toBeGreaterThanOrEqual(leastCut - threeDeviations(leastCut));
    expect(element(right).profitIsScaled).toBeGreaterThanOrEqual(leastScaled - threeDeviations(leastScaled));
  });
});
