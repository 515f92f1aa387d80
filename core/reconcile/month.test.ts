import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Unit } from './index.ts';
import {
  adjustmentsOf,
  approvedBy,
  checksumOf,
  checksumText,
  closingOf,
  convert,
  isIntact,
  owedBy,
} from './index.ts';
import type { ClosedMonth, Payment } from '#core/catalogue';
import { noon, saleOf, sideOf } from './testing/books.ts';

const at = noon;
const unit = (txn: string, theirs: number | null, more: Partial<Unit> = {}): Unit =>
  saleOf(txn, sideOf(1000), theirs === null ? undefined : sideOf(theirs), more);
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
    expect(adjustmentsOf([closed], before, monthAt)).toEqual([]);
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
    const changes = adjustmentsOf([closed], after, monthAt);
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
    expect(early.rows).toEqual([
      { keys: ['row net_h k1'], amount: 1000, currency: 'EUR', counts: true, approved: 1000 },
    ]);
    // Its postback comes later, and an earlier sale of the same transaction with it: neither changes what it is.
    const later = [unit('before', null), unit('A', 1000, { reported })];
    expect(adjustmentsOf([early], later, monthAt).map(({ unit: id, change }) => [id, change])).toEqual([
      ['before', 1000],
    ]);
  });

  it('takes a conversion that moves to another month, or is nowhere any more, out of it', () => {
    const [a, b, c] = before;
    const movedTo = (one: Unit | undefined, month: string): Unit => ({
      ...(one ?? unit('?', null)),
      theirs: { ...(one?.theirs as Unit['theirs'] & object), month },
    });
    const after = [movedTo(a, '2026-11'), b as Unit];
    expect(
      adjustmentsOf([closed], after, monthAt).map(({ keys, change, approved, now }) => [
        keys,
        change,
        approved,
        now,
      ]),
    ).toEqual([
      [['A'], -1000, 0, 'elsewhere'],
      [['C'], -1000, 0, 'gone'],
    ]);
    // Where it went is closed too: there it is new.
    const november = { ...closed, id: 'mon_2', month: '2026-11', rows: [], at: closed.at + 1 };
    expect(
      adjustmentsOf([closed, november], [...after, c as Unit], monthAt).map(
        ({ month, change, arrived, now }) => [month, change, arrived, now],
      ),
    ).toEqual([
      ['2026-10', -1000, '2026-12', 'elsewhere'],
      ['2026-11', 1000, '2026-12', 'here'],
    ]);
  });

  it('counts a change once: in the month in which it arrived, and no more once that is closed', () => {
    const shown = { shown: {} as ClosedMonth['shown'] & object };
    const october = { ...closed, ...shown };
    const reversed = { ...before[1]?.theirs, status: 'reversed', counts: false } as Unit['theirs'] & object;
    const after = [before[0], unit('B', 1000, { theirs: reversed }), before[2]] as Unit[];
    const changes = adjustmentsOf([october], after, monthAt);
    expect(changes).toMatchObject([{ change: -1000, approved: -1000, arrived: '2026-11' }]);
    const november: ClosedMonth = {
      ...closingOf(after, 'net_h', '2026-11', changes),
      ...shown,
      id: 'mon_2',
      at: closed.at + 30 * 86_400_000,
      checksum: '0'.repeat(64),
    };
    expect(november.adjusted).toHaveLength(1);
    expect(adjustmentsOf([october, november], after, monthAt)).toEqual([]);
    expect(approvedBy(after, 'net_h', [october, november], [])).toEqual([
      { month: '2026-10', currency: 'EUR', minor: 2000 },
      { month: '2026-11', currency: 'EUR', minor: -1000 },
    ]);
    // The network approves it all the same in the end: what November took is taken back in December.
    const again = adjustmentsOf([october, november], before, monthAt);
    expect(again).toMatchObject([{ month: '2026-10', change: 1000, approved: 1000, arrived: '2026-12' }]);
    expect(approvedBy(before, 'net_h', [october, november], again)).toEqual([
      { month: '2026-10', currency: 'EUR', minor: 2000 },
      { month: '2026-11', currency: 'EUR', minor: -1000 },
      { month: '2026-12', currency: 'EUR', minor: 1000 },
    ]);
  });

  it('has one text for its checksum, whatever the order of its names', () => {
    const { rows, ...rest } = closed;
    const turned = {
      rows: rows.map((row) => Object.fromEntries(Object.entries(row).reverse()) as typeof row),
      ...rest,
    };
    expect(checksumText(turned)).toBe(checksumText(closed));
    expect(checksumText({ ...closed, theirs: { EUR: 1 } })).not.toBe(checksumText(closed));
  });

  it('has a checksum that another program computes by the recipe of the docs', async () => {
    const bridge = { ours: 3, theirs: 2, unexplained: -1, reported: true, pieces: [] };
    const month: ClosedMonth = {
      ...closed,
      shown: {
        clicks: bridge,
        conversions: bridge,
        commission: [{ currency: 'EUR', bridge }],
        covered: { from: '2026-10-01', until: '2026-10-31' },
        waiting: [{ kind: 'Käse ☃', count: 1, worth: [] }],
      },
    };
    const whole = { ...month, checksum: await checksumOf(month) };
    expect(await isIntact(whole)).toBe(true);
    expect(await isIntact({ ...whole, rows: whole.rows.slice(1) })).toBe(false);
    const byRecipe = execFileSync('sh', ['-c', "jq -cjS 'del(.id, .at, .seal, .checksum)' | sha256sum"], {
      input: JSON.stringify(whole),
      encoding: 'utf8',
    });
    expect(byRecipe.split(' ')[0]).toBe(whole.checksum);
  });
});

