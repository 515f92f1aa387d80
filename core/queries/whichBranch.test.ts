import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { clickId } from '#core/hop';
import type { Link } from '#core/catalogue';
import type { JournalRecord } from '#core/visits';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset, withMovedWeights } from './index.ts';
import { seasonOf } from './testing/seasons.ts';
import { domain, links, networks, programs } from './testing/worlds.ts';

const now = Date.UTC(2026, 11, 20, 12);
const destination = 'https://polehouse.example/';
const branches = [
  { id: 'b1', name: 'the kit', when: {}, destination, weight: 1 },
  { id: 'b2', name: 'phones, old', when: { devices: ['phone' as const] }, destination, weight: 1 },
  { id: 'b3', name: 'phones, new', when: { devices: ['phone' as const] }, destination, weight: 1 },
  { id: 'b4', name: 'Austria', when: { countries: ['AT'] }, destination, weight: 1 },
];
const link = links[0]?.id ?? '';
const asked = (journal: readonly JournalRecord[], more: object = {}) => {
  const data = new Dataset();
  data.setRecords({
    ...{ domains: [domain], networks, programs },
    links: links.map((one) => (one.id === link ? { ...one, branches } : one)),
  });
  data.add(journal);
  return answersFrom(data).whichBranch({
    ...{ link, from: '2026-10-02', to: '2026-12-20', currency: 'EUR', now },
    ...more,
  });
};

