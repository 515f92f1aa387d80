import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareBranches, movedShares } from './branches.ts';
import { priorOf } from './sequence.ts';
import type { Evidence } from './verdict.ts';

const evidence = (visitors: number, conversions: number, more: Partial<Evidence> = {}): Evidence => ({
  ...{ visitors, ripe: visitors, conversions, cost: 0, prior: priorOf(0.02) },
  payout: { mean: 1000, spread: 0, sales: 500 },
  ...more,
});

describe('two branches of a split', () => {
  it('are one better, alike, to be tested on, or too young, and what is said turns round with them', () => {
    const monthly = 3000;
    const verdicts = (one: Evidence, other: Evidence) =>
      [compareBranches(one, other, monthly), compareBranches(other, one, monthly)].map(
        ({ verdict }) => verdict,
      );
    expect(verdicts(evidence(4000, 160), evidence(4000, 80))).toEqual(['better', 'worse']);
    expect(verdicts(evidence(400, 10), evidence(400, 8))).toEqual(['keep testing', 'keep testing']);
    expect(verdicts(evidence(4e6, 80_010), evidence(4e6, 80_000))).toEqual([
      'no difference',
      'no difference',
    ]);
    expect(verdicts(evidence(4000, 160, { ripe: 1900 }), evidence(4000, 80))).toEqual(['wait', 'wait']);
    const unknown = { payout: { mean: 1000, spread: 0, sales: 19 } };
    expect(verdicts(evidence(4000, 160, unknown), evidence(4000, 80, unknown))).toEqual(['wait', 'wait']);
    expect(() => compareBranches(evidence(0, 0), evidence(10, 1), 1)).toThrow(RangeError);
  });

  it('differ by what a conversion pays as well as by how many there are', () => {
    const dear = { payout: { mean: 4000, spread: 0, sales: 500 } };
    const { verdict, difference } = compareBranches(evidence(4000, 80, dear), evidence(4000, 120), 3000);
    expect(verdict).toBe('better');
    // 80 of 4,000 at 40 euros beside 120 at 10.
    expect(difference.low).toBeLessThan(50);
    expect(difference.high).toBeGreaterThan(50);
  });

  it('are told apart later where they are two of several: of a larger number of pairs one differs by chance', () => {
    const [one, other] = [evidence(4000, 152), evidence(4000, 88)];
    const [alone, ofThree, ofFifteen] = [1, 3, 15].map((pairs) => compareBranches(one, other, 3000, pairs));
    const widths = [alone, ofThree, ofFifteen].map((one) =>
      one ? one.difference.high - one.difference.low : NaN,
    );
    expect(widths).toEqual(widths.toSorted((a, b) => a - b));
    expect(new Set(widths).size).toBe(3);
    expect([alone?.verdict, ofFifteen?.verdict]).toEqual(['better', 'keep testing']);
  });

  it('need as many more visitors as it takes: with them it is told, with fewer it is not', () => {
    const [one, other] = [evidence(500, 15), evidence(1000, 22)];
    const { needed = 0, verdict } = compareBranches(one, other, 3000);
    expect(verdict).toBe('keep testing');
    const after = (more: number) => {
      const times = 1 + more / 1500;
      const grown = ({ visitors, conversions }: Evidence) => evidence(visitors * times, conversions * times);
      return compareBranches(grown(one), grown(other), 3000).verdict;
    };
    expect([after(needed), after(needed * 0.97)]).toEqual(['better', 'keep testing']);
    expect(compareBranches(evidence(500, 10), evidence(500, 10), 3000).needed).toBe(Infinity);
  });
});

describe('shares that move', () => {
  it('leave the least to whatever surely earns less, and the rest to the others equally', () => {
    expect(movedShares([undefined, 'keep testing'], 10)).toEqual([50, 50]);
    expect(movedShares([undefined, 'worse'], 10)).toEqual([90, 10]);
    expect(movedShares([undefined, 'worse', 'keep testing', 'wait'], 10)).toEqual([30, 10, 30, 30]);
    expect(movedShares([undefined, 'worse', 'no difference'], 25)).toEqual([37, 25, 38]);
    // The first of them is the worse one where another is surely better.
    expect(movedShares([undefined, 'better'], 20)).toEqual([20, 80]);
    expect(movedShares([undefined], 10)).toEqual([100]);
  });

  it('are a hundred together, and no branch has less than the least there is for each', () => {
    const verdicts = fc.array(
      fc.constantFrom(undefined, 'worse', 'better', 'no difference', 'keep testing', 'wait'),
      { minLength: 1, maxLength: 12 },
    );
    fc.assert(
      fc.property(verdicts, fc.integer({ min: 10, max: 50 }), ([_, ...others], least) => {
        const shares = movedShares([undefined, ...others], least);
        expect(shares.reduce((sum, share) => sum + share, 0)).toBe(100);
        const few = Math.min(least, Math.floor(100 / shares.length));
        for (const share of shares) expect(share).toBeGreaterThanOrEqual(few);
      }),
    );
  });
});
