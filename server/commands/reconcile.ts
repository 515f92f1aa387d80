import { parseArgs } from 'node:util';
import { balanceTable, reconcileMonth } from './balanceTable.ts';
import { endWith } from './ending.ts';

const usage =
  'Usage: npm run reconcile -- --data DIR --network ID --month 2026-10 [--report FILE] [--json]. Exit 1: something waits to be settled.';

const main = async (): Promise<number> => {
  const { values } = parseArgs({
    options: {
      data: { type: 'string', default: './data' },
      network: { type: 'string' },
      month: { type: 'string' },
      report: { type: 'string' },
      json: { type: 'boolean', default: false },
    },
    strict: true,
  });
  const { network, month } = values;
  if (network === undefined || month === undefined || !/^\d{4}-(?:0[1-9]|1[0-2])$/.test(month))
    throw new Error(`--network and --month, such as 2026-10, are needed. ${usage}`);
  const balance = await reconcileMonth({ ...values, network, month, now: Date.now() });
  process.stdout.write(values.json ? `${JSON.stringify(balance, undefined, 2)}\n` : balanceTable(balance));
  return balance.toSettle.length > 0 ? 1 : 0;
};

endWith(main(), usage);
