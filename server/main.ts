import pino from 'pino';
import { startStandins } from '../standins/index.ts';
import { readConfig } from './config.ts';
import { makeFernhop } from './fernhop.ts';

const fail = (error: unknown): never => {
  console.error(`fernhop: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
};

const listen = (server: import('node:http').Server, port: number, host: string): Promise<void> =>
  new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(
        new Error(
          error.code === 'EADDRINUSE'
            ? `port ${port} is taken. Stop what uses it, or set PORT to another.`
            : `cannot listen on ${host}:${port}: ${error.message}`,
        ),
      ),
    );
    server.listen(port, host, resolve);
  });

const main = async (): Promise<void> => {
  const config = readConfig(process.env);
  const logger = pino({ base: null }, pino.destination({ dest: 2, sync: true }));
  const log = (message: string, detail: object) => logger.info(detail, message);
  const fernhop = await makeFernhop(config, log);
  try {
    await listen(fernhop.server, config.port, config.host);
  } catch (error) {
    await fernhop.close();
    throw error;
  }
  const standins = config.standins
    ? await startStandins(config.port + 1, config.dataDir, config.host)
    : undefined;

  let stopping = false;
  const stop = (signal: string) => {
    if (stopping) return;
    stopping = true;
    log('stopping', { signal });
    Promise.all([fernhop.close(), standins?.close()]).then(
      () => process.exit(0),
      (error: unknown) => fail(error),
    );
  };
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
  log('listening', { port: config.port, links: fernhop.links });
  // The key goes to the person at the terminal, never to the log.
  process.stdout.write(`${config.appOrigin}/#key=${fernhop.key}\n`);
};

main().catch(fail);
