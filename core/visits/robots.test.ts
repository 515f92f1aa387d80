import crawlers from 'crawler-user-agents';
import { describe, expect, it } from 'vitest';
import UserAgent from 'user-agents';
import { makeIsRobot } from './index.ts';

const isRobot = makeIsRobot();

describe('telling robots from people by what they call themselves', () => {
  // The list of the npm package crawler-user-agents: patterns of robots with user agents seen of each.
  it('knows at least 99.5 % of the robots that are listed', () => {
    const seen = crawlers.flatMap(({ instances }) => instances);
    expect(seen.length).toBeGreaterThan(1000);
    const missed = seen.filter((userAgent) => !isRobot(userAgent));
    expect(missed.length / seen.length).toBeLessThanOrEqual(0.005);
  });

  // The npm package user-agents draws from user agents that real browsers sent, as often as they did.
  it('takes none of 20,000 real browsers for one', () => {
    const draw = new UserAgent();
    const taken = new Set<string>();
    for (let i = 0; i < 20_000; i++) {
      const text = draw.random().toString();
      if (isRobot(text)) taken.add(text);
    }
    expect([...taken]).toEqual([]);
  });

  it('knows those the person added', () =>
    expect(makeIsRobot(['Gardencam'])('Mozilla/5.0 gardencam/2')).toBe(true));
});
