import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Cost } from '#core/catalogue';
import { checkRecord } from '#core/catalogue';
import { clickId } from '#core/hop';
import { requestDimensions } from '#core/traffic';
import type { Passes } from '#core/traffic';
import { passedCosts } from '#core/traffic';
import { classified } from '../visits/testing/classified.ts';
import { hopRecord } from '../visits/testing/records.ts';
import { apportion, costRates, costShare, layCosts, overlapping } from './index.ts';

const zone = 'Europe/Berlin';
const itself = (name: string) => name;
const cost = (more: Partial<Cost>): Cost => ({
  id: 'cst_a',
  of: { kind: 'source', source: 'flyer' },
  per: 'all',
  amount: '310',
  currency: 'EUR',
  from: '2026-10-14',
  note: '',
  ...more,
});

describe('a cost as a record', () => {
  it.each([
    [{ amount: '-310' }, 'amount', /without a sign/],
    [{ amount: '0.00' }, 'amount', /more than nothing/],
    [{ amount: '3,10' }, 'amount', /such as 310 or 0\.045/],
    [{ from: '2026-10-16', until: '2026-10-14' }, 'until', /before its first/],
    [{ from: '2026-02-31' }, 'from', /no such day/],
    [{ per: 'share' as const, amount: '120' }, 'amount', /at most 100/],
    [{ of: { kind: 'source' as const, source: '' } }, 'of.source', /has a name/],
    [{ of: { kind: 'source' as const, source: 'no way' } }, 'of.source', /letters and digits/],
  ])('is refused in words where it is %j', (more, path, words) => {
    const checked = checkRecord('cost', cost(more));
    expect(checked).toMatchObject({ ok: false, problems: [{ path, message: expect.stringMatching(words) }] });
  });
  it('is taken as it is where nothing is wrong', () => {
    const whole = cost({ until: '2026-10-14', billsAll: true, per: 'thousand', row: 'r1' });
    expect(checkRecord('cost', whole)).toEqual({ ok: true, value: whole });
  });
});

describe('amounts in one currency', () => {
  const rates = costRates(
    [
      { id: 'rat_a', from: 'USD', to: 'EUR', day: '2026-10-01', rate: '0.9231', source: 'my bank' },
      { id: 'rat_b', from: 'USD', to: 'EUR', day: '2026-10-15', rate: '0.9', source: 'my bank' },
    ],
    'EUR',
  );
  it('go by the newest rate up to their day, exactly, and by no other', () => {
    expect(rates.parts('310', 'EUR', '2026-01-01')).toBe(310e9);
    expect(rates.parts('0.015', 'USD', '2026-10-14')).toBe(13_846_500);
    expect(rates.parts('0.015', 'USD', '2026-10-15')).toBe(13_500_000);
    expect(rates.parts('1', 'USD', '2026-09-30')).toBeUndefined();
    expect(rates.parts('1', 'USD', '2026-09-12')).toBeUndefined();
    expect(rates.parts('1', 'JPY', '2026-10-15')).toBeUndefined();
  });
});

describe('rounded parts', () => {
  it('add up to their rounded sum, and none is a whole one away from its own', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1 }), (numbers) => {
        const whole = apportion(numbers);
        expect(whole.every(Number.isInteger)).toBe(true);
        expect(whole.reduce((a, b) => a + b, 0)).toBe(Math.round(numbers.reduce((a, b) => a + b, 0)) + 0);
        for (const [i, number] of numbers.entries())
          expect(Math.abs((whole[i] ?? NaN) - number)).toBeLessThanOrEqual(1);
      }),
    );
    expect(apportion([33.4, 33.3, 33.3])).toEqual([34, 33, 33]);
  });
});

/** Hops of a day each at noon, of sources, some with a query. */
const laidOn = (
  hops: readonly (readonly [source: string, day: string, query?: string, ua?: string])[],
  costs: readonly Cost[],
  passes?: Passes,
) => {
  const { columns, classification } = classified(
    hops.map(([source, day, query = '', ua = 'Mozilla/5.0 (X11; Linux x86_64)'], i) => {
      const at = Date.parse(`${day}T10:00:00Z`) + i * 3_600_000 * 0.01;
      return hopRecord({
        ...{ seq: i + 1, at, source, query, ua, link: 'lnk_a' },
        click: clickId(at, new Uint8Array(10).fill(i)),
        visitor: String(i).padStart(16, '0'),
      });
    }),
  );
  const rates = costRates([], 'EUR');
  const passesOf = () => passes;
  const input = { columns, links: [], sourceOf: itself, passesOf, zone, kindsIn: () => [] };
  const laid = layCosts({
    ...{ columns, classification, costs, rates, zone, sourceOf: itself },
    rolledUp: [],
    today: '2026-10-31',
    placement: requestDimensions.placement(input),
    promotion: undefined,
    passed: passedCosts(columns, passesOf),
  });
  const rows = hops.map((_, i) => (laid.rows[0]?.[i] ?? 0) / 1e9);
  return { ...laid, rows };
};

