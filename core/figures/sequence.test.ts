import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rateInterval } from './rates.ts';
import { lnBeta, priorOf, rateSequence } from './sequence.ts';
import { seeded } from './testing/seeded.ts';

describe('the beta function', () => {
  it('is what factorials make of it', () => {
    const lnFactorial = (n: number) =>
      Array.from({ length: n }, (_, i) => Math.log(i + 1)).reduce((a, b) => a + b, 0);
    for (const [a, b] of [
      [1, 1],
      [2, 5],
      [30, 400],
      [3, 100_000],
    ] as const) {
      const exact = lnFactorial(a - 1) + lnFactorial(b - 1) - lnFactorial(a + b - 1);
      expect(Math.abs(lnBeta(a, b) - exact)).toBeLessThan(1e-8 * Math.max(1, Math.abs(exact)));
    }
    // Of two halves it is pi (Euler).
    expect(lnBeta(0.5, 0.5)).toBeCloseTo(Math.log(Math.PI), 12);
    expect(lnBeta(0.25, 0.75)).toBeCloseTo(Math.log(Math.PI * Math.SQRT2), 12);
  });
});

describe('the band of a rate that may be looked at however often', () => {
  /** How likely a row of tries is by the prior, by adding up thin slices of it: the definition. */
  const bySlices = (hits: number, misses: number, prior: { hits: number; misses: number }): number => {
    const slices = 400_000;
    let [sum, weight] = [0, 0];
    for (let i = 0; i < slices; i++) {
      const rate = (i + 0.5) / slices;
      const density = rate ** (prior.hits - 1) * (1 - rate) ** (prior.misses - 1);
      weight += density;
      sum += density * rate ** hits * (1 - rate) ** misses;
    }
    return sum / weight;
  };

  it('ends where what was seen is twenty times less likely than by the prior', () => {
    for (const [hits, misses, usual] of [
      [0, 40, 0.1],
      [3, 60, 0.05],
      [12, 25, 0.2],
      [7, 0, 0.5],
    ] as const) {
      const prior = priorOf(usual);
      const { low, high } = rateSequence(hits, misses, prior);
      const byPrior = bySlices(hits, misses, prior);
      const ratio = (rate: number) => byPrior / (rate ** hits * (1 - rate) ** misses);
      for (const end of [low, high])
        if (end > 0 && end < 1)
          expect([hits, misses, ratio(end).toFixed(3)]).toEqual([hits, misses, '20.000']);
      expect(low === 0).toBe(hits === 0);
      expect(high === 1).toBe(misses === 0);
    }
  });

  it('holds the rate that was seen, is narrower the more was seen, and all of it where nothing was', () => {
    expect(rateSequence(0, 0, priorOf(0.01))).toEqual({ low: 0, high: 1 });
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 200 }),
        fc.integer({ min: 1, max: 5000 }),
        fc.constantFrom(0.003, 0.01, 0.1),
        (hits, misses, usual) => {
          const prior = priorOf(usual);
          const [once, tenfold] = [
            rateSequence(hits, misses, prior),
            rateSequence(hits * 10, misses * 10, prior),
          ];
          const rate = hits / (hits + misses);
          expect(once.low).toBeLessThanOrEqual(rate);
          expect(once.high).toBeGreaterThanOrEqual(rate);
          expect(tenfold.high - tenfold.low).toBeLessThan(once.high - once.low);
        },
      ),
    );
  });

  it('is refused for what cannot be', () => {
    expect(() => rateSequence(-1, 3, priorOf(0.1))).toThrow('-1 hits and 3 misses');
    expect(() => priorOf(0)).toThrow('a usual rate of 0');
    expect(() => priorOf(1)).toThrow('a usual rate of 1');
  });

  // The prior is right, a third and three times of the truth; an interval that is made for one look is wrong far more often.
  it.each([1, 1 / 3, 3])(
    'is wrong in at most five of a hundred runs that are looked at daily for ninety days, with a prior of %d times the truth',
    (times) => {
      const [rate, runs, days, visits] = [0.01, 400, 90, 60];
      const random = seeded(7);
      const prior = priorOf(rate * times);
      let [wrong, wrongForOneLook] = [0, 0];
      for (let run = 0; run < runs; run++) {
        let [hits, tries] = [0, 0];
        let [isWrong, isWrongForOneLook] = [false, false];
        for (let day = 0; day < days; day++) {
          for (let i = 0; i < visits; i++) if (random() < rate) hits += 1;
          tries += visits;
          const band = rateSequence(hits, tries - hits, prior);
          const once = rateInterval(hits, tries);
          isWrong ||= rate < band.low || rate > band.high;
          isWrongForOneLook ||= rate < once.low || rate > once.high;
        }
        if (isWrong) wrong += 1;
        if (isWrongForOneLook) wrongForOneLook += 1;
      }
      const threeDeviations = 3 * Math.sqrt((0.05 * 0.95) / runs);
      expect(wrong / runs).toBeLessThanOrEqual(0.05 + threeDeviations);
      expect(wrongForOneLook / runs).toBeGreaterThan(0.15);
    },
  );
});
