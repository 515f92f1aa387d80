import fc from 'fast-check';
import { describe, it } from 'vitest';
import { expectReckoning } from './testing/expectReckoning.ts';
import { domain, links, networks, programs, worlds } from './testing/worlds.ts';

describe('every figure of every month', () => {
  it('is what nested loops over the raw lines come to, in a thousand worlds with refunds, items and several zones', () =>
    fc.assert(
      fc.property(worlds, ({ journal, reports }) => {
        const records = { domains: [domain], networks, programs, links, reports };
        expectReckoning({ journal, networks, programs, links, reports, zone: domain.zone }, records);
      }),
      { numRuns: 1000 },
    ));
});
