import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { knownNetworks } from '#core/link-parts';
import type { ReportRow } from '#core/catalogue';
import type { ReportTable } from './index.ts';
import {
  compareRows,
  foldReports,
  guessReport,
  inferDateOrder,
  inferDecimal,
  learnProfile,
  likelyCover,
  priceOf,
  readMoment,
  readReport,
  readReportAmount,
  reportParts,
  termsOn,
} from './index.ts';

const iso = (at: number | undefined) => (at === undefined ? undefined : new Date(at).toISOString());

describe('a date in a report', () => {
  it.each([
    // ISO 8601, and the same with an offset.
    ['2026-10-12', '', 'ymd', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['2026-10-12T21:22:40Z', '', 'dmy', 'Europe/Berlin', '2026-10-12T21:22:40.000Z'],
    ['2026-10-12 21:22:40+02:00', '', 'ymd', 'UTC', '2026-10-12T19:22:40.000Z'],
    ['12.10.2026 21:22', '', 'dmy', 'Europe/Berlin', '2026-10-12T19:22:00.000Z'],
    ['10/12/2026', '9:22:40 PM', 'mdy', 'America/Los_Angeles', '2026-10-13T04:22:40.000Z'],
    ['10/12/2026', '12:05 AM', 'mdy', 'UTC', '2026-10-12T00:05:00.000Z'],
    ['10/12/2026', '12:05 PM', 'mdy', 'UTC', '2026-10-12T12:05:00.000Z'],
    ['12 Oct 2026 21:22', '', 'dmy', 'Europe/London', '2026-10-12T20:22:00.000Z'],
    ['October 12, 2026', '', 'mdy', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['3/4/26', '', 'dmy', 'UTC', '2026-04-03T00:00:00.000Z'],
    // Months by the names `Intl` has for them.
    ['12. Oktober 2026', '', 'dmy', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['3 de mayo de 2026', '', 'dmy', 'UTC', '2026-05-03T00:00:00.000Z'],
    ['12 août 2026', '', 'dmy', 'UTC', '2026-08-12T00:00:00.000Z'],
    ['12 Mrz 2026', '', 'dmy', 'UTC', '2026-03-12T00:00:00.000Z'],
    ['12-Okt-2026', '', 'dmy', 'UTC', '2026-10-12T00:00:00.000Z'],
    // Seconds and milliseconds since 1970, and a spreadsheet's days: 1 is the first of January 1900 there (ECMA-376 §18.17.4.1).
    ['1791840160', '', 'ymd', 'Europe/Berlin', '2026-10-12T21:22:40.000Z'],
    ['1791840160000', '', 'ymd', 'Europe/Berlin', '2026-10-12T21:22:40.000Z'],
    ['46307', '', 'ymd', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['46307.8907407407', '', 'ymd', 'UTC', '2026-10-12T21:22:40.000Z'],
  ] as const)('%s %s (%s, %s) is %s', (cell, time, order, zone, expected) =>
    expect(iso(readMoment(cell, time, order, zone))).toBe(expected),
  );
  it.each([
    '',
    'yesterday',
    '31.06.2026',
    '2026-13-01',
    '12/10/2026 25:00',
    '12/10',
    '1.2.345',
    '12 sol 2026',
    '7',
    '123456789',
  ])('%s is none', (cell) => expect(readMoment(cell, '', 'dmy', 'UTC')).toBeUndefined());
  it('takes the order from the whole column, and asks where every date could be read both ways', () => {
    expect(inferDateOrder(['03/04/2026', '13/04/2026'])).toMatchObject({ order: 'dmy', proofs: 1 });
    expect(inferDateOrder(['03/04/2026', '04/13/2026'])).toMatchObject({ order: 'mdy', proofs: 1 });
    expect(inferDateOrder(['2026/04/03'])).toMatchObject({ order: 'ymd' });
    expect(inferDateOrder(['03/04/2026', '05/06/2026'])).toMatchObject({ order: undefined, mixed: false });
    expect(inferDateOrder(['13/04/2026', '04/13/2026'])).toMatchObject({ order: undefined, mixed: true });
  });
  it('is read back as it was written, in every order', () =>
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2000-01-01'), max: new Date('2099-12-31'), noInvalidDate: true }),
        fc.constantFrom('dmy' as const, 'mdy' as const, 'ymd' as const),
        fc.constantFrom('.', '/', '-'),
        (date, order, sign) => {
          const [y = '', m = '', d = ''] = date.toISOString().slice(0, 10).split('-');
          const cell = { dmy: [d, m, y], mdy: [m, d, y], ymd: [y, m, d] }[order].join(sign);
          expect(iso(readMoment(cell, '', order, 'UTC'))).toBe(`${y}-${m}-${d}T00:00:00.000Z`);
        },
      ),
    ));
});

describe('an amount in a report', () => {
  it.each([
    ['13.83', '.', 'EUR', 1383],
    ['13,83 €', ',', 'EUR', 1383],
    ['€ 1.234,50', ',', 'EUR', 123_450],
    ['$1,234.5', '.', 'USD', 123_450],
    ['(4.20)', '.', 'USD', -420],
    ['-4.20', '.', 'USD', -420],
    ['4,20-', ',', 'EUR', -420],
    ['\u2212£0.07', '.', 'GBP', -7],
    ['1,234', '.', 'JPY', 1234],
    ['¥8,558', '.', 'JPY', 8558],
    ['1.234', '.', 'KWD', 1234],
    ["1'234.50 CHF", '.', 'CHF', 123_450],
    ['1 234,50', ',', 'EUR', 123_450],
    ['0', '.', 'EUR', 0],
  ] as const)('%s is %s %s', (cell, decimal, currency, expected) =>
    expect(readReportAmount(cell, decimal, currency)).toBe(expected),
  );
  it.each([
    ['', '.', 'EUR'],
    ['free', '.', 'EUR'],
    ['1.2.3', '.', 'EUR'],
    ['13.835', '.', 'EUR'],
    ['5.5', '.', 'JPY'],
  ] as const)('%s is none with %s in %s', (cell, decimal, currency) =>
    expect(readReportAmount(cell, decimal, currency)).toBeUndefined(),
  );
  it('tells point from comma by the whole column', () => {
    expect(inferDecimal(['1.234', '1.234,50'])).toBe(',');
    expect(inferDecimal(['1,234', '12.5'])).toBe('.');
    expect(inferDecimal(['1.234.567'])).toBe(',');
    expect(inferDecimal(['1,234'])).toBeUndefined();
    expect(inferDecimal(['1,234'], () => 'JPY')).toBe('.');
    expect(inferDecimal(['12', '3'])).toBeUndefined();
  });
});

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
    expect(folded.get('net_h HM-1|sale')).toMatchObject({
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
