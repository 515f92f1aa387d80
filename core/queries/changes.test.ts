import { describe, expect, it } from 'vitest';
import type { JournalRecord } from '#core/visits';
import { hopRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset } from './index.ts';
import { domain, links, networks, programs } from './testing/worlds.ts';

const noon = Date.UTC(2026, 9, 24, 12);
const day = 86_400_000;
let seq = 0;
const changed = (record: string, at: number, value: Record<string, unknown> | null): JournalRecord => ({
  seq: (seq += 1),
  kind: 'change',
  at,
  by: 'Ines',
  of: record === 'settings' ? 'settings' : 'link',
  revision: seq,
  record,
  version: seq,
  value,
});
const link = { destination: 'https://polehouse.example/kit', title: 'Kit' };
const data = new Dataset();
data.setRecords({ domains: [domain], networks, programs, links });
data.add([
  // What is made is no change.
  changed('lnk_a', noon - 3 * day, link),
  changed('lnk_b', noon - 3 * day, link),
  changed('settings', noon - 3 * day, { currency: 'EUR' }),
  changed('lnk_a', noon - 2 * day, { ...link, destination: 'https://polehouse.example/kit-2' }),
  changed('lnk_b', noon - 2 * day + 1000, { ...link, branches: [{ id: 'b1' }] }),
  // Its title leads nobody elsewhere.
  changed('lnk_a', noon - 2 * day + 2000, {
    ...link,
    destination: 'https://polehouse.example/kit-2',
    title: 'A',
  }),
  changed('lnk_b', noon - day, { ...link, branches: [{ id: 'b1' }], archived: { at: noon - day } }),
  changed('settings', noon - day, { currency: 'EUR', classification: { repeatMinutes: 5 } }),
  changed('settings', noon - day + 1, { currency: 'USD', classification: { repeatMinutes: 5 } }),
  changed('lnk_b', noon, { branches: [{ id: 'b1' }], ...link }),
  changed('lnk_a', noon, null),
]);
const ask = answersFrom(data);
const all = { from: '2026-10-20', to: '2026-10-24', where: [], now: noon + day };

describe('changes that figures may come from', () => {
  it('are told by day and kind, with the links they were done to', () => {
    expect(ask.changesOfDays(all)).toEqual([
      { day: '2026-10-22', kind: 'destination', links: ['lnk_a', 'lnk_b'], sources: [] },
      { day: '2026-10-23', kind: 'archived', links: ['lnk_b'], sources: [] },
      { day: '2026-10-23', kind: 'rules', links: [], sources: [] },
      { day: '2026-10-24', kind: 'back', links: ['lnk_b'], sources: [] },
    ]);
  });

  it('are those of the days and of the links that are asked for', () => {
    expect(ask.changesOfDays({ ...all, from: '2026-10-24' })).toEqual([
      { day: '2026-10-24', kind: 'back', links: ['lnk_b'], sources: [] },
    ]);
    const where = [{ of: 'link', values: ['lnk_a'] } as const, { of: 'device', values: ['phone'] } as const];
    expect(ask.changesOfDays({ ...all, where })).toEqual([
      { day: '2026-10-22', kind: 'destination', links: ['lnk_a'], sources: [] },
      { day: '2026-10-23', kind: 'rules', links: [], sources: [] },
    ]);
    const others = [{ of: 'link', values: ['lnk_a', 'lnk_b'], not: true } as const];
    expect(ask.changesOfDays({ ...all, where: others })).toEqual([
      { day: '2026-10-23', kind: 'rules', links: [], sources: [] },
    ]);
  });
});