describe('what is owed', () => {
  const approved = [
    { month: '2026-09', currency: 'EUR', minor: 5000 },
    { month: '2026-10', currency: 'EUR', minor: 3000 },
    { month: '2026-10', currency: 'USD', minor: 700 },
  ];
  const payment = (amount: number, more: Partial<Payment> = {}): Payment => ({
    id: `pay_${amount}`,
    network: 'net_h',
    day: '2026-11-20',
    amount,
    currency: 'EUR',
    note: '',
    ...more,
  });
  const shown = (payments: readonly Payment[], today = '2026-11-23') =>
    owedBy(approved, payments, today).months.map(({ month, currency, paid, owed }) => [
      month,
      currency,
      paid,
      owed,
    ]);

  it('is paid from the oldest month on, each currency by itself', () => {
    const { months, payments, ahead } = owedBy(approved, [payment(6000)], '2026-11-23');
    expect(
      months.map(({ month, currency, paid, owed, days }) => [month, currency, paid, owed, days]),
    ).toEqual([
      ['2026-09', 'EUR', 5000, 0, 53],
      ['2026-10', 'EUR', 1000, 2000, 22],
      ['2026-10', 'USD', 0, 700, 22],
    ]);
    expect(payments).toMatchObject([
      {
        laid: [
          { month: '2026-09', minor: 5000 },
          { month: '2026-10', minor: 1000 },
        ],
        left: 0,
      },
    ]);
    expect(ahead.size).toBe(0);
  });
  it('is paid for the months a payment says, whatever came before, and what is too much for them is ahead', () => {
    const late = payment(3100, { months: ['2026-10'], day: '2026-11-22' });
    expect(shown([payment(6000), late])).toEqual([
      ['2026-09', 'EUR', 5000, 0],
      ['2026-10', 'EUR', 3000, 0],
      ['2026-10', 'USD', 0, 700],
    ]);
    expect(owedBy(approved, [late], '2026-11-23').payments).toMatchObject([{ left: 100 }]);
    expect(owedBy(approved, [payment(6000), late], '2026-11-23').ahead).toEqual(new Map([['EUR', 1100]]));
  });
  it('is paid by what arrived with its fee put back, in another currency by the rate of that day', () => {
    // 6.40 EUR arrived, 0.35 were taken off on the way, a euro was 1.0371 dollars: 7.000425.
    const usual = payment(640, { fee: 35, settles: { currency: 'USD', rate: '1.0371' } });
    expect(shown([usual])).toEqual([
      ['2026-09', 'EUR', 0, 5000],
      ['2026-10', 'EUR', 0, 3000],
      ['2026-10', 'USD', 700, 0],
    ]);
  });
  it('is less where the network took more back in a month than it approved', () => {
    const { months } = owedBy(
      [...approved, { month: '2026-11', currency: 'EUR', minor: -800 }],
      [payment(5000)],
      '2026-12-10',
    );
    expect(months.map(({ month, deducted, owed }) => [month, deducted, owed])).toEqual([
      ['2026-09', 0, 0],
      ['2026-10', 800, 2200],
      ['2026-10', 0, 700],
      ['2026-11', -800, 0],
    ]);
  });
  it('is due by the network’s own terms: so many days after the month, once it is enough to be paid', () => {
    const due = (from: number, payments: readonly Payment[] = []) =>
      owedBy(approved, payments, '2026-12-05', { terms: { days: 30, from }, currency: 'EUR' }).months.map(
        ({ due: by, late }) => [by, late],
      );
    expect(due(0)).toEqual([
      ['2026-10-31', 35],
      ['2026-12-01', 4],
      ['2026-12-01', 4],
    ]);
    expect(due(6000)[0]).toEqual(['2026-12-01', 4]);
    expect(due(9000).slice(0, 2)).toEqual([
      [undefined, 0],
      [undefined, 0],
    ]);
    expect(due(0, [payment(8000)])[1]).toEqual(['2026-12-01', 0]);
  });
  it('is never lost or made: approved is paid, deducted and owed, and all money is somewhere', () =>
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -5000, max: 10_000 }), { maxLength: 6 }),
        fc.array(
          fc.record({
            amount: fc.integer({ min: -3000, max: 10_000 }),
            day: fc.constantFrom('2026-07-01', '2026-08-01', '2026-09-01'),
            months: fc.option(fc.constantFrom(['2026-01'], ['2026-02', '2026-04'])),
            fee: fc.option(fc.integer({ min: 1, max: 50 })),
          }),
          { maxLength: 6 },
        ),
        (due, came) => {
          const paid = came.map(({ amount, day, months, fee }, i) =>
            payment(amount, {
              id: `pay_${i}`,
              day,
              ...(months && { months: [...months] }),
              ...(fee !== null && { fee }),
            }),
          );
          const { months, payments, ahead } = owedBy(
            due.map((minor, i) => ({ month: `2026-0${i + 1}`, currency: 'EUR', minor })),
            paid,
            '2026-11-23',
          );
          const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);
          const all = sum(paid.map(({ amount, fee = 0 }) => amount + fee));
          for (const one of months) expect(one.paid + one.deducted + one.owed).toBe(one.minor);
          expect(sum(months.map((one) => one.deducted))).toBe(0);
          expect(sum(months.map((one) => one.paid)) + (ahead.get('EUR') ?? 0)).toBe(all);
          for (const one of payments)
            for (const part of one.laid) {
              const told = paid.find(({ id }) => id === one.id)?.months;
              expect(told === undefined || told.includes(part.month)).toBe(true);
              expect(part.minor).toBeGreaterThan(0);
            }
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
