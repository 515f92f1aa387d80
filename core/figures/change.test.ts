import { describe, expect, it } from 'vitest';
import { isMoreThanChance } from './index.ts';
import { seeded } from './testing/seeded.ts';

/** A count of chance alone, by Knuth's method in pieces that do not underflow. */
const poisson = (next: () => number, mean: number): number => {
  let count = 0;
  for (let rest = mean; rest > 0; rest -= 30) {
    const limit = Math.exp(-Math.min(rest, 30));
    for (let product = next(); product > limit; product *= next()) count += 1;
  }
  return count;
};
/** Days of a source, with a mailing every seventh, and by as much better or worse as days are by themselves. */
const days = (next: () => number, n: number, mean: number, weekly: number, swing: number): number[] =>
  Array.from({ length: n }, (_, i) =>
    poisson(next, mean * (i % 7 === 3 ? weekly : 1) * (1 + swing * (2 * next() - 1))),
  );

describe('a change against the period before', () => {
  it.each([
    [7, 3, 1, 0],
    [30, 0.5, 1, 0],
    [30, 40, 1, 0],
    [30, 40, 5, 0.5],
    [28, 4, 8, 0.8],
    [90, 12, 3, 0.5],
  ])(
    'is said in at most 2 of 100 where nothing changed: %i days of %d, %d times on one',
    (n, mean, weekly, swing) => {
      const next = seeded(n * 31 + mean);
      let said = 0;
      for (let run = 0; run < 2000; run++)
        if (isMoreThanChance(days(next, n, mean, weekly, swing), days(next, n, mean, weekly, swing)))
          said += 1;
      expect(said / 2000).toBeLessThanOrEqual(0.02);
    },
  );

  it('is said in at least 9 of 10 where half as many more came', () => {
    const next = seeded(5);
    let said = 0;
    for (let run = 0; run < 500; run++)
      if (isMoreThanChance(days(next, 30, 60, 1, 0.5), days(next, 30, 40, 1, 0.5))) said += 1;
    expect(said / 500).toBeGreaterThan(0.9);
  });

  it('is not spoken of where there are too few days, and is none where nothing came', () => {
    expect(isMoreThanChance([100], [1])).toBeUndefined();
    const none = Array.from({ length: 30 }, () => 0);
    expect(isMoreThanChance(none, none)).toBe(false);
  });
});
