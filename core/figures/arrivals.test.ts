import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Waited } from './arrivals.ts';
import { arrivals, completeness } from './arrivals.ts';

const waits = (came: readonly number[], not: readonly number[]): Waited[] => [
  ...came.map((ms) => ({ ms, came: true })),
  ...not.map((ms) => ({ ms, came: false })),
];
const survival = (list: readonly Waited[]) => arrivals(list).map(({ ms, share }) => [ms, 1 - share] as const);
const waited: fc.Arbitrary<Waited[]> = fc.array(
  fc.record({ ms: fc.integer({ min: 0, max: 12 }), came: fc.boolean() }),
  { minLength: 1, maxLength: 30 },
);

describe('what has come by each wait', () => {
  it('is the example of Kaplan and Meier 1958: deaths at 0.8, 3.1, 5.4, 9.2, losses at 1.0, 2.7, 7.0, 12.1 (from memory)', () => {
    const found = survival(waits([0.8, 3.1, 5.4, 9.2], [1, 2.7, 7, 12.1]));
    expect(found.map(([ms, left]) => [ms, left.toFixed(4)])).toEqual([
      [0.8, '0.8750'],
      [3.1, '0.7000'],
      [5.4, '0.5250'],
      [9.2, '0.2625'],
    ]);
  });

  it('is that of the patients with 6-mercaptopurine, Freireich and others 1963, as textbooks print it (from memory)', () => {
    const found = survival(
      waits([6, 6, 6, 7, 10, 13, 16, 22, 23], [6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35]),
    );
    expect(found.map(([ms, left]) => [ms, left.toFixed(3)])).toEqual([
      [6, '0.857'],
      [7, '0.807'],
      [10, '0.753'],
      [13, '0.690'],
      [16, '0.627'],
      [22, '0.538'],
      [23, '0.448'],
    ]);
  });

  it('is the plain share where all were waited for as long as any', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 12 }), { maxLength: 20 }), fc.nat(20), (came, never) => {
        const all = came.length + never;
        for (const { ms, share } of arrivals(waits(came, Array<number>(never).fill(13))))
          expect(share).toBeCloseTo(came.filter((each) => each <= ms).length / all, 12);
      }),
    ));

  it('is by redistribution to the right the same (Efron 1967)', () =>
    fc.assert(
      fc.property(waited, (list) => {
        // Everyone has a share; whoever is lost gives theirs to those still waited for, in equal parts.
        const sorted = list.toSorted((a, b) => a.ms - b.ms || Number(b.came) - Number(a.came));
        const mass = sorted.map(() => 1 / sorted.length);
        for (const [i, { came }] of sorted.entries()) {
          const after = sorted.length - i - 1;
          if (came || after === 0) continue;
          for (let k = i + 1; k < sorted.length; k++) mass[k] = (mass[k] ?? 0) + (mass[i] ?? 0) / after;
          mass[i] = 0;
        }
        for (const { ms, share } of arrivals(list)) {
          const came = sorted.reduce(
            (sum, one, i) => sum + (one.came && one.ms <= ms ? (mass[i] ?? 0) : 0),
            0,
          );
          expect(share).toBeCloseTo(came, 9);
        }
      }),
    ));
});

describe('how complete it is', () => {
  it('rises from nothing to all, and tells nothing where nothing came', () => {
    expect(completeness(waits([], [1, 2]))).toBeUndefined();
    fc.assert(
      fc.property(waited, (list) => {
        const by = completeness(list);
        if (!by) return;
        const shares = Array.from({ length: 15 }, (_, i) => by(i - 1));
        expect(shares[0]).toBe(0);
        expect(shares.at(-1)).toBeCloseTo(1, 12);
        expect(shares).toEqual(shares.toSorted((a, b) => a - b));
      }),
    );
  });

  it('allows for clicks that are young: with as many new clicks each day it stays what it is for old ones', () => {
    // A hundred clicks a day for thirty days, ten of each lead to a conversion: four at once, three after one day, three after two.
    const delays = [0, 0, 0, 0, 1, 1, 1, 2, 2, 2];
    const list = Array.from({ length: 30 }, (_, day) => 29 - day).flatMap((age) => [
      ...delays.map((ms) => (ms <= age ? { ms, came: true } : { ms: age, came: false })),
      ...Array.from({ length: 90 }, () => ({ ms: age, came: false })),
    ]);
    const by = completeness(list);
    for (const [ms, share] of [
      [0, 0.4],
      [1, 0.7],
      [2, 1],
    ] as const)
      expect(by?.(ms)).toBeCloseTo(share, 2);
  });
});
