import { existsSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { answerAsJson } from '#core/queries';
import { endWith } from './ending.ts';
import { questionArguments } from './question.ts';
import { requestsOf, trafficOf, trafficTable } from './trafficTable.ts';

const usage =
  'Usage: npm run traffic -- --data DIR --by source [--from 2026-10-24] [--to 2026-11-22] [--where device=phone] [--where source!=flyer] [--json] [--requests FILE.parquet|FILE.ndjson]. Several --where of one kind mean any of them.';

const main = async (): Promise<number> => {
  const { values } = parseArgs({
    options: {
      ...questionArguments,
      requests: { type: 'string' },
    },
    strict: true,
  });
  if (values.requests !== undefined) {
    if (existsSync(values.requests))
      throw new Error(`${values.requests} is there already. Name another file, or move it away.`);
    const file = await requestsOf({ ...values, now: Date.now() }, values.requests);
    writeFileSync(values.requests, file);
    process.stdout.write(`${values.requests} written, ${file.length} bytes\n`);
    return 0;
  }
  const { question, traffic } = await trafficOf({ ...values, now: Date.now() });
  process.stdout.write(
    values.json ? `${answerAsJson({ ...question, ...traffic }, 2)}\n` : trafficTable(question, traffic),
  );
  return 0;
};

endWith(main(), usage);
