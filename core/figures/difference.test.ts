import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Branch } from './difference.ts';
import { differenceBand, whichIsBetter } from './difference.ts';
import { against, priorOf } from './sequence.ts';
import { seeded } from './testing/seeded.ts';

const prior = priorOf(0.02);
const branch = (hits: number, misses: number, worth = 1): Branch => ({ hits, misses, worth, prior });

describe('the band of a difference of two branches', () => {
  it('is the least and the most of all pairs of rates that are likely enough, each of which is tried', () => {
    for (const [one, other] of [
      [branch(12, 400), branch(30, 380)],
      [branch(0, 150), branch(9, 200)],
      [branch(40, 900, 1200), branch(52, 870, 700)],
      [branch(3, 0), branch(1, 30)],
    ] as const) {
      const steps = 3000;
      const likely = ({ hits, misses }: Branch) => {
        const of = against(hits, misses, prior);
        return Array.from({ length: steps + 1 }, (_, i) => of(i / steps));
      };
      const [ofOne, ofOther] = [likely(one), likely(other)];
      let [low, high] = [Infinity, -Infinity];
      ofOne.forEach((a, i) =>
        ofOther.forEach((b, j) => {
          if (!(a + b <= Math.log(20))) return;
          const difference = (i / steps) * one.worth - (j / steps) * other.worth;
          low = Math.min(low, difference);
          high = Math.max(high, difference);
        }),
      );
      const band = differenceBand(one, other);
      const step = Math.max(one.worth, other.worth) / steps;
      // The tried pairs lie within, and reach as near to the ends as their steps are wide.
      expect(band.low).toBeLessThanOrEqual(low + 1e-12);
      expect(band.high).toBeGreaterThanOrEqual(high - 1e-12);
      expect(low - band.low).toBeLessThan(2 * step);
      expect(band.high - high).toBeLessThan(2 * step);
    }
  });

  it('holds the difference that was seen, is narrower the more was seen, tells which is better, and is turned round with its branches', () => {
    const some = fc.tuple(fc.integer({ min: 0, max: 80 }), fc.integer({ min: 1, max: 4000 }));
    fc.assert(
      fc.property(some, some, fc.constantFrom(1, 900), ([hits, misses], [otherHits, otherMisses], worth) => {
        const [one, other] = [branch(hits, misses, worth), branch(otherHits, otherMisses, worth)];
        const { low, high } = differenceBand(one, other);
        const seen = (hits / (hits + misses) - otherHits / (otherHits + otherMisses)) * worth;
        expect(low).toBeLessThanOrEqual(seen);
        expect(high).toBeGreaterThanOrEqual(seen);
        const back = differenceBand(other, one);
        expect([back.low, back.high].map((end) => end + 0)).toEqual([-high, -low].map((end) => end + 0));
        const tenfold = differenceBand(
          branch(hits * 10, misses * 10, worth),
          branch(otherHits * 10, otherMisses * 10, worth),
        );
        expect(tenfold.high - tenfold.low).toBeLessThan(high - low);
        if (Math.min(Math.abs(low), Math.abs(high)) < 1e-9 * worth) return;
        expect(whichIsBetter(one, other)).toBe(low > 0 ? 'one' : high < 0 ? 'other' : undefined);
      }),
    );
  });

  it('is all there can be where nothing was seen', () => {
    expect(differenceBand(branch(0, 0), branch(0, 0))).toEqual({ low: -1, high: 1 });
    expect(() => differenceBand(branch(0, -1), branch(0, 0))).toThrow('0 hits and -1 misses');
  });

  it('calls one of two that are alike better in at most five of a hundred runs of ninety days, looked at daily', () => {
    const [rate, runs, days, visits] = [0.02, 400, 90, 40];
    const random = seeded(3);
    let [wrong, seenBetter] = [0, 0];
    for (let run = 0; run < runs; run++) {
      const counts = [0, 0, 0];
      let [isWrong, isBetter] = [false, false];
      for (let day = 1; day <= days; day++) {
        for (let i = 0; i < visits; i++)
          for (const [n, times] of [1, 1, 2].entries())
            if (random() < rate * times) counts[n] = (counts[n] ?? 0) + 1;
        const tries = day * visits;
        const [one, alike, twice] = counts.map((hits) => branch(hits, tries - hits));
        if (!one || !alike || !twice) throw new Error('three branches');
        isWrong ||= whichIsBetter(one, alike) !== undefined;
        isBetter ||= whichIsBetter(twice, one) === 'one';
      }
      if (isWrong) wrong += 1;
      if (isBetter) seenBetter += 1;
    }
    expect(wrong / runs).toBeLessThanOrEqual(0.05 + 3 * Math.sqrt((0.05 * 0.95) / runs));
    // And one that is twice as good is found out.
    expect(seenBetter / runs).toBeGreaterThan(0.9);
  });

  it('calls nothing of six that are alike better in more than five of a hundred runs, where it knows of the fifteen pairs', () => {
    const [rate, runs, weeks, visits, pairs] = [0.02, 400, 13, 280, 15];
    const random = seeded(5);
    let [wrong, wrongAlone] = [0, 0];
    for (let run = 0; run < runs; run++) {
      const counts = [0, 0, 0, 0, 0, 0];
      let [isWrong, isWrongAlone] = [false, false];
      for (let week = 1; week <= weeks; week++) {
        for (const n of counts.keys())
          for (let i = 0; i < visits; i++) if (random() < rate) counts[n] = (counts[n] ?? 0) + 1;
        // The best against the worst: where that is not told, no pair is.
        const [least, most] = [Math.min(...counts), Math.max(...counts)].map((hits) =>
          branch(hits, week * visits - hits),
        );
        if (!least || !most) throw new Error('six branches');
        isWrong ||= whichIsBetter(most, least, pairs) !== undefined;
        isWrongAlone ||= whichIsBetter(most, least) !== undefined;
      }
      if (isWrong) wrong += 1;
      if (isWrongAlone) wrongAlone += 1;
    }
    expect(wrong / runs).toBeLessThanOrEqual(0.05 + 3 * Math.sqrt((0.05 * 0.95) / runs));
    expect(wrongAlone).toBeGreaterThan(wrong);
  });

  it('and so where most visitors are sent to the one that seemed better every evening, as far as nine of ten', () => {
    const [rate, runs, days, visits] = [0.02, 400, 90, 80];
    const random = seeded(23);
    let wrong = 0;
    for (let run = 0; run < runs; run++) {
      const [one, other] = [
        { visitors: 0, hits: 0 },
        { visitors: 0, hits: 0 },
      ];
      let isWrong = false;
      for (let day = 0; day < days && !isWrong; day++) {
        const share =
          (one.hits + 1) / (one.visitors + 50) > (other.hits + 1) / (other.visitors + 50) ? 0.9 : 0.1;
        for (let i = 0; i < visits; i++) {
          const of = random() < share ? one : other;
          of.visitors += 1;
          if (random() < rate) of.hits += 1;
        }
        const asBranch = (of: typeof one) => branch(of.hits, of.visitors - of.hits);
        isWrong = whichIsBetter(asBranch(one), asBranch(other)) !== undefined;
      }
      if (isWrong) wrong += 1;
    }
    expect(wrong / runs).toBeLessThanOrEqual(0.05 + 3 * Math.sqrt((0.05 * 0.95) / runs));
  });
});
