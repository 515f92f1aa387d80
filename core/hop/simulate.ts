import { addTo } from '#core/catalogue';
import type { HopRequest } from './request.ts';
import { decide } from './decide.ts';
import type { HopLink } from './prepare.ts';

/** What a simulated visitor is made of; everything but the key by which they are known. */
export type VisitorSample = Omit<HopRequest, 'visitor' | 'query'>;

/**
 * Sends simulated visitors through a link's decision and gives the share of each branch, from 0 to 1. Each sample is sent
 * equally often, give or take one: only weights leave anything to chance, and a branch that a third of the samples go to
 * has a third each time it is computed.
 *
 * @param samples visitors to send; each simulated one is one of them under a key of its own
 * @param random gives numbers from 0 up to 1
 */
export const simulateShares = (
  link: HopLink,
  samples: readonly VisitorSample[],
  count: number,
  random: () => number,
): Map<string, number> => {
  const counts = new Map<string, number>();
  for (let n = 0; n < count; n++) {
    const sample = samples[n % samples.length];
    if (!sample) break;
    const visitor = Math.floor(random() * 2 ** 48).toString(16);
    const { branch } = decide(link, { ...sample, query: '', visitor });
    addTo(counts, branch);
  }
  return new Map([...counts].map(([branch, n]) => [branch, n / count]));
};
