import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { HopRecord, JournalRecord } from '#core/visits';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset } from './index.ts';

const now = Date.parse('2026-11-23T12:00:00Z');
const minute = 60_000;
const clickOf = (n: number): string => `01KAAAAAAAAAAAAAAAAAAAAA${String(n).padStart(2, '0')}`;
/** A visit of a person of their own. */
const hop = (seq: number, more: Partial<HopRecord>): HopRecord =>
  hopRecord({ seq, click: clickOf(seq), visitor: String(seq).padStart(16, '0'), ...more });
const records = {
  links: ['lnk_landing', 'lnk_offer', 'lnk_other'].map((id) => ({
    id,
    domain: 'dom_a',
    slug: id,
    network: 'net_h',
    program: undefined,
    destination: 'https://shop.example/',
  })),
};
const askedOf = (list: readonly JournalRecord[]) => {
  const data = new Dataset();
  data.setRecords(records);
  data.add(list);
  return { data, ask: answersFrom(data) };
};
const sale = (seq: number, at: number, click: string, txn = `T${seq}`, more = ''): JournalRecord =>
  postbackRecord({ seq, at, query: `click=${click}&txn=${txn}&amount=20&currency=EUR${more}` });

/** Four visitors of a landing page: one bought, one only went on, by two links, one went on and sent it back, one did nothing. */
const journal = [
  hop(1, { at: now - 60 * minute, link: 'lnk_landing', source: 'bought-a' }),
  hop(2, { at: now - 59 * minute, link: 'lnk_landing', source: 'bought-a' }),
  hop(3, { at: now - 58 * minute, link: 'lnk_landing', source: 'bought-a' }),
  hop(4, { at: now - 57 * minute, link: 'lnk_landing', source: 'bought-b' }),
  hop(5, { at: now - 55 * minute, link: 'lnk_offer', source: 'bought-a', first: clickOf(1) }),
  hop(6, { at: now - 50 * minute, link: 'lnk_offer', source: 'bought-a', first: clickOf(2) }),
  hop(7, { at: now - 49 * minute, link: 'lnk_other', source: 'bought-a', first: clickOf(2) }),
  hop(8, { at: now - 44 * minute, link: 'lnk_offer', source: 'bought-b', first: clickOf(4) }),
  // A robot that follows every link of the page, and somebody who comes from nowhere.
  hop(9, { at: now - 40 * minute, link: 'lnk_offer', first: clickOf(3), ua: 'curl/8.5.0' }),
  hop(10, { at: now - 39 * minute, link: 'lnk_offer', first: clickOf(77) }),
  sale(11, now - 25 * minute, clickOf(5)),
  sale(12, now - 24 * minute, clickOf(8)),
  // Taken back.
  sale(13, now - 4 * minute, clickOf(8), 'T12', '&status=reversed'),
];

describe('a page of one’s own between two clicks', () => {
  const { data, ask } = askedOf(journal);

  it('tells who went on, by which link, after how long, and who bought', () =>
    expect(ask.onward('lnk_landing', now - 86_400_000)).toEqual({
      visits: 4,
      wentOn: 3,
      // 5, 9 and 13 minutes.
      seconds: 9 * 60,
      converted: 1,
      convertedSeconds: 30 * 60,
      links: [
        { link: 'lnk_offer', visits: 3 },
        { link: 'lnk_other', visits: 1 },
      ],
    }));
  it('tells nothing of links from whose page nobody went on, or of other times', () => {
    expect(ask.onward('lnk_offer', now - 86_400_000)).toBeUndefined();
    expect(ask.onward('lnk_landing', now - 56 * minute)).toBeUndefined();
    expect(ask.onward('lnk_gone', 0)).toBeUndefined();
  });

  it('makes one journey of both, whichever is asked for, with what came of either', () => {
    for (const asked of [1, 5]) {
      const journey = ask.journey(clickOf(asked));
      expect(journey?.visit.hop.seq).toBe(asked);
      expect(journey?.legs.map(({ visit }) => visit.hop.seq)).toEqual([1, 5]);
      expect(journey?.conversions.map(({ conversion }) => conversion.txn)).toEqual(['T11']);
      expect(journey?.postbacks.map(({ record }) => record.seq)).toEqual([11]);
    }
    expect(ask.journey(clickOf(2))?.legs.map(({ visit }) => visit.hop.seq)).toEqual([2, 6, 7]);
    expect(ask.journey(clickOf(10))?.legs.map(({ visit }) => visit.hop.seq)).toEqual([10]);
  });

  it('makes one visit of both for what a visit earns', () => {
    const days = { from: '2026-11-23', to: '2026-11-23', where: [] };
    const bySource = ask.traffic({ ...days, by: 'source' }).lines;
    expect(bySource.map(({ value, requests, onward }) => [value, requests.counted, onward])).toEqual([
      ['bought-a', 6, 3],
      ['bought-b', 2, 1],
      ['', 1, 0],
    ]);
    // A link is not the link that led to its page.
    for (const { onward } of ask.traffic({ ...days, by: 'link' }).lines) expect(onward).toBe(0);
    const offer = [{ of: 'link' as const, values: ['lnk_offer'] }];
    expect(ask.traffic({ ...days, where: offer, by: 'source' }).whole.onward).toBe(0);
  });

  it('stays whole where old days become counts', () => {
    const { data: old, ask: of } = askedOf(journal);
    old.rollUp(now);
    expect(of.journey(clickOf(5))?.legs.map(({ visit }) => visit.hop.seq)).toEqual([1, 5]);
    expect(data.journal.columns.rows).toBe(10);
  });

  it('ends whatever visitors name as what led there, and finds each click from every other of its journey', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ back: fc.integer({ min: -3, max: 5 }), later: fc.nat(3) }), {
          minLength: 1,
          maxLength: 12,
        }),
        (list) => {
          let at = now;
          const hops = list.map(({ back, later }, i) =>
            hop(i + 1, { at: (at += later), link: 'lnk_offer', first: clickOf(i + 1 - back) }),
          );
          const { ask: of } = askedOf(hops);
          /** The oldest click that led here, each older than the next. */
          const rootOf = (one: HopRecord): HopRecord => {
            const before = hops.find(({ click }) => click === one.first);
            return before && (before.at < one.at || (before.at === one.at && before.seq < one.seq))
              ? rootOf(before)
              : one;
          };
          for (const one of hops) {
            const same = hops.filter((other) => rootOf(other) === rootOf(one));
            expect(of.journey(one.click)?.legs.map(({ visit }) => visit.hop.seq)).toEqual(
              same.sort((a, b) => a.at - b.at || a.seq - b.seq).map(({ seq }) => seq),
            );
          }
        },
      ),
    );
  });
});
