import UserAgent from 'user-agents';
import { describe, expect, it } from 'vitest';
import type { JudgedRequests } from './judge.ts';
import { atMost, halfOf, judge, mostAgents, wholeBurst } from './judge.ts';

/** Numbers between 0 and 1 by a seed (mulberry32), so that a failing run can be repeated. */
const seeded = (seed: number) => () => {
  seed = (seed + 0x6d2b79f5) | 0;
  let t = Math.imul(seed ^ (seed >>> 15), 1 | seed);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
};
const day = 86_400_000;
/** User agents as people have them, in the shares in which the `user-agents` data (BSD-2) has them. */
const agents = Array.from({ length: 2000 }, () => new UserAgent().toString());
const numbers = new Map([...new Set(agents)].map((text, i) => [text, i]));

interface Kind {
  readonly count: number;
  /** Days they are spread over, or hours after a mailing. */
  readonly time: (random: () => number) => number;
  readonly agent: (random: () => number) => number;
  readonly silent: number;
  /** Share with an address of a hosting network. */
  readonly hosted: number;
  readonly again: number;
  readonly buying: number;
}
const person = (random: () => number): number =>
  numbers.get(agents[Math.floor(random() * agents.length)] ?? '') ?? 0;
const made = (
  { count, time, agent, silent, hosted, again, buying }: Kind,
  random: () => number,
): JudgedRequests => {
  const found = { agents: new Map<number, number>(), times: [] as number[], withoutLanguage: 0 };
  let [cameAgain, conversions, hosting] = [0, 0, 0];
  for (let i = 0; i < count; i++) {
    found.times.push(time(random));
    const one = agent(random);
    found.agents.set(one, (found.agents.get(one) ?? 0) + 1);
    if (random() < silent) found.withoutLanguage += 1;
    if (random() < hosted) hosting += 1;
    if (random() < again) cameAgain += 1;
    if (random() < buying) conversions += 1;
  }
  found.times.sort((a, b) => a - b);
  const of = { visitors: count, visits: count, lookedUp: count, toPages: 0, scrolled: 0 };
  return { ...found, ...of, hosting, cameAgain, conversions };
};
const people = { agent: person, silent: 0.01, hosted: 0.04, again: 0.08, buying: 0.02 };
const spread = (random: () => number) => random() * 30 * day;
/** Readers of a mailing: most open it within hours (an exponential with a mean of five). */
const mailing = (random: () => number) => 10 * day - Math.log(1 - random()) * 5 * 3_600_000;
const everywhere = { ...people, count: 8000, time: spread };

