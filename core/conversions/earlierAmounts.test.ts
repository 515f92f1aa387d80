import { describe, expect, it } from 'vitest';
import { knownNetworks } from '#core/link-parts';
import type { Network } from '#core/catalogue';
import type { ReportTable } from './index.ts';
import { amountsOf, foldReports, guessReport } from './index.ts';
import { octoberReport, reportRow } from './testing/rows.ts';

const [known] = knownNetworks;
if (!known) throw new Error('networks ship');
const { report: _, ...network }: Network = {
  ...known,
  id: 'net_h',
  zone: 'UTC',
  currency: 'EUR',
  postback: { ...known.postback, statuses: {}, key: 'k', pixelKey: 'p' },
};
const now = Date.UTC(2026, 10, 27);
const sales = [
  ['A1', '100,00', '3,00'],
  ['A2', '40,50', '1,22'],
  ['A3', '20,00', '0,60'],
  ['A4', '250,00', '7,50'],
] as const;
const table = (header: string, rows: readonly (readonly string[])[] = sales): ReportTable => ({
  header: [...header.split(';'), 'Date'],
  rows: rows.map((row) => [...row, '13.10.2026']),
  lines: rows.map((_, i) => i + 2),
});
const before = [
  reportRow('A1', '2026-10-13', 300),
  reportRow('A2', '2026-10-13', 122),
  reportRow('A3', '2026-10-13', 60),
  reportRow('A4', '2026-10-13', 750),
  reportRow('A5', '2026-10-13', 1),
];
const earlier = amountsOf(foldReports([octoberReport(1, before)]).values(), 'net_h');
const guess = (of: ReportTable, more: Partial<Network> = {}, before = earlier) => {
  const { profile, asks, candidates, why } = guessReport(of, { ...network, ...more }, {}, now, before);
  return {
    amount: of.header.find((name) => profile.columns[name] === 'amount'),
    asks,
    candidates: candidates.amount,
    why,
  };
};

describe('what earlier reports have for the same sales', () => {
  it('tells which of two columns is the commission', () => {
    const of = table('Order ID;Value;Amount');
    expect(guess(of, {}, new Map())).toMatchObject({ asks: ['amount'], candidates: ['Value', 'Amount'] });
    expect(guess(of)).toMatchObject({
      amount: 'Amount',
      asks: [],
      why: { Amount: 'as earlier reports have it' },
    });
  });

  it('leaves it open where another column is called so', () => {
    const of = table('Order ID;Commission;Amount');
    expect(guess(of, {}, new Map())).toMatchObject({ amount: 'Commission', asks: [] });
    expect(guess(of)).toMatchObject({ asks: ['amount'], candidates: ['Commission', 'Amount'] });
  });

  it('leaves it open where another column was the commission by then', () => {
    const of = table('Order ID;Value;Amount');
    const { profile } = guessReport(of, network, { amount: 'Value' }, now);
    expect(guess(of, { report: profile }, new Map())).toMatchObject({ amount: 'Value', asks: [] });
    expect(guess(of, { report: profile }).asks).toEqual(['amount']);
  });

  it('tells nothing by fewer than three sales, by sales that are worth the same, or by orders of several rows', () => {
    for (const rows of [
      sales.slice(0, 2),
      [1, 2, 3, 4].map((n) => [`A${n}`, '100,00', '3,00'] as const),
      [...sales, ...sales].map(
        ([txn, value, amount], i) => [txn, value, amount.replace(',', `,${i % 9}`).slice(0, 4)] as const,
      ),
    ])
      expect(guess(table('Order ID;Value;Amount', rows)).asks).toContain('amount');
  });
});
