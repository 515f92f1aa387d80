import { readConfig } from './config.ts';
import { fail, run, stopOnSignal } from './run.ts';

const main = async (): Promise<void> => {
  const config = readConfig(process.env);
  const running = await run(config);
  stopOnSignal(running);
  // The key goes to the person at the terminal, never to the log.
  process.stdout.write(`${config.appOrigin}/#key=${running.fernhop.key}\n`);
};

main().catch(fail);