describe('a cost on the visits it paid for', () => {
  const visits = [
    ['flyer', '2026-10-13'],
    ['flyer', '2026-10-14'],
    ['flyer', '2026-10-14', '', 'Examplebot/1.0 (+https://robot.example)'],
    ['video', '2026-10-15'],
    ['flyer', '2026-10-16'],
    ['flyer', '2026-10-20'],
  ] as const;
  it('is spread over counted visits of its days, and goes on where it has no last one', () => {
    expect(laidOn(visits, [cost({ until: '2026-10-16' })]).rows).toEqual([0, 155, 0, 0, 155, 0]);
    const open = laidOn(visits, [cost({ amount: '100' })]).rows;
    expect(open.map((units) => Math.round(units * 100))).toEqual([0, 3333, 0, 0, 3333, 3333]);
    expect(open.reduce((a, b) => a + b)).toBeCloseTo(100, 12);
  });
  it('of a day is that day’s visits’, and stands by itself where nobody came', () => {
    const { rows, alone } = laidOn(visits, [cost({ per: 'day', amount: '5', until: '2026-10-16' })]);
    expect(rows).toEqual([0, 5, 0, 0, 5, 0]);
    expect(alone).toMatchObject([{ day: '2026-10-15', parts: 5e9 }]);
  });
  it('by clicks is what the seller bills, and the other number is told beside it', () => {
    const counted = laidOn(visits, [cost({ per: 'click', amount: '0.5' })]);
    expect(counted.rows).toEqual([0, 0.5, 0, 0, 0.5, 0.5]);
    expect(counted.of).toMatchObject([{ visits: 3, requests: 4, parts: 1.5e9, otherwise: 2e9 }]);
    const all = laidOn(visits, [cost({ per: 'thousand', amount: '500', billsAll: true })]);
    expect(all.rows).toEqual([0, 0.5, 0.5, 0, 0.5, 0.5]);
    expect(all.of).toMatchObject([{ visits: 3, requests: 4, parts: 2e9, otherwise: 1.5e9 }]);
  });
  it('of days that are yet to come is nothing, and one without a visit stands by itself', () => {
    expect(laidOn(visits, [cost({ from: '2026-11-01' })])).toMatchObject({ of: [], alone: [] });
    const { alone } = laidOn(visits, [cost({ of: { kind: 'source', source: 'nobody' } })]);
    expect(alone).toMatchObject([{ day: '2026-10-14', parts: 310e9 }]);
  });
  it('of a placement is that of its visits only, as its seller passes them along', () => {
    const placed = [
      ['flyer', '2026-10-14', 'zone=top'],
      ['flyer', '2026-10-14', 'zone=foot'],
      ['flyer', '2026-10-15', 'zone=top'],
    ] as const;
    const of = { kind: 'placement', source: 'flyer', placement: 'top' } as const;
    expect(laidOn(placed, [cost({ of, amount: '8' })], { placement: 'zone' }).rows).toEqual([4, 0, 4]);
  });
  it('comes on top of what its seller passes along, machines and repeats too; what cannot be read is counted', () => {
    const passed = [
      ['flyer', '2026-10-14', 'cpc=0.045'],
      ['flyer', '2026-10-14', 'cpc=0.1', 'Examplebot/1.0 (+https://robot.example)'],
      ['flyer', '2026-10-15', 'cpc=dear'],
    ] as const;
    const passes = { cost: { parameter: 'cpc', currency: 'EUR' } };
    const laid = laidOn(passed, [cost({ amount: '2' })], passes);
    expect(laid.rows.map((units) => Math.round(units * 1000))).toEqual([1045, 100, 1000]);
    expect(laid.unread).toBe(1);
    const dollars = laidOn(passed, [], { cost: { parameter: 'cpc', currency: 'USD' } });
    expect(dollars.rows).toEqual([0, 0, 0]);
    expect(dollars.unpriced).toEqual([{ source: 'flyer', currency: 'USD', day: '2026-10-14' }]);
  });
});

describe('shares of commission, and costs over each other', () => {
  it('are the seller’s in their days, and never more than all of it', () => {
    const share = costShare(
      [
        cost({ per: 'share', amount: '30', until: '2026-10-20' }),
        cost({ per: 'share', amount: '90', of: { kind: 'link', link: 'lnk_a' } }),
        cost({ per: 'share', amount: '7', of: { kind: 'placement', source: 'video', placement: 'top' } }),
        cost({ amount: '50' }),
      ],
      itself,
    );
    const by = (source: string, day: string, link = '', placement = '') =>
      share({ source, day, link, placement, promotions: [] });
    expect(by('flyer', '2026-10-13')).toBe(0);
    expect(by('flyer', '2026-10-20')).toBe(0.3);
    expect(by('flyer', '2026-10-21')).toBe(0);
    expect(by('flyer', '2026-10-20', 'lnk_a')).toBe(1);
    expect(by('video', '2026-10-20', '', 'top')).toBe(0.07);
    expect(by('video', '2026-10-20', '', 'foot')).toBe(0);
  });
  it('are told with the days they share', () => {
    const list = [
      cost({ id: 'cst_a', until: '2026-10-16' }),
      cost({ id: 'cst_b', from: '2026-10-16', per: 'day' }),
      cost({ id: 'cst_c', from: '2026-10-17' }),
      cost({ id: 'cst_d', of: { kind: 'source', source: 'video' } }),
      cost({ id: 'cst_e', of: { kind: 'placement', source: 'flyer', placement: 'top' } }),
    ];
    expect(overlapping(list, itself).map(({ one, other, ...days }) => [one.id, other.id, days])).toEqual([
      ['cst_a', 'cst_b', { from: '2026-10-16', until: '2026-10-16' }],
      ['cst_b', 'cst_c', { from: '2026-10-17' }],
    ]);
  });
});
