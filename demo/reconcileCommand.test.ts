import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { exponentOf } from '#core/values';
import { readConfig } from '../server/config.ts';
import { reconcileMonth } from '../server/commands/balanceTable.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { fillSeason } from './fill.ts';
import type { Season } from './season/index.ts';

const data = freshFolder();
const now = Date.UTC(2026, 10, 23, 15);
const month = (back: number) => {
  const at = new Date(now);
  return new Date(Date.UTC(at.getUTCFullYear(), at.getUTCMonth() - back, 1)).toISOString().slice(0, 7);
};

describe('the reconcile command on a demo', () => {
  let truth: Season['truth'];
  beforeAll(async () => {
    const port = await freePort();
    await fillSeason(readConfig({ DATA_DIR: data, PORT: String(port) }), 10_000, now);
    truth = JSON.parse(readFileSync(join(data, 'truth.json'), 'utf8'));
  }, 120_000);

  it('gives the true totals of the month that is over, and says what waits', async () => {
    for (const network of ['net_harrowmead', 'net_kelvane', 'net_osprenet', 'net_vennor']) {
      const balance = await reconcileMonth({ data, network, month: month(1), now });
      const totals = truth.totals.filter((total) => total.network === network && total.month === month(1));
      expect(totals.length).toBeGreaterThan(1);
      for (const { currency, ours, theirs } of totals) {
        const line = balance.lines.find(
          ({ what }) => what === (currency === '' ? 'conversions' : `commission ${currency}`),
        );
        const write = (value: number) =>
          currency === ''
            ? String(value)
            : (value / 10 ** exponentOf(currency)).toFixed(exponentOf(currency));
        expect([network, currency, line?.ours, line?.theirs]).toEqual([
          network,
          currency,
          write(ours),
          write(theirs),
        ]);
      }
    }
    const { toSettle } = await reconcileMonth({ data, network: 'Harrowmead', month: month(1), now });
    expect(toSettle.map(({ kind }) => kind)).toContain('cut short');
  });

  it('takes a report along that was not imported, and keeps nothing of it', async () => {
    const of = { data, network: 'net_kelvane', month: month(0), now };
    const before = await reconcileMonth(of);
    expect(before.lines.find(({ what }) => what === 'conversions')?.theirs).toBe('not reported');
    const report = join(data, 'reports', `kelvane-leads-${month(0)}.csv`);
    const total = truth.totals.find(
      (one) => one.network === 'net_kelvane' && one.month === month(0) && one.currency === '',
    );
    const taken = await reconcileMonth({ ...of, report });
    expect(taken.lines.find(({ what }) => what === 'conversions')?.theirs).toBe(String(total?.theirs));
    expect(await reconcileMonth(of)).toEqual(before);
  });

  it('says in one line what is missing', async () => {
    const of = { data, network: 'net_kelvane', month: month(0), now };
    await expect(reconcileMonth({ ...of, data: '/nowhere' })).rejects.toThrow('data folder');
    await expect(reconcileMonth({ ...of, network: 'Nobody' })).rejects.toThrow('Known are');
    await expect(reconcileMonth({ ...of, report: '/nowhere.csv' })).rejects.toThrow('cannot be read');
  });
});