describe('judging a source', () => {
  it('takes what comes from hosting networks and from nobody who buys or comes again for machines, if that was looked up', () => {
    const random = seeded(5);
    const others = made(everywhere, random);
    const own = made({ ...people, count: 900, time: spread, hosted: 0.8, again: 0, buying: 0 }, random);
    const { verdict, signs } = judge(own, others);
    expect([verdict, signs.find(({ name }) => name === 'hosting')?.isOdd]).toEqual(['machines', true]);
    // Of too few of them it is known: nothing is said of it, and nothing concluded.
    const unknown = judge({ ...own, lookedUp: 400, hosting: 400 }, others);
    expect([unknown.verdict, unknown.signs.some(({ name }) => name === 'hosting')]).toEqual([
      'something odd',
      false,
    ]);
    // People who buy may all sit behind such addresses, as those of a firm may: that alone says nothing.
    const firm = made({ ...people, count: 900, time: spread, hosted: 0.8 }, random);
    expect(judge(firm, others).verdict).toBe('something odd');
  });

  it('misses whoever scrolls on a page that tells of it, where enough were sent there', () => {
    const random = seeded(7);
    const others = { ...made(everywhere, random), toPages: 600, scrolled: 390 };
    const own = made({ ...people, count: 900, time: spread }, random);
    const scrolledOf = (toPages: number, scrolled: number) => {
      const { verdict, signs } = judge({ ...own, toPages, scrolled }, others);
      return [verdict, signs.find(({ name }) => name === 'scrolled')?.isOdd];
    };
    expect(scrolledOf(300, 190)).toEqual(['nothing odd', false]);
    expect(scrolledOf(300, 4)).toEqual(['something odd', true]);
    expect(scrolledOf(20, 0)).toEqual(['nothing odd', undefined]);
    // Where no other source leads to such a page, nobody can say how many scroll.
    const alone = judge({ ...own, toPages: 300, scrolled: 0 }, { ...others, toPages: 0, scrolled: 0 });
    expect(alone.signs.find(({ name }) => name === 'scrolled')).toMatchObject({ own: 0, isOdd: false });
  });

  it('takes people for machines in fewer than one of two hundred, whether they come all month or by a mailing', () => {
    const random = seeded(1);
    const others = made(everywhere, random);
    let wrong = 0;
    for (let n = 0; n < 400; n++) {
      const count = 50 + Math.floor(random() * 2000);
      const own = made({ ...people, count, time: n % 2 === 0 ? spread : mailing }, random);
      if (judge(own, others).verdict === 'machines') wrong += 1;
    }
    expect(wrong).toBeLessThan(2);
  });

  it('finds machines that come at once, or evenly with few user agents, among people or without', () => {
    const random = seeded(2);
    const others = made(everywhere, random);
    const two = (next: () => number) => (next() < 0.5 ? 1 : 2);
    const bought = { count: 900, agent: two, silent: 1, hosted: 0.04, again: 0, buying: 0 };
    const atOnce = made({ ...bought, time: (next) => 5 * day + next() * 2_400_000 }, random);
    expect(judge(atOnce, others).verdict).toBe('machines');
    expect(judge(made({ ...bought, time: spread }, random), others).verdict).toBe('machines');
    // Two in three of them machines, with languages that look like people's.
    const mixed = made(
      {
        ...people,
        count: 1290,
        time: (next) => (next() < 0.64 ? 5 * day + next() * 2_400_000 : spread(next)),
        agent: (next) => (next() < 0.81 ? two(next) : person(next)),
      },
      random,
    );
    const { verdict, signs } = judge(mixed, others);
    expect([verdict, signs.filter(({ isOdd }) => isOdd).map(({ name }) => name)]).toEqual([
      'machines',
      ['burst', 'agents'],
    ]);
  });

  it('needs more than one sign, enough requests, and something to compare with', () => {
    const random = seeded(3);
    const others = made(everywhere, random);
    // An app opens links with one user agent; its people come again and buy.
    const app = made({ ...people, count: 600, time: spread, agent: () => 7 }, random);
    expect(judge(app, others).verdict).toBe('something odd');
    expect(judge(made({ ...everywhere, count: 49 }, random), others)).toEqual({
      verdict: 'too few',
      signs: [],
    });
    const nobody = made({ ...everywhere, count: 0 }, random);
    const alone = judge(made({ ...everywhere, count: 500, again: 0, buying: 0 }, random), nobody);
    expect(alone.verdict).toBe('nothing odd');
    expect(alone.signs.every(({ others: compared }) => compared === undefined)).toBe(true);
  });

  it('says where a burst began and ended, with what came before and after at a lower rate', () => {
    const begin = 20 * day;
    const burst = Array.from({ length: 800 }, (_, i) => begin + i * 3000);
    const before = Array.from({ length: 300 }, (_, i) => (i * 18 * day) / 300);
    const times = [...before, ...burst].toSorted((a, b) => a - b);
    const half = halfOf(times);
    expect(half?.requests).toBe(550);
    expect(half && wholeBurst(times, half)).toEqual({
      from: begin,
      until: begin + 799 * 3000,
      requests: 800,
    });
    expect(halfOf([])).toBeUndefined();
    expect(halfOf([5])).toEqual({ from: 5, until: 5, requests: 1 });
  });

  it('names the fewest user agents that make four fifths', () => {
    expect(
      mostAgents(
        new Map([
          [1, 10],
          [2, 60],
          [3, 25],
          [4, 5],
        ]),
      ),
    ).toEqual([2, 3]);
    expect(mostAgents(new Map())).toEqual([]);
  });

  it('knows the lower tail of the Poisson distribution', () => {
    // Values of R's ppois, from memory: ppois(0, 5) and ppois(2, 3).
    expect(atMost(0, 5)).toBeCloseTo(0.006737947, 9);
    expect(atMost(2, 3)).toBeCloseTo(0.4231901, 7);
    expect(atMost(40, 3)).toBeCloseTo(1, 12);
  });
});