describe('which branch', () => {
  it('counts a visitor, and what one buys, for the branch that was shown first on the day: 300 drawn journals', () => {
    const visit = fc.record({
      day: fc.nat(3),
      minute: fc.nat(900),
      visitor: fc.integer({ min: 1, max: 5 }),
      branch: fc.constantFrom('everyone', 'b1', 'b2', 'b3', 'b4'),
      buys: fc.constantFrom('', '', 'done', 'open'),
    });
    fc.assert(
      fc.property(fc.array(visit, { maxLength: 40 }), (drawn) => {
        const visits = drawn
          .map((one, n) => ({ ...one, n, at: Date.UTC(2026, 10, 2 + one.day, 5, one.minute, 0, n) }))
          .toSorted((a, b) => a.at - b.at);
        const records = visits.flatMap(({ at, n, visitor, branch, buys }) => {
          const click = clickId(at, new Uint8Array(10).fill(n + 1));
          const hop = hopRecord({ at, click, link, branch, visitor: String(visitor).padStart(16, '0') });
          const query = `click=${click}&txn=T${n}&amount=10&currency=EUR&status=${buys}&event=sale`;
          const said = postbackRecord({ at: at + 1, network: networks[0]?.id ?? '', query });
          return buys === '' ? [hop] : [hop, said];
        });
        const groups = asked(records.map((record, i) => ({ ...record, seq: i + 1 })));
        expect(groups.map(({ lines }) => lines.map((line) => line.branch).toSorted())).toEqual([
          ['b1', 'everyone'],
          ['b2', 'b3'],
        ]);
        // One day and visitor after the other, by the list as it was drawn.
        const firsts = new Map<string, string>();
        for (const { day, visitor, branch } of visits) {
          const key = `${day} ${visitor}`;
          if (!firsts.has(key)) firsts.set(key, branch);
        }
        for (const { branch, visitors, conversions } of groups.flatMap(({ lines }) => lines)) {
          const sold = visits.filter(
            ({ day, visitor, buys }) => buys !== '' && firsts.get(`${day} ${visitor}`) === branch,
          );
          const mine = [...firsts.values()].filter((first) => first === branch);
          expect([branch, visitors, conversions]).toEqual([branch, mine.length, sold.length]);
        }
      }),
      { numRuns: 300, seed: 7 },
    );
  });

  it('says which earns more a visitor and how sure that is, within its conditions only', () => {
    const shown = (branch: string, visits: number, sales: number) =>
      seasonOf(now, [{ source: branch, day: '2026-10-20', visits, sales, of: link.slice(4) }]).map(
        (record) => (record.kind === 'hop' ? { ...record, branch } : record),
      );
    const all = [
      shown('everyone', 1500, 15),
      shown('b1', 1500, 90),
      shown('b2', 300, 6),
      shown('b3', 300, 9),
      shown('b4', 900, 200),
    ];
    // Visitors and clicks of each are others: their numbers go on.
    let seq = 0;
    const journal = all
      .flatMap((records, i) =>
        records.map((record): JournalRecord => {
          const mark = (text: string) => text.slice(0, 10) + String(i) + text.slice(11);
          if (record.kind === 'hop')
            return { ...record, click: mark(record.click), visitor: mark(record.visitor) };
          if (record.kind !== 'postback') return record;
          const query = record.query
            .replace(/click=(\w+)/, (_, click: string) => `click=${mark(click)}`)
            .replace(/txn=T/, `txn=T${i}x`);
          return { ...record, query };
        }),
      )
      .toSorted((a, b) => a.at - b.at)
      .map((record): JournalRecord => ({ ...record, seq: ++seq }));
    const [everybody, phones] = asked(journal);
    expect(
      everybody?.lines.map(({ branch, visitors, conversions, earned }) => [
        branch,
        visitors,
        conversions,
        earned,
      ]),
    ).toEqual([
      ['b1', 1500, 90, 90_000],
      ['everyone', 1500, 15, 15_000],
    ]);
    expect(everybody?.lines.map(({ beside }) => beside?.verdict)).toEqual([undefined, 'worse']);
    // 62 days of 3,000 visitors, from 20 October on.
    expect(everybody?.monthly).toBeCloseTo((30 * 3000) / 62, 9);
    // One branch sells in a currency without a rate: of it nothing is said, though its program's other sales are priced.
    const foreign = journal.map((record): JournalRecord =>
      record.kind === 'postback' && record.query.includes('txn=T0x')
        ? { ...record, query: record.query.replace('currency=EUR', 'currency=USD') }
        : record,
    );
    const [mixed] = asked(foreign);
    expect(mixed?.lines.map(({ branch, unpriced, beside }) => [branch, unpriced, beside])).toEqual([
      ['b1', undefined, undefined],
      ['everyone', { currency: 'USD', day: '2026-10-20' }, undefined],
    ]);
    expect(mixed?.lines.map(({ band }) => band === undefined)).toEqual([false, true]);
    // Without a rate nobody can say what either earned, and nothing moves.
    const yen = asked(journal, { currency: 'JPY' });
    const missing = { currency: 'EUR', day: '2026-10-20' };
    for (const { lines } of yen)
      for (const { unpriced, band, beside } of lines)
        expect([unpriced, band, beside]).toEqual([missing, undefined, undefined]);
    expect(phones?.lines.map(({ branch, beside }) => [branch, beside?.verdict])).toEqual([
      ['b3', undefined],
      ['b2', 'keep testing'],
    ]);
    expect(phones?.lines[1]?.beside?.needed).toBeGreaterThan(600);

    // Weights that move go by it; a branch that is closed stays closed, and one of other conditions keeps what it has.
    const groups = asked(journal);
    const moving = { branches, movesWeights: { least: 15 } };
    const moved = withMovedWeights(moving, groups);
    const weights = (of: Partial<Pick<Link, 'weight' | 'branches'>> | undefined) => [
      of?.weight,
      ...(of?.branches ?? []).map(({ weight }) => weight),
    ];
    expect(weights(moved)).toEqual([15, 85, 50, 50, 1]);
    expect(moved && withMovedWeights(moved, groups)).toBeUndefined();
    expect(withMovedWeights({ branches }, groups)).toBeUndefined();
    const closed = { ...moving, branches: branches.map((one) => ({ ...one, weight: 0 })) };
    expect(withMovedWeights(closed, groups)).toBeUndefined();
  });

  it('has nothing to say of a link that is not split, or not there', () => {
    expect(asked([], { link: links[1]?.id })).toEqual([]);
    expect(asked([], { link: 'lnk_gone' })).toEqual([]);
    expect(asked([])[0]?.lines.map(({ visitors, band }) => [visitors, band])).toEqual([
      [0, undefined],
      [0, undefined],
    ]);
  });
});
