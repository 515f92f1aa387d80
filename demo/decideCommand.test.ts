import { beforeAll, describe, expect, it } from 'vitest';
import type { Cost, Rate } from '#core/catalogue';
import { changeOf, sendChanges } from '../server/client.ts';
import { decideTable, decisionsOf, saysCut } from '../server/commands/decideTable.ts';
import { trafficOf } from '../server/commands/trafficTable.ts';
import { readConfig } from '../server/config.ts';
import { run } from '../server/run.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { fillSeason } from './fill.ts';
import { costsOf } from './season/costs.ts';

const now = Date.UTC(2026, 10, 23, 15);
const data = freshFolder();
const rate = (from: string, text: string): Rate => ({
  id: `rat_${from.toLowerCase()}`,
  ...{ from, to: 'EUR', day: '2026-08-01', rate: text, source: 'my bank' },
});
const cost = (source: string, amount: string, more: Partial<Cost> = {}): Cost => ({
  id: `cst_${source.replaceAll('-', '')}${amount.replace('.', 'p')}`,
  of: { kind: 'source', source },
  ...{ per: 'all', amount, currency: 'EUR', from: '2026-08-25', note: '' },
  ...more,
});

describe('the decide command on a demo', () => {
  let config: ReturnType<typeof readConfig>;
  const save = async (changes: Parameters<typeof sendChanges>[1]) => {
    const running = await run({ ...config, standins: false }, () => now);
    const { refused } = await sendChanges({ port: config.port, key: running.fernhop.key.value }, changes);
    await running.stop();
    expect(refused).toEqual([]);
  };
  const asked = (more: Partial<Parameters<typeof decisionsOf>[0]> = {}) =>
    decisionsOf({ data, by: 'source', where: [], now, ...more });
  beforeAll(async () => {
    config = readConfig({ DATA_DIR: data, PORT: String(await freePort()) });
    await fillSeason(config, 20_000, now);
    // Its own costs and rates go: what is laid here is written here.
    const { costs, rates } = costsOf(Date.UTC(2026, 10, 23), 90, 20_000);
    await save([
      ...costs.map((one) => ({ ...changeOf('cost', one, 2), value: null })),
      ...rates.map((one) => ({ ...changeOf('rate', one, 2), value: null })),
    ]);
  });

  it('says nothing is known of what was earned in currencies without a rate', async () => {
    const { question, pays } = await asked();
    const table = decideTable(question, pays);
    expect(table).toMatch(/^newsletter .* \? .*no rate: part of its money/m);
    expect(table).toMatch(/^No rate of USD up to 2026-08-2\d is given/m);
    expect(saysCut(pays)).toBe(false);
  });

  it('lays costs on visits by whatever they are told apart by, and says what is to be done', async () => {
    await save([
      ...[rate('USD', '0.86'), rate('JPY', '0.0055'), rate('GBP', '1.14')].map((one) =>
        changeOf('rate', one),
      ),
      ...[
        cost('newsletter', '90'),
        cost('archive', '0.01', { per: 'click', currency: 'USD' }),
        cost('moon-guide', '4000'),
        cost('flyer', '3', { from: '2026-11-20' }),
        cost('nobody', '9.99'),
        cost('nobody', '5', { per: 'day', until: '2026-08-26' }),
      ].map((one) => changeOf('cost', one)),
    ]);
    const { question, pays } = await asked();
    const table = decideTable(question, pays);
    expect(table).toMatch(/^What visits of 2026-08-26 to 2026-11-23 cost and earned, by source, in EUR/);
    expect(table).toMatch(/^newsletter +\d[\d.]+ +\d+ +\d+ .*scale: at worst it earns 0\.\d{3} a visitor/m);
    expect(table).toMatch(/^moon-guide .* -[\d.]+ .*cut: at best it loses \d\.\d{3} a visitor/m);
    expect(table).toMatch(/^nobody +5\.00 +0 +0 +0\.00 +-5\.00 +no visitors: nobody came/m);
    expect(table).toMatch(/^1 pair of costs lies over each other/m);
    expect(table).not.toMatch(/No rate/);
    expect(saysCut(pays)).toBe(true);
    // What the visits of a row are is what traffic says they are.
    const { traffic } = await trafficOf({
      ...{ data, by: 'source', where: [], now, from: question.from, to: question.to },
    });
    for (const { value, visits, visitors } of pays.lines.filter((line) => line.visits > 0)) {
      const line = traffic.lines.find((one) => one.value === value);
      expect([value, line?.requests.counted, line?.visitors]).toEqual([value, visits, visitors]);
    }
    const archive = pays.lines.find(({ value }) => value === 'archive');
    expect(archive?.cost).toBe(Math.round((archive?.visits ?? 0) * 0.86));
    // The whole is the same whichever way it is taken apart, to the cent.
    for (const by of ['device', 'country', 'program', 'link', 'hour']) {
      const other = (await asked({ by })).pays;
      expect([by, other.whole.cost, other.whole.profit]).toEqual([by, pays.whole.cost, pays.whole.profit]);
      expect(other.lines.reduce((sum, line) => sum + line.cost, 0)).toBe(pays.whole.cost);
    }
    await expect(asked({ by: 'colour' })).rejects.toThrow('colour is nothing that visits are told apart by.');
    await expect(asked({ where: ['device'] })).rejects.toThrow('device is no condition.');
    // Phones and the others together cost what all did; each rounds its own sum.
    const [phones, others] = await Promise.all(
      ['device=phone', 'device!=phone'].map(
        async (where) => (await asked({ where: [where] })).pays.whole.cost,
      ),
    );
    expect(Math.abs((phones ?? 0) + (others ?? 0) - pays.whole.cost)).toBeLessThanOrEqual(1);
  });
});
