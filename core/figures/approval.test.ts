import { describe, expect, it } from 'vitest';
import type { Status } from '#core/catalogue';
import type { Decided } from './approval.ts';
import { approvalOf } from './approval.ts';
import { seeded } from './testing/seeded.ts';

const day = 86_400_000;
const one = (status: Status, days: number, ageDays = days): Decided => ({
  status,
  ms: days * day,
  ageMs: ageDays * day,
});

describe('how much of what is pending becomes approved', () => {
  it('is told by those that are old enough, by their number', () => {
    const known = approvalOf([
      ...Array.from({ length: 8 }, () => one('approved', 30, 60)),
      one('paid', 30, 60),
      one('reversed', 30, 60),
      // Reversed early, and too young for the others of its age to be approved.
      one('reversed', 5, 6),
      one('pending', 12),
    ]);
    expect(known).toMatchObject({ share: 0.9, of: 10 });
    // Wilson's interval of 9 of 10, by hand: (0.9 + 0.19207 ± 0.27723 …) ÷ 1.38415.
    expect(known?.low).toBeCloseTo(0.5958, 4);
    expect(known?.high).toBeCloseTo(0.9821, 4);
  });

  it('counts one that is old and still pending as not approved', () =>
    expect(
      approvalOf([
        one('approved', 30, 90),
        one('approved', 30, 90),
        one('approved', 30, 90),
        one('pending', 90),
      ]),
    ).toMatchObject({ share: 0.75, of: 4 }));

  it('is not known where nothing was decided', () =>
    expect([approvalOf([]), approvalOf([one('pending', 3)])]).toEqual([undefined, undefined]));

  it('is right where reversals come sooner, of which those that are decided give too little', () => {
    const random = seeded(5);
    const [runs, truth] = [400, 0.8];
    let [missed, sum, byDecided] = [0, 0, 0];
    for (let run = 0; run < runs; run++) {
      const list = Array.from({ length: 300 }, (): Decided => {
        const age = random() * 90;
        const approved = random() < truth;
        const after = approved ? 30 + random() * 20 : 3 + random() * 10;
        return after > age ? one('pending', age) : one(approved ? 'approved' : 'reversed', after, age);
      });
      const found = approvalOf(list);
      if (!found) throw new Error('some are old enough');
      if (found.low > truth || found.high < truth) missed += 1;
      sum += found.share / runs;
      const decided = list.filter(({ status }) => status !== 'pending');
      byDecided += decided.filter(({ status }) => status === 'approved').length / decided.length / runs;
    }
    expect(Math.abs(sum - truth)).toBeLessThan(0.03);
    expect(missed / runs).toBeLessThanOrEqual(0.05 + 3 * Math.sqrt((0.05 * 0.95) / runs));
    expect(byDecided).toBeLessThan(truth - 0.08);
  });
});
