import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { knownNetworks } from '#core/link-parts';
import type { ReportRow } from '#core/catalogue';
import type { ReportTable } from './index.ts';
import {
  compareRows,
  foldReports,
  guessReport,
  learnProfile,
  likelyCover,
  priceOf,
  readReport,
  reportParts,
  termsOn,
} from './index.ts';

const [known] = knownNetworks;
if (!known) throw new Error('networks ship');
const network = {
  ...known,
  id: 'net_h',
  postback: { ...known.postback, key: 'k', pixelKey: 'p' },
};
const table = (header: string[], rows: string[][]): ReportTable => ({
  header,
  rows,
  lines: rows.map((_, i) => i + 2),
});

describe('a report', () => {
  const rows = [
    ['HM-1', '12.10.2026 21:22', '01M84BDPSKXE4HN0RD2V', '1.013,83', 'EUR', 'open'],
    ['HM-2', '13.10.2026 08:00', '01M84BDPSKXE4HN0RD2V', '4,00', 'EUR', 'cancelled'],
  ];
  const header = ['Order', 'Time', 'Ref1', 'Commission', 'Currency', 'State'];
  const reading = guessReport(table(header, rows), network);
  const read = (list: string[][]) => readReport(table(header, list), reading.profile, network);

  it('is understood by its headings and its cells', () => {
    expect(reading.asks).toEqual([]);
    expect(reading.profile).toEqual({
      columns: {
        Order: 'txn',
        Time: 'at',
        Ref1: 'click',
        Commission: 'amount',
        Currency: 'currency',
        State: 'status',
      },
      dates: 'dmy',
      decimal: ',',
      zone: 'Europe/Berlin',
    });
    expect(read(rows)).toMatchObject({
      bad: [],
      from: '2026-10-12',
      until: '2026-10-13',
      rows: [
        { key: 'HM-1|sale', amount: 101_383, status: 'pending', at: Date.UTC(2026, 9, 12, 19, 22) },
        { amount: 400, status: 'reversed' },
      ],
    });
  });

  it('gives each bad row its reasons, and reads the others', () => {
    const { rows: good, bad } = read([
      ...rows,
      ['HM-3', 'soon', '', 'much', 'EUR', 'perhaps'],
      ['HM-4', '14.10.2026 08:00', '', '1,00', 'EUR'],
      ['HM-1', '15.10.2026 08:00', '', '1,00', 'EUR', 'open'],
    ]);
    expect(good.map((row) => row.txn)).toEqual(['HM-2']);
    expect(bad.map(({ line, problems }) => [line, problems.map((problem) => problem.path)])).toEqual([
      [2, ['txn']],
      [4, ['at', 'amount', 'status']],
      [5, ['']],
      [6, ['txn']],
    ]);
  });

  it('counts clicks by day and label', () => {
    const of = table(
      ['Day', 'Clicks'],
      [
        ['24.10.2026', '1.204'],
        ['24.10.2026', '6'],
        ['25.10.2026', 'few'],
      ],
    );
    const { profile, kind } = guessReport(of, network);
    expect(kind).toBe('clicks');
    const found = readReport(of, profile, network);
    expect(found.clicks).toEqual([{ day: '2026-10-24', label: '', clicks: 1210 }]);
    expect(found.bad).toHaveLength(1);
  });

  it('does not depend on the order of its rows, and the same file twice changes nothing', () =>
    fc.assert(
      fc.property(fc.shuffledSubarray([0, 1, 2, 3], { minLength: 4 }), (order) => {
        const list = [
          ...rows,
          ['', '14.10.2026 08:00', 'A', '1,00', 'EUR', 'open'],
          ['', '14.10.2026 08:00', 'A', '1,00', 'EUR', 'open'],
        ];
        const key = (row: ReportRow) => row.key;
        const first = read(list).rows;
        const again = read(order.map((i) => list[i] ?? [])).rows;
        expect(again.map(key).sort()).toEqual(first.map(key).sort());
        const parts = reportParts({
          network: 'net_h',
          batch: 'b',
          file: 'f',
          at: 1,
          from: '',
          until: '',
          rows: first,
          clicks: [],
        });
        expect(compareRows(foldReports(parts), 'net_h', again)).toEqual({ fresh: [], changed: [], same: 4 });
      }),
    ));

  it('keeps what was said before when a row changes', () => {
    const batch = (at: number, list: readonly ReportRow[]) =>
      reportParts({
        network: 'net_h',
        batch: `b${at}`,
        file: 'f',
        at,
        from: '',
        until: '',
        rows: list,
        clicks: [],
      });
    const first = read(rows).rows;
    const later = read([
      ['HM-1', '12.10.2026 21:22', '01M84BDPSKXE4HN0RD2V', '800,00', 'EUR', 'confirmed'],
    ]).rows;
    expect(compareRows(foldReports(batch(1, first)), 'net_h', later).changed).toHaveLength(1);
    const folded = foldReports([...batch(2, later), ...batch(1, first)]);
    expect(folded.get('net_h hm-1|sale')).toMatchObject({
      amount: 80_000,
      status: 'approved',
      reportedAt: 2,
      earlier: [{ amount: 101_383, status: 'pending', reportedAt: 1 }],
    });
  });

  it('is kept in parts that the change feed takes', () => {
    const list = Array.from(
      { length: 1201 },
      (_, i) => ({ ...read(rows).rows[0], key: `k${i}` }) as ReportRow,
    );
    const parts = reportParts({
      network: 'net_h',
      batch: 'b',
      file: '',
      at: 1,
      from: '',
      until: '',
      rows: list,
      clicks: [],
    });
    expect(parts.map((part) => part.rows.length)).toEqual([500, 500, 201]);
    expect(new Set(parts.map((part) => part.id)).size).toBe(3);
  });

  it('covers whole months where only quiet days are missing at their ends, and no more of a running month than its rows', () => {
    expect(likelyCover('2026-10-02', '2026-10-29', '2026-11-23')).toEqual({
      from: '2026-10-01',
      until: '2026-10-31',
    });
    expect(likelyCover('2026-10-10', '2026-10-20', '2026-11-23')).toEqual({
      from: '2026-10-10',
      until: '2026-10-20',
    });
    expect(likelyCover('2026-11-01', '2026-11-20', '2026-11-23')).toEqual({
      from: '2026-11-01',
      until: '2026-11-20',
    });
    expect(likelyCover('2026-11-01', '2026-11-28', '2026-12-01')).toEqual({
      from: '2026-11-01',
      until: '2026-11-30',
    });
  });

  it('teaches its network without forgetting another kind of report', () => {
    const more = { ...reading.profile, columns: { Day: 'at' as const } };
    expect(Object.keys(learnProfile(reading.profile, more).columns)).toEqual([...header, 'Day']);
  });
});

