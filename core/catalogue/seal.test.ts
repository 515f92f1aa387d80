import { describe, expect, it } from 'vitest';
import type { BrowserSeal } from './seal.ts';
import { keepSeal, sealToCheck } from './seal.ts';

const sealed = (seq: number, at: string, generation = 'g1'): BrowserSeal => ({
  hash: String(seq).padStart(64, '0'),
  seq,
  at: Date.parse(at),
  generation,
});
const begun = (id: string, seq: number) => ({ id, version: 0, seq });

describe('the seals a browser keeps', () => {
  it('are the newest of each UTC day, of the last 400 days', () => {
    const morning = sealed(10, '2026-11-24T08:00:00Z');
    const evening = sealed(20, '2026-11-24T23:59:59Z');
    const night = sealed(21, '2026-11-25T00:00:00Z');
    expect([morning, evening, night].reduce(keepSeal, [] as readonly BrowserSeal[])).toEqual([
      evening,
      night,
    ]);
    const kept = [evening];
    expect(keepSeal(kept, { ...evening, at: evening.at + 1 })).toBe(kept);
    const many = Array.from({ length: 500 }, (_, day) =>
      sealed(day, new Date(Date.UTC(2026, 0, 1 + day)).toISOString()),
    ).reduce(keepSeal, [] as readonly BrowserSeal[]);
    expect([many.length, many[0]?.seq, many.at(-1)?.seq]).toEqual([400, 100, 499]);
  });

  it('are asked for where the server still has to have them', () => {
    const kept = [
      sealed(10, '2026-11-22T08:00:00Z'),
      sealed(20, '2026-11-23T08:00:00Z'),
      sealed(30, '2026-11-24T08:00:00Z'),
    ];
    const check = (...generations: ReturnType<typeof begun>[]) => sealToCheck(kept, generations)?.seq;
    expect(check(begun('g1', 0))).toBe(30);
    // A restart begins where the one before ended.
    expect(check(begun('g1', 0), begun('g2', 31))).toBe(30);
    // A folder of when there were 25 records was put back, and then others were written.
    expect(check(begun('g1', 0), begun('g2', 25))).toBe(20);
    expect(check(begun('g1', 0), begun('g2', 25), begun('g3', 90))).toBe(20);
    expect(check(begun('g1', 0), begun('g2', 5))).toBeUndefined();
    // Of a time that the server does not know nothing follows.
    expect(check(begun('g7', 0))).toBeUndefined();
  });
});
