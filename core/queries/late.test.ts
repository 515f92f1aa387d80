import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { element } from '#core/catalogue';
import { clickId, fromLog } from '#core/hop';
import type { JournalRecord } from '#core/visits';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset } from './index.ts';
import { domain, links, networks, programs, worlds } from './testing/worlds.ts';

const records = { domains: [domain], networks, programs, links, reports: [] };
const of = (journal: readonly JournalRecord[], more = {}): Dataset => {
  const data = new Dataset();
  data.setRecords({ ...records, ...more });
  data.add(journal.map((record, i) => ({ ...record, seq: i + 1 })));
  return data;
};
/** What each unit was matched with: the conversion and the click. */
const matches = (data: Dataset) =>
  data.reconciled.units
    .map(({ conversion, reported, match }) =>
      JSON.stringify([
        conversion?.txn ?? reported?.txn,
        conversion?.at ?? reported?.at,
        match.row < 0 ? '' : data.journal.columns.click(match.row),
      ]),
    )
    .sort();
const outcomesOf = (data: Dataset) => {
  const { classification, journal } = data;
  return Array.from({ length: journal.columns.rows }, (_, row) => [
    journal.columns.click(row),
    classification.outcome(row),
  ]).sort(([a = ''], [b = '']) => (a < b ? -1 : 1));
};

describe('requests that lie behind newer ones', () => {
  it('are matched as if they had come in time, and are not taken for the newest', () => {
    let late = 0;
    fc.assert(
      fc.property(
        worlds,
        fc.array(fc.boolean(), { minLength: 40, maxLength: 40 }),
        ({ journal, reports }, which) => {
          const isLate = (record: JournalRecord, i: number) =>
            record.kind === 'hop' && which[i % which.length] === true;
          const inTime = of(journal, { reports });
          const given = of([...journal.filter((r, i) => !isLate(r, i)), ...journal.filter(isLate)], {
            reports,
          });
          // Who comes first of two within half an hour is the one that counts: that may be another.
          fc.pre(JSON.stringify(outcomesOf(inTime)) === JSON.stringify(outcomesOf(given)));
          late += journal.filter(isLate).length;
          expect(matches(given)).toEqual(matches(inTime));
          const day = (at: number) => new Date(at).toISOString().slice(0, 10);
          const days = { from: day(element(journal[0]).at), to: day(element(journal.at(-1)).at), where: [] };
          const times = (data: Dataset) =>
            answersFrom(data)
              .newestRequests(days, 5)
              .map(({ hop }) => hop.at);
          // Within a minute the order is that in which they came.
          const isAlike = (some: readonly number[], others: readonly number[]) =>
            some.length === others.length &&
            some.every((at, i) => Math.abs(at - element(others[i])) <= 60_000);
          expect(isAlike(times(given), times(inTime))).toBe(true);
          const recent = (data: Dataset, link: string) =>
            answersFrom(data)
              .recent(link, 4)
              .visits.map(({ hop }) => hop.at);
          for (const { id } of links) expect(isAlike(recent(given, id), recent(inTime, id))).toBe(true);
        },
      ),
    );
    expect(late).toBeGreaterThan(100);
  });
});

describe('requests that access logs told of', () => {
  const day = 86_400_000;
  const start = Date.UTC(2026, 9, 20, 12);
  const click = (n: number) => clickId(start + n, new Uint8Array(10).fill(n % 256));
  const own = [0, 1, 2].map((n) =>
    hopRecord({ at: start + n * day, link: 'lnk_a', click: click(n), visitor: `00000000000000a${n}` }),
  );
  const told = (daysBefore: readonly number[]) =>
    daysBefore.map((n) =>
      hopRecord({
        at: start - n * day,
        link: 'lnk_a',
        click: clickId(start - n * day, new Uint8Array(10)),
        branch: fromLog,
        version: 0,
        visitor: `0000000000000b${String(n).padStart(2, '0')}`,
      }),
    );
  const since = (data: Dataset) =>
    answersFrom(data).traffic({ by: 'link', from: '2026-10-21', to: '2026-10-22', where: [] }).knownSince;

  it('are known as far back as no day is missing', () => {
    const ask = (journal: readonly JournalRecord[], from: string) =>
      answersFrom(of(journal)).traffic({ by: 'link', from, to: '2026-10-22', where: [] }).knownSince;
    expect(since(of(own))).toBe('2026-10-20');
    expect(ask([...own, ...told([1, 2, 3])], '2026-10-20')).toBeUndefined();
    expect(ask([...own, ...told([1, 2, 3])], '2026-10-19')).toBe('2026-10-17');
    // Of the third day before no log was brought in.
    expect(ask([...own, ...told([1, 2, 4, 5])], '2026-10-19')).toBe('2026-10-18');
    expect(ask([...told([9]), ...own], '2026-10-21')).toBe('2026-10-20');
  });

  it('are no news on the tape, and count as visits of their day', () => {
    const data = of([...own, ...told([3, 2, 1])]);
    const ask = answersFrom(data);
    expect(ask.tape(10).map(({ at }) => at)).toEqual(own.map(({ at }) => at).reverse());
    const { lines } = ask.traffic({ by: 'branch', from: '2026-10-17', to: '2026-10-22', where: [] });
    expect(lines.map(({ value, days }) => [value, days])).toEqual([
      ['everyone', [0, 0, 0, 1, 1, 1]],
      [fromLog, [1, 1, 1, 0, 0, 0]],
    ]);
  });

  it('do not say that the journal would know a click of their time', () => {
    const lost = clickId(start - 5 * day, new Uint8Array(10).fill(9));
    const paid = postbackRecord({
      at: start + day,
      network: element(networks[0]).id,
      query: `click=${lost}&txn=T1&event=sale`,
    });
    const without = of([...own, paid]);
    const withLogs = of([...own, paid, ...told([9, 8])]);
    const flags = (data: Dataset) => data.reconciled.units.map(({ match }) => ({ ...match, row: -1 }));
    expect(flags(withLogs)).toEqual(flags(without));
    expect(withLogs.clicks().covers(start - 5 * day)).toBe(false);
    expect(withLogs.clicks().covers(start + day)).toBe(true);
  });
});
