import type { Server } from 'node:http';
import pino from 'pino';
import type { Standins } from '../standins/index.ts';
import { startStandins } from '../standins/index.ts';
import type { Config } from './config.ts';
import type { Fernhop } from './fernhop.ts';
import { makeFernhop } from './fernhop.ts';
import { trustsThisMachine } from './http/peer.ts';

export interface Run {
  readonly fernhop: Fernhop;
  readonly standins: Standins | undefined;
  /** Ends everything and lets the data folder go. */
  stop(): Promise<void>;
}

const listen = (server: Server, port: number, host: string): Promise<void> =>
  new Promise((resolve, reject) => {
    server.once('error', (error: NodeJS.ErrnoException) =>
      reject(
        new Error(
          error.code === 'EADDRINUSE'
            ? `port ${port} is taken. Stop what uses it, or choose another port.`
            : `cannot listen on ${host}:${port}: ${error.message}`,
        ),
      ),
    );
    server.listen(port, host, resolve);
  });

/**
 * Starts the server, and the stand-ins where they are wanted.
 *
 * @param now the clock; milliseconds since 1970 UTC
 * @throws Error with one clear line when a port or the data folder is taken
 */
export const run = async (config: Config, now: () => number = Date.now): Promise<Run> => {
  const logger = pino({ base: null }, pino.destination({ dest: 2, sync: true }));
  const log = (message: string, detail: object) => logger.info(detail, message);
  const fernhop = await makeFernhop(config, log, now);
  let standins: Standins | undefined;
  try {
    await listen(fernhop.server, config.port, config.host);
    if (config.standins) {
      const believed = trustsThisMachine(config.trustProxy)
        ? { countryHeader: config.geoHeader ?? '' }
        : undefined;
      standins = await startStandins(config.port + 1, config.dataDir, config.host, now, undefined, believed);
    }
  } catch (error) {
    await fernhop.close();
    throw error;
  }
  log('listening', { port: config.port, links: fernhop.links });
  return {
    fernhop,
    standins,
    stop: async () => {
      await Promise.all([fernhop.close(), standins?.close()]);
    },
  };
};

/** Stops a run on Ctrl+C and on a polite end, once, and then ends the process. */
export const stopOnSignal = (running: Run): void => {
  let stopping = false;
  const stop = () => {
    if (stopping) return;
    stopping = true;
    running.stop().then(
      () => process.exit(0),
      (error: unknown) => fail(error),
    );
  };
  process.on('SIGTERM', stop);
  process.on('SIGINT', stop);
};

/** Ends the process with one line. */
export const fail = (error: unknown): never => {
  console.error(`fernhop: ${error instanceof Error ? error.message : String(error)}`);
  process.exit(1);
};
