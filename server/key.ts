import { existsSync, readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { keyPath, writeNewKey } from './adminKey.ts';
import { readConfig } from './config.ts';
import { fail } from './run.ts';

const usage = 'Usage: npm run key [-- --data DIR] [--renew]';

/** Shows the key of a data folder with the address that takes it, or makes a new one, which counts at once. */
const main = (): void => {
  const { values } = parseArgs({
    options: { data: { type: 'string' }, renew: { type: 'boolean' } },
    strict: true,
  });
  const config = readConfig({
    ...process.env,
    ...(values.data === undefined ? {} : { DATA_DIR: values.data }),
  });
  if (config.key !== undefined)
    throw new Error('The key is the one given as FERNHOP_KEY. Change it there and start the server anew.');
  if (!existsSync(keyPath(config.dataDir)))
    throw new Error(
      `There is no key in ${config.dataDir} yet: the server makes one at its first start. ${usage}`,
    );
  const key =
    values.renew === true
      ? writeNewKey(config.dataDir)
      : readFileSync(keyPath(config.dataDir), 'utf8').trim();
  process.stdout.write(`${config.appOrigin}/#key=${key}\n`);
};

try {
  main();
} catch (error) {
  fail(error);
}
