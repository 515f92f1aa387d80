import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { answersFrom } from '#core/queries';
import type { Description } from './testing/describedKind.ts';
import { describedKind } from './testing/describedKind.ts';
import { drawnNetwork } from './testing/drawnNetworks.ts';
import { goTheWay } from './testing/wayToSale.ts';

const folder = join(import.meta.dirname, 'testing/networks');
const byHand: Description[] = readdirSync(folder).map((name) =>
  JSON.parse(readFileSync(join(folder, name), 'utf8')),
);
const drawn = fc.sample(drawnNetwork, { seed: 40, numRuns: 40 });

/** The sale of a way: its click found, its state and sum the network's, and nothing between the two sides. */
const expectReconciled = ({ data, network, click, sale }: Awaited<ReturnType<typeof goTheWay>>) => {
  const ask = answersFrom(data);
  const [conversion, ...more] = ask.journey(click)?.conversions ?? [];
  expect(more).toEqual([]);
  expect(conversion?.conversion).toMatchObject({
    txn: sale.order,
    status: 'approved',
    amount: sale.commission.minor,
    currency: sale.commission.currency,
  });
  const [month = ''] = ask.months(network.id);
  const balance = ask.balance({ network: network.id, month });
  expect(balance.conversions).toMatchObject({ ours: 1, theirs: 1, unexplained: 0, reported: true });
  expect(balance.commission).toMatchObject([
    {
      currency: sale.commission.currency,
      bridge: { ours: sale.commission.minor, theirs: sale.commission.minor, unexplained: 0, pieces: [] },
    },
  ]);
};

describe('a network that a file describes', () => {
  it.each(byHand.map((description) => [description.name, description] as const))(
    '%s: from copied links to a sale that is matched, approved and reconciled',
    async (_name, description) => expectReconciled(await goTheWay(description)),
  );

  it('and forty drawn by chance: the same, and nothing read wrong without asking', async () => {
    const sum = { parts: 0, placeholders: 0, words: 0, columns: 0, deepLinks: 0 };
    for (const description of drawn) {
      const way = await goTheWay(description);
      expectReconciled(way);
      sum.deepLinks += way.deepLinks;
      for (const key of ['parts', 'placeholders', 'words', 'columns'] as const) sum[key] += way.said[key];
    }
    process.stdout.write(
      `40 networks: said by the person ${sum.parts} parts, ${sum.placeholders} placeholders, ${sum.words} words for a state, ${sum.columns} columns; ${sum.deepLinks} of 80 deep links made, the rest asked about\n`,
    );
    expect(sum.deepLinks).toBeGreaterThan(40);
  });

  it('says what of its file is wrong', () => {
    const [first] = byHand;
    expect(() => describedKind({ ...first, host: 'go.real.com' })).toThrow('host');
    expect(() => describedKind({ ...first, speaks: 'loudly' })).toThrow('speaks');
  });
});
