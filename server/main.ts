import { keyPath } from './adminKey.ts';
import { readConfig } from './config.ts';
import { fail, run, stopOnSignal } from './run.ts';

const main = async (): Promise<void> => {
  const config = readConfig(process.env);
  const running = await run(config);
  stopOnSignal(running);
  const { key } = running.fernhop;
  // The key goes to a person at a terminal, and never into a file of output that others may read.
  const where = key.isGiven
    ? 'its key is the one given as FERNHOP_KEY'
    : `its key is in ${keyPath(config.dataDir)}; npm run key shows it`;
  process.stdout.write(
    process.stdout.isTTY ? `${config.appOrigin}/#key=${key.value}\n` : `${config.appOrigin}/ (${where})\n`,
  );
};

main().catch(fail);
