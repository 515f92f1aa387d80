import { expose } from 'comlink';
import type { Domain, Link } from '#core/catalogue';
import { hopOf } from '#core/catalogue';
import type { VisitorSample } from '#core/hop';
import { prepareLink, simulateShares } from '#core/hop';

const visitors = 100_000;

const api = {
  /** The share of each branch among 100,000 simulated visitors; nothing when the link cannot be read. */
  shares: (link: Link, domain: Domain, samples: readonly VisitorSample[]): ReadonlyMap<string, number> => {
    const ready = prepareLink(link, hopOf(link, domain), domain);
    return ready.ok ? simulateShares(ready.value, samples, visitors, Math.random) : new Map();
  },
};

export type SharesWorker = typeof api;

expose(api);
