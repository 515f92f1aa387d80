import { describe, expect, it } from 'vitest';
import { rateDifference, rateInterval } from './rates.ts';

const rounded = ({ low, high }: { low: number; high: number }) => [low.toFixed(4), high.toFixed(4)];

describe('the interval of a rate', () => {
  it.each([
    [81, 263, '0.2553', '0.3662'],
    [15, 148, '0.0624', '0.1605'],
    [0, 20, '0.0000', '0.1611'],
    [1, 29, '0.0061', '0.1718'],
  ])('is what Newcombe 1998 has for %i of %i (from memory)', (hits, tries, low, high) => {
    expect(rounded(rateInterval(hits, tries))).toEqual([low, high]);
  });

  it('is that of the other part, turned around', () => {
    for (const [hits, tries] of [
      [0, 7],
      [3, 11],
      [50, 1000],
    ] as const) {
      const [one, other] = [rateInterval(hits, tries), rateInterval(tries - hits, tries)];
      expect(one.low).toBeCloseTo(1 - other.high, 12);
      expect(one.high).toBeCloseTo(1 - other.low, 12);
    }
  });

  it('is none of nothing, and of more than all', () => {
    expect(() => rateInterval(0, 0)).toThrow('0 of 0');
    expect(() => rateInterval(3, 2)).toThrow('3 of 2');
  });
});

describe('the difference of two rates', () => {
  it('is what Newcombe 1998 has for 56 of 70 and 48 of 80 (from memory)', () => {
    expect(rounded(rateDifference([56, 70], [48, 80]))).toEqual(['0.0524', '0.3339']);
  });

  it('is turned around with them', () => {
    const [one, other] = [rateDifference([5, 40], [9, 31]), rateDifference([9, 31], [5, 40])];
    expect(one.low).toBeCloseTo(-other.high, 12);
    expect(one.high).toBeCloseTo(-other.low, 12);
  });
});
