import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { keyPath } from '../server/adminKey.ts';
import { readConfig } from '../server/config.ts';
import { fail, run, stopOnSignal } from '../server/run.ts';
import { fillSeason } from './fill.ts';
import { kinds } from '../standins/index.ts';

const usage = 'Usage: npm run demo [-- --port 4600] [--fresh] [--requests 60000]';

const main = async (): Promise<void> => {
  const { values } = parseArgs({
    options: {
      port: { type: 'string' },
      fresh: { type: 'boolean' },
      requests: { type: 'string', default: '60000' },
    },
    strict: true,
  });
  const config = readConfig({
    // Visitors who are let loose on it say where they are, as a proxy on this machine would.
    TRUST_PROXY: '127.0.0.1',
    GEO_HEADER: 'X-Country',
    ...process.env,
    STANDINS: '1',
    ...(values.port === undefined ? {} : { PORT: values.port }),
  });
  const requests = Number(values.requests);
  if (!Number.isInteger(requests) || requests < 1000 || requests > 2_000_000)
    throw new Error(`--requests is a number from 1000 to 2000000. ${usage}`);
  if (values.fresh === true) rmSync(config.dataDir, { recursive: true, force: true });

  if (!existsSync(join(config.dataDir, 'changes.ndjson'))) {
    process.stdout.write('Filling in ninety days of Nightledge …\n');
    await fillSeason(config, requests);
  }
  const running = await run(config);
  stopOnSignal(running);
  process.stdout.write(
    [
      '',
      process.stdout.isTTY
        ? `Fernhop          ${config.appOrigin}/#key=${running.fernhop.key.value}`
        : `Fernhop          ${config.appOrigin}/   (its key is in ${keyPath(config.dataDir)}; npm run key shows it)`,
      ...kinds.map(
        ({ name, host, isOwnShop }) =>
          `${name.padEnd(16)} http://${host}:${config.port + 1}${isOwnShop ? '/links' : '/'}   (tracking links to copy; its console is at /console)`,
      ),
      `A page           http://nightledge.localhost:${config.port + 1}/   (with the script that places links while it is read)`,
      `Visitors         http://visitors.localhost:${config.port + 1}/   (as many as wanted, let loose on any link)`,
      `A shop           http://polehouse.localhost:${config.port + 1}/`,
      `Reports          ${join(config.dataDir, 'reports')}   (those of this month wait to be imported)`,
      `Articles         ${join(config.dataDir, 'articles')}   (to be opened in Place; truth.json tells what is planted in them)`,
      '',
      'Ctrl+C ends it. The data stays in ' + config.dataDir + '; -- --fresh begins anew.',
      '',
    ].join('\n'),
  );
};

main().catch((error: unknown) => {
  if (error instanceof Error && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS'))
    fail(new Error(`${error.message.split('. ')[0] ?? ''}. ${usage}`));
  fail(error);
});