describe('what happened by itself', () => {
  const hours = (from: string | undefined, until: string | undefined, zone?: string) => ({
    ...{ ...link, domain: domain.id },
    hours: { ...(from && { from }), ...(until && { until }), ...(zone && { zone }) },
  });
  const dataOf = (...records: JournalRecord[]) => {
    const made = new Dataset();
    made.setRecords({ domains: [{ ...domain, zone: 'Europe/Berlin' }], networks, programs, links });
    made.add(records);
    return (now: number, where: Parameters<typeof ask.changesOfDays>[0]['where'] = []) =>
      answersFrom(made)
        .changesOfDays({ from: '2026-10-20', to: '2026-10-26', where, now })
        .map(({ day: on, kind, links: of }) => [on, kind, ...of]);
  };

  it('is a link that opened or closed by its hours, in its own zone, and not one that will', () => {
    const told = dataOf(
      changed('lnk_a', noon - 30 * day, hours('2026-10-21T08:00', '2026-10-25T00:30')),
      changed('lnk_b', noon - 30 * day, hours(undefined, '2026-10-25T00:30', 'America/New_York')),
    );
    expect(told(noon + 9 * day)).toEqual([
      ['2026-10-21', 'opened', 'lnk_a'],
      ['2026-10-25', 'closed', 'lnk_a', 'lnk_b'],
    ]);
    // The first closed at 00:30 in Berlin, the other will at 05:30.
    expect(told(Date.parse('2026-10-25T03:00+01:00'))).toContainEqual(['2026-10-25', 'closed', 'lnk_a']);
    expect(told(noon - day)).toEqual([['2026-10-21', 'opened', 'lnk_a']]);
    expect(told(noon + 9 * day, [{ of: 'link', values: ['lnk_b'] }])).toEqual([
      ['2026-10-25', 'closed', 'lnk_b'],
    ]);
  });

  it('is what hours said when they came, not what they said before or after', () => {
    const told = dataOf(
      changed('lnk_a', noon - 30 * day, hours(undefined, '2026-10-22T08:00')),
      // Put off before it closed, and later put back to a day that was over.
      changed('lnk_a', noon - 5 * day, hours(undefined, '2026-10-25T08:00')),
      changed('lnk_a', noon + 3 * day, hours(undefined, '2026-10-23T08:00')),
    );
    expect(told(noon + 9 * day)).toEqual([['2026-10-25', 'closed', 'lnk_a']]);
  });

  const visits = (perDay: readonly number[], source: string) =>
    perDay.flatMap((count, n) =>
      Array.from({ length: count }, (_, i) =>
        hopRecord({
          ...{ seq: (seq += 1), at: Date.UTC(2026, 9, 1 + n, 8) + i * 60_000, source },
          visitor: (n * 1000 + i).toString(16).padStart(16, '0'),
        }),
      ),
    );
  const mailed = (perDay: readonly number[], channel = 'Mail', values: readonly string[] = ['letter']) => {
    const made = new Dataset();
    const record = { id: 'src_1', source: 'letter', title: '', channel, note: '' };
    made.setRecords({ domains: [domain], sources: [record] });
    made.add(visits(perDay, 'letter'));
    return answersFrom(made)
      .changesOfDays({
        ...{ from: '2026-10-03', to: '2026-10-31', now: noon + 30 * day },
        where: [{ of: 'source', values }],
      })
      .map(({ day: on, kind, sources }) => [on, kind, ...sources]);
  };

  it('is a mailing, told by a day with twice the visits of usual ones, of a source whose channel is mail', () => {
    const week = [10, 12, 9, 11, 40, 25, 10];
    expect(mailed([...week, ...week])).toEqual([
      ['2026-10-05', 'mailing', 'letter'],
      ['2026-10-12', 'mailing', 'letter'],
    ]);
    expect(mailed(week, 'page')).toEqual([]);
    expect(mailed(week, 'mail', ['other'])).toEqual([]);
    // Few visits, days that are only somewhat more, and a beginning of which nothing is known before.
    expect(mailed([1, 2, 1, 1, 9, 1, 1])).toEqual([]);
    expect(mailed([30, 31, 29, 30, 55, 31])).toEqual([]);
    expect(mailed([10, 10, 10, 60])).toEqual([]);
    expect(mailed([])).toEqual([]);
  });
});
