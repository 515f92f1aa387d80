import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset } from './index.ts';
import { expectReckoning } from './testing/expectReckoning.ts';
import { domain, links, networks, programs, sources, worlds } from './testing/worlds.ts';

describe('every figure of every month', () => {
  it('takes back a renewal without a transaction after more than a day, and a sale only within one', () => {
    const click = '01M3JMZC000000000000000000';
    const at = Date.UTC(2026, 8, 28);
    const records = { domains: [domain], networks, programs, links };
    const conversions = (event: string, later: number) => {
      const said = (seq: number, when: number, status: string) =>
        postbackRecord({
          ...{ seq, at: when, network: 'net_c' },
          query: `click=${click}&event=${event}&status=${status}&amount=7`,
        });
      const journal = [
        hopRecord({ seq: 1, at, click, link: 'lnk_c' }),
        said(2, at, 'pending'),
        said(3, at + later, 'reversed'),
      ];
      expectReckoning({ ...records, journal, reports: [], zone: domain.zone }, records);
      const data = new Dataset();
      data.setRecords(records);
      data.add(journal);
      return answersFrom(data).balance({ network: 'net_c', month: '2026-09' }).conversions.ours;
    };
    const day = 86_400_000;
    expect([conversions('renewal', day - 1), conversions('sale', day - 1)]).toEqual([0, 0]);
    expect([conversions('renewal', day + 4000), conversions('sale', day + 4000)]).toEqual([0, 1]);
  });

  it('is what nested loops over the raw lines come to, in a thousand worlds with refunds, items and several zones', () =>
    fc.assert(
      fc.property(worlds, ({ journal, reports }) => {
        const records = { domains: [domain], networks, programs, links, sources, reports };
        expectReckoning({ ...records, journal, zone: domain.zone }, records);
      }),
      { numRuns: 1000 },
    ));
});
