import { describe, expect, it } from 'vitest';
import { clock, clockOrMoment, moment, shortCount } from './formats.ts';

describe('a time on the tape', () => {
  const now = new Date(2026, 10, 28, 0, 20).getTime();
  it('is the time of day on the day itself', () => {
    const at = new Date(2026, 10, 28, 0, 5).getTime();
    expect(clockOrMoment(at, now)).toBe(clock(at));
  });
  it('names its day where that is not today, a few minutes ago or a year', () => {
    for (const at of [new Date(2026, 10, 27, 23, 59), new Date(2025, 10, 28, 0, 10)]) {
      expect(clockOrMoment(at.getTime(), now)).toBe(moment(at.getTime()));
      expect(clockOrMoment(at.getTime(), now)).toMatch(/\b2[78]\b/);
    }
  });
});

it('a number in the rail takes no more room than three digits and a sign', () => {
  expect([0, 7, 684, 999, 1000, 10_354].map(shortCount)).toEqual(['0', '7', '684', '999', '999+', '999+']);
});
