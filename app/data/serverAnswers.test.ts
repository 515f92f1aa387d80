import { stringify } from 'devalue';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { proposedMost } from './mostRecords.ts';
import { ServerAnswers } from './serverAnswers.ts';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

describe('who answers', () => {
  it('is the server while much is missing, until nothing is', () => {
    const server = new ServerAnswers();
    server.update(0, 15_000, Infinity);
    expect(server.isAsked).toBe(false);
    server.update(0, 1_000_000, Infinity);
    expect([server.isAsked, server.isTooLarge]).toEqual([true, false]);
    // Nearly whole is not whole.
    server.update(999_999, 1_000_000, Infinity);
    expect(server.isAsked).toBe(true);
    server.update(1_000_000, 1_000_000, Infinity);
    expect(server.isAsked).toBe(false);
    server.update(1_000_000, 1_000_400, Infinity);
    expect(server.isAsked).toBe(false);
  });

  it('is the server for good where the journal is larger than what is to be kept', () => {
    const server = new ServerAnswers();
    server.update(90, 101, 100);
    expect([server.isAsked, server.isTooLarge]).toEqual([true, true]);
    // What is here already would soon be less than there is.
    server.update(101, 101, 100);
    expect(server.isAsked).toBe(true);
    server.update(90, 100, 100);
    expect([server.isAsked, server.isTooLarge]).toEqual([false, false]);
  });

  it('is the browser for a few seconds after the server did not answer', async () => {
    const server = new ServerAnswers();
    server.update(0, 1_000_000, Infinity);
    const answer = new Map([['a', new Uint8Array([1, 2])]]);
    // That it is asked does not tell yet that it answers.
    expect([server.isAsked, server.isAnswering]).toEqual([true, false]);
    const heard = server.heard();
    expect(await server.answer(() => Promise.resolve(stringify(answer)), 'months', [])).toEqual(answer);
    await heard;
    expect(server.isAnswering).toBe(true);
    await expect(server.answer(() => Promise.reject(new Error('away')), 'months', [])).rejects.toThrow(
      'away',
    );
    expect(server.isAsked).toBe(false);
    vi.advanceTimersByTime(5000);
    expect([server.isAsked, server.isAnswering]).toEqual([true, false]);
    // What is no answer of ours is none.
    await expect(server.answer(() => Promise.resolve('<html>'), 'months', [])).rejects.toThrow();
    expect(server.isAsked).toBe(false);
  });
});

describe('how much a browser is to keep', () => {
  it('is what half of its room holds, at most what memory does, and never nothing', () => {
    expect(proposedMost(600_000_000)).toBe(1_000_000);
    expect(proposedMost(10 ** 12)).toBe(5_000_000);
    expect(proposedMost(undefined)).toBe(5_000_000);
    expect(proposedMost(1000)).toBe(100_000);
  });
});
