import fc from 'fast-check';
import jstat from 'jstat';
import { mean, sampleVariance } from 'simple-statistics';
import { describe, expect, it } from 'vitest';
import { payoutOf } from './payout.ts';
import { rateInterval } from './rates.ts';
import { against, lnBeta, mostAgainst, rateSequence } from './sequence.ts';

// Two libraries that others wrote and keep: jstat (MIT) and simple-statistics (ISC).

const tries = fc.integer({ min: 1, max: 20_000 });
const someOf = (least: number) =>
  tries.chain((of) => fc.tuple(fc.integer({ min: Math.min(least, of), max: of }), fc.constant(of)));

describe('beside jstat', () => {
  it('the beta function is the same, below one half too', () => {
    const number = fc.double({ min: 0.01, max: 5000, noNaN: true });
    fc.assert(
      fc.property(number, number, (a, b) => {
        const theirs = jstat.betaln(a, b);
        expect(Math.abs(lnBeta(a, b) - theirs)).toBeLessThan(1e-8 * Math.max(1, Math.abs(theirs)));
      }),
      { numRuns: 2000 },
    );
  });

  it('an interval by Wilson’s score ends where the rate seen is at the edge of 95 of 100 by the normal distribution', () => {
    fc.assert(
      fc.property(someOf(1), ([hits, of]) => {
        const { low, high } = rateInterval(hits, of);
        for (const [end, share] of [
          [low, 0.975],
          [high, 0.025],
        ] as const) {
          if (end <= 0 || end >= 1) continue;
          const deviation = Math.sqrt((end * (1 - end)) / of);
          expect(jstat.normal.cdf(hits / of, end, deviation)).toBeCloseTo(share, 6);
        }
      }),
      { numRuns: 500 },
    );
  });

  it('an interval by Wilson’s score holds about 95 of 100 by the binomial distribution itself, at every rate', () => {
    for (const of of [40, 400, 4000])
      for (const rate of [0.05, 0.2, 0.5, 0.8]) {
        const holding = Array.from({ length: of + 1 }, (_, hits) => hits).filter((hits) => {
          const { low, high } = rateInterval(hits, of);
          return low <= rate && rate <= high;
        });
        const upTo = (hits: number) => (hits < 0 ? 0 : jstat.binomial.cdf(hits, of, rate));
        const held = upTo(holding.at(-1) ?? NaN) - upTo((holding[0] ?? NaN) - 1);
        // They are all those between the first and the last.
        expect(holding).toHaveLength((holding.at(-1) ?? NaN) - (holding[0] ?? NaN) + 1);
        expect(Math.abs(held - 0.95)).toBeLessThan(of === 40 ? 0.035 : 0.012);
      }
  });

  it('what was seen is as likely by the prior as the sum over all rates says, each weighed by the beta density', () => {
    const steps = 200_000;
    for (const [hits, misses, prior] of [
      [3, 120, { hits: 3, misses: 297 }],
      [0, 50, { hits: 0.5, misses: 49.5 }],
      [12.5, 700.25, { hits: 3, misses: 150 }],
    ] as const) {
      // The middle of each step; of its width the edges, where a density may have no bound, are left to the sum's many steps.
      let sum = 0;
      for (let i = 0; i < steps; i++) {
        const rate = (i + 0.5) / steps;
        sum += (jstat.beta.pdf(rate, prior.hits, prior.misses) * rate ** hits * (1 - rate) ** misses) / steps;
      }
      const seen = against(hits, misses, prior);
      for (const rate of [0.004, 0.02, 0.07]) {
        const plain = Math.log(sum) - hits * Math.log(rate) - misses * Math.log(1 - rate);
        // A density without a bound at nought is summed to two digits only.
        expect(Math.abs(seen(rate) - plain)).toBeLessThan(prior.hits < 1 ? 0.03 : 1e-5);
      }
      const { low, high } = rateSequence(hits, misses, prior);
      const ofBand = (rate: number) =>
        Math.log(sum) - (hits === 0 ? 0 : hits * Math.log(rate)) - misses * Math.log(1 - rate);
      expect(ofBand(high)).toBeCloseTo(mostAgainst, prior.hits < 1 ? 1 : 4);
      if (low > 0) expect(ofBand(low)).toBeCloseTo(mostAgainst, 4);
    }
  });
});

describe('beside simple-statistics', () => {
  it('what a sale pays, and how much that differs, is the mean and the sample variance over its square', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 100_000 }), { minLength: 2, maxLength: 60 }),
        (amounts) => {
          const found = payoutOf(amounts);
          expect(found?.sales).toBe(amounts.length);
          expect(found?.mean).toBeCloseTo(mean(amounts), 6);
          expect(found?.spread).toBeCloseTo(sampleVariance(amounts) / mean(amounts) ** 2, 9);
        },
      ),
    );
  });
});
