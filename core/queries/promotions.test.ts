import { describe, expect, it } from 'vitest';
import type { Cost, Promotion } from '#core/catalogue';
import { answersFrom, Dataset } from './index.ts';
import { seasonOf } from './testing/seasons.ts';
import { domain, links, networks, programs } from './testing/worlds.ts';

const now = Date.UTC(2026, 11, 20, 12);
const promotion = (id: string, from: string, more: Partial<Promotion>): Promotion => ({
  ...{ id, name: id, from, note: '', takes: [{ kind: 'sources', begins: 'oct-' }] },
  ...more,
});
/** Three efforts: one before, and two that lie over each other in four days and one source. */
const efforts = [
  promotion('prm_sep', '2026-09-01', { until: '2026-09-30', takes: [{ kind: 'source', source: 'letter' }] }),
  promotion('prm_oct', '2026-10-10', { until: '2026-10-18' }),
  promotion('prm_late', '2026-10-15', { takes: [{ kind: 'source', source: 'oct-b' }] }),
  promotion('prm_next', '2027-01-01', {}),
];
const cost = (id: string, of: Cost['of'], amount: string, more: Partial<Cost> = {}): Cost => ({
  ...{ id, of, per: 'all', amount, currency: 'EUR', from: '2026-10-10', note: '' },
  ...more,
});
const costs = [
  cost('cst_oct', { kind: 'promotion', promotion: 'prm_oct' }, '300', { until: '2026-10-18' }),
  cost('cst_b', { kind: 'source', source: 'oct-b' }, '0.10', { per: 'click' }),
  // A flyer of which nobody came.
  cost('cst_c', { kind: 'source', source: 'oct-c' }, '40', { from: '2026-10-12', until: '2026-10-12' }),
];
const dataset = (at = now): Dataset => {
  const data = new Dataset();
  data.setRecords({ domains: [domain], networks, programs, links, costs, promotions: efforts });
  data.add(
    seasonOf(at, [
      { source: 'letter', day: '2026-09-10', visits: 400, sales: 20 },
      { source: 'letter', day: '2026-10-12', visits: 100, sales: 5 },
      { source: 'oct-a', day: '2026-10-12', visits: 300, sales: 12, after: [0, 2, 5, 9] },
      { source: 'oct-b', day: '2026-10-13', visits: 200, sales: 10, after: [0, 2, 5, 9] },
      { source: 'oct-b', day: '2026-10-16', visits: 120, sales: 6, after: [0, 2, 5, 9] },
      { source: 'oct-b', day: '2026-10-19', visits: 80, sales: 4, after: [0, 2, 5, 9] },
    ]),
  );
  return data;
};
const asked = { currency: 'EUR', now };

describe('a promotion', () => {
  it('has the visits of its sources on its days, what they cost and brought, and says what another has too', () => {
    const page = answersFrom(dataset()).promotionPage({ id: 'prm_oct', ...asked });
    expect(page).toMatchObject({ from: '2026-10-10', to: '2026-10-18' });
    // By hand: 300 of one source, 200 and 120 of the other, whose clicks cost ten cents each; 300 for all; 40 for nobody.
    expect(page?.whole).toMatchObject({ visitors: 620, conversions: 28, approved: 28_000 });
    expect(page?.whole.cost).toBe(30_000 + 320 * 10 + 4000);
    expect(page?.whole.profit).toBe(28_000 - 37_200);
    expect(page?.overlaps).toEqual([{ other: 'prm_late', visits: 120, conversions: 6 }]);
    expect(
      page?.parts.source.map(({ value, visitors, cost: paid }) => [value, visitors, paid]).toSorted(),
    ).toEqual([
      ['oct-a', 300, Math.round((30_000 * 300) / 620)],
      ['oct-b', 320, Math.round((30_000 * 320) / 620) + 3200],
      ['oct-c', 0, 4000],
    ]);
    expect(page?.before).toMatchObject({ id: 'prm_sep', whole: { visitors: 400, conversions: 20 } });
    expect(page?.toCome?.conversions).toBeCloseTo(0, 6);
  });

  it('counts no conversion twice in a sum of all, whatever lies over each other', () => {
    const data = dataset();
    const { lines, whole } = answersFrom(data).whatPays({
      ...{ by: 'promotion', from: '2026-09-01', to: '2026-12-20', where: [] },
      ...asked,
    });
    const sums = Object.fromEntries(lines.map(({ value, conversions }) => [value, conversions]));
    expect(sums).toEqual({
      '': 5,
      prm_sep: 20,
      prm_oct: 22,
      'prm_oct prm_late': 6,
      prm_late: 4,
    });
    expect(whole.conversions).toBe(57);
    expect(lines.reduce((sum, { cost: paid }) => sum + paid, 0)).toBe(whole.cost);
    const all = answersFrom(data).promotions(asked);
    expect(all.map(({ id, whole: of }) => [id, of.conversions])).toEqual([
      ['prm_late', 10],
      ['prm_oct', 28],
      ['prm_sep', 20],
    ]);
  });

  it('says what is still to come while it is young, and nothing before it began', () => {
    const at = Date.UTC(2026, 9, 17, 12);
    const { toCome, to, whole } = answersFrom(dataset(at)).promotionPage({
      ...{ id: 'prm_oct', currency: 'EUR', now: at },
    }) ?? { whole: undefined };
    expect(to).toBe('2026-10-17');
    const seen = whole?.evidence;
    if (!seen || !toCome) throw new Error('nothing is known of it');
    expect(seen.ripe).toBeGreaterThan(0);
    expect(seen.ripe).toBeLessThan(620);
    expect(toCome.conversions).toBeCloseTo((seen.conversions * (620 - seen.ripe)) / seen.ripe, 9);
    expect(toCome.minor).toBeCloseTo(toCome.conversions * 1000, 6);
    expect(answersFrom(dataset()).promotionPage({ id: 'prm_next', ...asked })).toBeUndefined();
    expect(answersFrom(dataset()).promotionPage({ id: 'prm_gone', ...asked })).toBeUndefined();
  });
});
