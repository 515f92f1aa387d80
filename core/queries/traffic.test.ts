import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addTo, element } from '#core/catalogue';
import { clickId, dayIn, dayName, dayNumber } from '#core/hop';
import { dimensionNames } from '#core/traffic';
import { outcomes } from '#core/visits';
import { answersFrom, Dataset } from './index.ts';
import type { Traffic, TrafficFigures } from './index.ts';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import { domain, links, networks, programs, worlds } from './testing/worlds.ts';

/** Requests, conversions and money, as numbers that can be added up. */
const sums = (list: readonly TrafficFigures[]): Record<string, number> => {
  const found = new Map<string, number>();
  for (const { requests, states, commission } of list) {
    for (const outcome of outcomes) addTo(found, outcome, requests[outcome]);
    for (const [state, count] of Object.entries(states)) addTo(found, state, count);
    for (const { currency, minor } of commission) addTo(found, currency, minor);
  }
  return Object.fromEntries([...found].filter(([, count]) => count !== 0));
};

describe('traffic', () => {
  it('adds up to the same whole by whatever it is told apart, filtered or not', () => {
    fc.assert(
      fc.property(
        worlds,
        fc.nat(40),
        fc.integer({ min: 1, max: 40 }),
        fc.constantFrom(undefined, ...dimensionNames),
        fc.boolean(),
        ({ journal, reports }, first, length, filter, not) => {
          const data = new Dataset();
          data.setRecords({ domains: [domain], networks, programs, links, reports });
          data.add(journal);
          const ask = answersFrom(data);
          const day = dayNumber(dayIn(data.zone, element(journal[0]).at)) + first - 3;
          const [from, to] = [dayName(day), dayName(day + length - 1)];
          const asked = (by: (typeof dimensionNames)[number], where = [] as const): Traffic =>
            ask.traffic({ by, from, to, where });
          const value = filter === undefined ? '' : (asked(filter).lines[0]?.value ?? '');
          const where = filter === undefined ? [] : [{ of: filter, values: [value], not }];
          const wholes = dimensionNames.map((by) => {
            const { whole, lines } = ask.traffic({ by, from, to, where });
            expect([by, sums(lines)]).toEqual([by, sums([whole])]);
            return sums([whole]);
          });
          for (const whole of wholes) expect(whole).toEqual(wholes[0]);
          // The conversions behind the numbers are as many, in each state.
          const behind = ask.newestConversions({ from, to, where }, Infinity);
          expect(behind).toEqual(behind.toSorted((a, b) => b.at - a.at));
          const inStates = new Map<string, number>();
          for (const { status } of behind) addTo(inStates, status, 1);
          for (const status of ['pending', 'approved', 'paid', 'reversed'])
            expect([status, inStates.get(status)]).toEqual([status, wholes[0]?.[status]]);
          if (filter !== undefined) return;
          // And the whole is what the journal and the ledger have of these days.
          const isWithin = (at: number) => dayIn(data.zone, at) >= from && dayIn(data.zone, at) <= to;
          const requests = journal.filter(({ kind, at }) => kind === 'hop' && isWithin(at)).length;
          const units = [...countedUnits(data).byLink.values()].flat();
          const states = new Map<string, number>();
          const money = new Map<string, number>();
          for (const unit of units) {
            const { at, status, amount, currency, refundOnly } = pricedConversion(unit);
            if (!isWithin(at)) continue;
            if (!refundOnly) addTo(states, status, 1);
            if (status !== 'reversed' && amount !== null) addTo(money, currency, amount);
          }
          const { whole } = asked('link');
          expect(Object.values(whole.requests).reduce((sum, count) => sum + count, 0)).toBe(requests);
          expect(Object.fromEntries(Object.entries(whole.states).filter(([, count]) => count > 0))).toEqual(
            Object.fromEntries(states),
          );
          expect(
            Object.fromEntries(
              whole.commission.flatMap(({ currency, minor }) => (minor === 0 ? [] : [[currency, minor]])),
            ),
          ).toEqual(Object.fromEntries([...money].filter(([, minor]) => minor !== 0)));
        },
      ),
      { numRuns: 200 },
    );
  });

  it('says of links what their own list says of the same days', () => {
    fc.assert(
      fc.property(worlds, fc.integer({ min: 14, max: 40 }), fc.nat(3), ({ journal }, length, zone) => {
        const data = new Dataset();
        // Berlin changes its clock within these weeks, Lord Howe by half an hour.
        const zones = ['Europe/Berlin', 'Australia/Lord_Howe', 'America/New_York', 'UTC'];
        const own = { ...domain, zone: element(zones[zone]) };
        data.setRecords({ domains: [own], networks, programs, links });
        data.add(journal);
        const ask = answersFrom(data);
        const units = [...countedUnits(data).byLink.values()].flat();
        const now = Math.max(...journal.map(({ at }) => at), ...units.map(({ conversion }) => conversion.at));
        const to = dayIn(own.zone, now);
        const asked = (days: number) =>
          ask.traffic({ by: 'link', from: dayName(dayNumber(to) - days + 1), to, where: [] }).lines;
        const strip = asked(14);
        const wanted = asked(length).map(({ value, requests, states, commission }) => {
          const days = strip.find((line) => line.value === value)?.days ?? Array<number>(14).fill(0);
          const all = Object.values(requests).reduce((sum, count) => sum + count, 0);
          return [value, all, requests.counted, requests.repeat, requests.bot, states, commission, days];
        });
        const found = [...ask.figures(now, length)].map(([link, of]) => [
          link,
          of.requests,
          of.counted,
          of.repeats,
          of.bots,
          of.states,
          of.commission,
          of.days,
        ]);
        /** Those of which there is anything to say; what belongs to no link is in no list of links. */
        const byName = (list: unknown[][]) =>
          list.filter((line) => line[0] !== '' && /[1-9]/.test(JSON.stringify(line.slice(1)))).sort();
        expect(byName(found)).toEqual(byName(wanted));
      }),
      { numRuns: 200 },
    );
  });

  const at = Date.UTC(2026, 9, 24, 12);
  const day = 86_400_000;
  const hop = (seq: number, more: Partial<Parameters<typeof hopRecord>[0]> = {}) =>
    hopRecord({
      seq,
      at: at + seq,
      link: 'lnk_a',
      click: clickId(at + seq, new Uint8Array(10).fill(seq)),
      visitor: String(seq).padStart(16, '0'),
      ...more,
    });
  const data = new Dataset();
  data.setRecords({ domains: [domain], networks, programs, links });
  data.add([
    hop(1, { at: at - day, device: 'phone' }),
    hop(2, { device: 'phone', country: 'DE' }),
    hop(3, { device: 'phone', country: 'JP', source: 'flyer' }),
    hop(4, { device: 'desktop', country: 'DE' }),
    hop(5, { device: 'desktop', country: 'DE', ua: '' }),
    postbackRecord({
      seq: 6,
      at: at + 1000,
      network: 'net_a',
      query: `click=${clickId(at + 3, new Uint8Array(10).fill(3))}&txn=T1&amount=5.00&currency=EUR&status=approved&event=sale`,
    }),
  ]);
  const ask = answersFrom(data);
  const shown = (question: Parameters<typeof ask.traffic>[0]) =>
    ask
      .traffic(question)
      .lines.map(({ value, visitors, requests, daysBefore, states }) => [
        value,
        visitors,
        requests.bot,
        daysBefore[0],
        states.approved,
      ]);
  const today = { from: '2026-10-24', to: '2026-10-24' };

  it('is told with the day before, with conversions where their click came from', () => {
    expect(shown({ by: 'country', ...today, where: [] })).toEqual([
      ['DE', 2, 1, 0, 0],
      ['JP', 1, 0, 0, 1],
      // What came the day before alone stands there too.
      ['', 0, 0, 1, 0],
    ]);
  });

  it('is compared with no days of which nothing is known', () => {
    // The first request came the day before: of the two days before that nobody knows.
    expect(ask.traffic({ by: 'country', ...today, where: [] }).knownSince).toBeUndefined();
    const two = ask.traffic({ by: 'country', from: '2026-10-23', to: '2026-10-24', where: [] });
    expect(two.knownSince).toBe('2026-10-23');
    const week = { from: '2026-10-20', to: '2026-10-27' };
    expect(ask.traffic({ by: 'country', ...week, where: [] }).whole.changed).toBeUndefined();
    // What was rolled up is known by its days.
    const longer = new Dataset();
    longer.setRecords({ domains: [domain], networks, programs, links });
    longer.add([hop(1)]);
    longer.rolledUp = {
      before: at - day,
      counts: [
        {
          day: '2026-10-01',
          theirDay: '2026-10-01',
          link: 'lnk_a',
          source: '',
          outcome: 'counted',
          count: 9,
        },
      ],
    };
    const { knownSince, whole } = answersFrom(longer).traffic({ by: 'link', ...week, where: [] });
    expect([knownSince, whole.changed]).toEqual([undefined, false]);
  });

  it('is ranked and told by day by what is asked to be shown', () => {
    const bots = ask.traffic({ by: 'country', ...today, where: [], show: 'bot' });
    expect(bots.lines.map(({ value, days, daysBefore }) => [value, days, daysBefore])).toEqual([
      ['DE', [1], [0]],
      // Who came the day before, of any kind, stands before who never did.
      ['', [0], [0]],
      ['JP', [0], [0]],
    ]);
    expect([bots.outcomeDays.bot, bots.outcomeDays.counted, bots.outcomeDays.test]).toEqual([[1], [3], [0]]);
  });

  it('has the requests behind a number, the newest first, with what they led to', () => {
    const newest = (question: Omit<Parameters<typeof ask.traffic>[0], 'by'>, most = 10) =>
      ask.newestRequests(question, most).map(({ hop: { seq }, conversions }) => [seq, conversions]);
    expect(newest({ ...today, where: [] })).toEqual([
      [4, 0],
      [3, 1],
      [2, 0],
    ]);
    expect(newest({ ...today, where: [] }, 2)).toEqual([
      [4, 0],
      [3, 1],
    ]);
    expect(newest({ ...today, where: [], show: 'bot' })).toEqual([[5, 0]]);
    expect(newest({ ...today, where: [{ of: 'country', values: ['DE'], not: true }] })).toEqual([[3, 1]]);
    expect(newest({ from: '2026-10-23', to: '2026-10-23', where: [] })).toEqual([[1, 0]]);
  });

  it('is narrowed by several values, and by what it is not', () => {
    const phones = { of: 'device', values: ['phone'] } as const;
    expect(shown({ by: 'country', ...today, where: [phones] })).toEqual([
      ['DE', 1, 0, 0, 0],
      ['JP', 1, 0, 0, 1],
      ['', 0, 0, 1, 0],
    ]);
    expect(shown({ by: 'country', ...today, where: [{ ...phones, not: true }] })).toEqual([
      ['DE', 1, 1, 0, 0],
    ]);
    const both = { of: 'country', values: ['DE', 'JP'] } as const;
    expect(shown({ by: 'source', ...today, where: [both, phones] })).toEqual([
      ['', 1, 0, 0, 0],
      ['flyer', 1, 0, 0, 1],
    ]);
  });
});
