import { describe, expect, it } from 'vitest';
import { expectReckoning } from '../../core/queries/testing/expectReckoning.ts';
import { makeSeason, numbered } from './index.ts';
import { importAll } from './testing/importAll.ts';

const end = Date.UTC(2026, 10, 23);

describe('a season', () => {
  it.each([881, 1, 2, 3])('comes to what a slow reckoning over its lines comes to, seed %i', (seed) => {
    const season = makeSeason({ seed, end, requests: 6000 });
    const reports = importAll(season, end);
    const { made } = season;
    const journal = numbered(season.journal);
    const { zone } = made.domain;
    const months = expectReckoning(
      { ...made, journal, reports, zone },
      { ...made, domains: [made.domain], reports },
    );
    expect(months).toBeGreaterThanOrEqual(12);
  });
});
