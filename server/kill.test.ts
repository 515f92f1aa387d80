import { describe, expect, it } from 'vitest';
import { killRounds } from './testing/kills.ts';

const rounds = 20;

describe('kill -9 during load', () => {
  it(`loses nothing that was acknowledged or shown, ${rounds} times`, { timeout: 180_000 }, async () => {
    const { postbacks } = await killRounds(rounds);
    expect(postbacks).toBeGreaterThan(rounds * 5);
  });
});