describe('terms', () => {
  const terms = [
    { kind: 'fixed' as const, from: '2026-01-01', event: '', amount: 500, currency: 'USD' },
    { kind: 'fixed' as const, from: '2026-10-01', event: '', amount: 600, currency: 'USD' },
    {
      kind: 'tiers' as const,
      from: '2026-01-01',
      event: 'lead',
      currency: 'USD',
      steps: [
        { from: 1, amount: 100 },
        { from: 11, amount: 150 },
      ],
    },
  ];
  it('hold from their day on, those of the very event first', () => {
    expect(termsOn({ terms }, 'sale', '2026-09-30')).toBe(terms[0]);
    expect(termsOn({ terms }, 'sale', '2026-10-01')).toBe(terms[1]);
    expect(termsOn({ terms }, 'lead', '2026-10-01')).toBe(terms[2]);
    expect(termsOn({ terms }, 'sale', '2025-12-31')).toBeUndefined();
  });
  it('price an event', () => {
    const [fixed, , tiers] = terms;
    expect(fixed && priceOf(fixed, 3)).toBe(500);
    expect(tiers && [1, 10, 11, 99].map((nth) => priceOf(tiers, nth))).toEqual([100, 100, 150, 150]);
    const share = { kind: 'percent' as const, from: '', event: '', basisPoints: 850 };
    expect(priceOf(share, 1, 17_290)).toBe(1470);
    expect(priceOf(share, 1, -100)).toBe(-9);
    expect(priceOf(share, 1)).toBeUndefined();
  });
});
