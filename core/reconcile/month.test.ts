import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Unit } from './index.ts';
import { adjustmentsOf, checksumText, claimLine, closingOf, convert, owedBy } from './index.ts';
import { postbackRecord } from '../visits/testing/records.ts';

const at = Date.UTC(2026, 9, 12);
const unit = (txn: string, theirs: number | null, more: Partial<Unit> = {}): Unit => ({
  id: txn,
  network: 'net_h',
  program: 'prg_1',
  link: 'lnk_kit',
  source: '',
  match: { level: 'exact', row: 0, because: '' },
  flags: [],
  ours: {
    amount: 1000,
    currency: 'EUR',
    status: 'approved',
    counts: true,
    at,
    month: '2026-10',
    priced: false,
  },
  ...(theirs !== null && {
    theirs: {
      amount: theirs,
      currency: 'EUR',
      status: 'approved',
      counts: true,
      at,
      month: '2026-10',
      priced: false,
    },
  }),
  conversion: {
    id: txn,
    network: 'net_h',
    click: '01M84BDPSKXE4HN0RD2V6W3PBC',
    event: 'sale',
    txn,
    currency: 'EUR',
    status: 'approved',
    amount: 1000,
    at,
    steps: [{ at, arrived: at, seq: 9, status: 'approved', amount: 1000, did: 'first' }],
    repeats: 0,
    whole: false,
  },
  ...more,
});
const reported = {
  network: 'net_h',
  key: 'k1',
  txn: 'A',
  click: '',
  program: '',
  event: 'sale',
  status: 'approved' as const,
  amount: 1000,
  currency: 'EUR',
  at,
  reportedAt: at,
  earlier: [],
};
const monthAt = (when: number) => new Date(when).toISOString().slice(0, 7);

describe('a closed month', () => {
  const before = [unit('A', 1000), unit('B', 1000), unit('C', null, { cause: 'not in report' })];
  const figures = closingOf(before, 'net_h', '2026-10');
  const closed = { ...figures, id: 'mon_1', at: Date.UTC(2026, 10, 2), checksum: '0'.repeat(64) };

  it('keeps its figures', () => {
    expect(figures).toMatchObject({
      conversions: { ours: 3, theirs: 2 },
      ours: { EUR: 3000 },
      theirs: { EUR: 2000 },
    });
    expect(adjustmentsOf(closed, before, monthAt)).toEqual([]);
  });

  it('shows what arrives later as an adjustment of the month it arrives in', () => {
    const after = [
      unit('A', 800),
      unit('B', 1000, {
        theirs: { ...before[1]?.theirs, status: 'reversed', counts: false } as Unit['theirs'] & object,
      }),
      before[2] ?? unit('C', null),
      unit('D', 500),
    ];
    const changes = adjustmentsOf(closed, after, monthAt);
    expect(changes.map(({ unit: id, change, arrived }) => [id, change, arrived])).toEqual([
      ['A', -200, '2026-11'],
      ['B', -1000, '2026-11'],
      ['D', 500, '2026-11'],
    ]);
    expect(closingOf(before, 'net_h', '2026-10')).toEqual(figures);
  });

  it('knows a conversion by what either side calls it, whichever was there first', () => {
    const { conversion: _, ours: __, ...reportOnly } = unit('A', 1000, { id: 'row net_h k1', reported });
    const early = {
      ...closingOf([reportOnly], 'net_h', '2026-10'),
      id: 'mon_1',
      at,
      checksum: '0'.repeat(64),
    };
    expect(early.rows).toEqual([{ keys: ['row net_h k1'], amount: 1000, currency: 'EUR', counts: true }]);
    // Its postback comes later, and an earlier sale of the same transaction with it: neither changes what it is.
    const later = [unit('before', null), unit('A', 1000, { reported })];
    expect(adjustmentsOf(early, later, monthAt).map(({ unit: id, change }) => [id, change])).toEqual([
      ['before', 1000],
    ]);
  });

  it('has one text for its checksum, whatever the order of its names', () => {
    const { rows, ...rest } = figures;
    const turned = {
      rows: rows.map((row) => Object.fromEntries(Object.entries(row).reverse()) as typeof row),
      ...rest,
    };
    expect(checksumText(turned)).toBe(checksumText(figures));
    expect(checksumText({ ...figures, theirs: { EUR: 1 } })).not.toBe(checksumText(figures));
  });
});

describe('what is owed', () => {
  const approved = [
    { month: '2026-09', currency: 'EUR', minor: 5000 },
    { month: '2026-10', currency: 'EUR', minor: 3000 },
    { month: '2026-10', currency: 'USD', minor: 700 },
  ];
  it('is paid from the oldest month on, each currency by itself', () => {
    const { months, ahead } = owedBy(approved, [{ amount: 6000, currency: 'EUR' }], '2026-11-23');
    expect(
      months.map(({ month, currency, paid, owed, days }) => [month, currency, paid, owed, days]),
    ).toEqual([
      ['2026-09', 'EUR', 5000, 0, 53],
      ['2026-10', 'EUR', 1000, 2000, 22],
      ['2026-10', 'USD', 0, 700, 22],
    ]);
    expect(ahead.size).toBe(0);
  });
  it('is never lost or made: approved is what was paid and what is owed, and all money is somewhere', () =>
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 10_000 }), { maxLength: 6 }),
        fc.array(fc.integer({ min: 0, max: 10_000 }), { maxLength: 6 }),
        (due, came) => {
          const { months, ahead } = owedBy(
            due.map((minor, i) => ({ month: `2026-0${i + 1}`, currency: 'EUR', minor })),
            came.map((amount) => ({ amount, currency: 'EUR' })),
            '2026-11-23',
          );
          const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);
          expect(sum(months.map((one) => one.paid + one.owed))).toBe(sum(due));
          expect(sum(months.map((one) => one.paid)) + (ahead.get('EUR') ?? 0)).toBe(sum(came));
        },
      ),
    ));
});

describe('a rate', () => {
  it.each([
    [1000, '0.9231', { from: 2, to: 2 }, 923],
    [1005, '1', { from: 2, to: 2 }, 1005],
    [1234, '0.0062', { from: 0, to: 2 }, 765],
    [-150, '0.5', { from: 2, to: 2 }, -75],
    [1, '0.5', { from: 2, to: 2 }, 1],
    [100, '160.25', { from: 2, to: 0 }, 160],
  ])('turns %i by %s', (minor, rate, places, expected) =>
    expect(convert(minor, rate, places)).toBe(expected),
  );
  it('is refused when it is none', () => expect(convert(1, '1,2', { from: 2, to: 2 })).toBeUndefined());
});

describe('a claim', () => {
  it('carries what supports it and nothing of any visitor', () => {
    const line = claimLine(
      { kind: 'not in report', because: 'The report does not have it.' },
      unit('A', null),
      [postbackRecord({ seq: 9, at, query: 'click=01M&txn=A', ip: '192.0.2.10' })],
      () => ({ click: '01M84BDPSKXE4HN0RD2V6W3PBC', at: at - 1 }),
      () => 'see.nightledge.example/kit',
    );
    expect(line).toMatchObject({
      txn: 'A',
      ourAmount: 1000,
      theirAmount: null,
      link: 'see.nightledge.example/kit',
    });
    expect(JSON.stringify(line)).not.toContain('192.0.2.10');
    expect(Object.keys(line).filter((name) => /visitor|agent|country|ip|page/i.test(name))).toEqual([]);
  });
});
