import { request } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { readJournal } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';

/** What a server needs to take this machine for a proxy that says where visitors are. */
export const behindProxy = { TRUST_PROXY: '127.0.0.1' } as const;

/** Opens a short link as a proxy on this machine passes it on, and gives the status of the answer. */
export const openAs = (
  server: Running,
  path: string,
  headers: Readonly<Record<string, string>>,
): Promise<number | undefined> =>
  new Promise((resolve, reject) => {
    request(
      {
        ...{ host: '127.0.0.1', port: server.port, path },
        headers: { Host: `see.nightledge.localhost:${server.port}`, ...headers },
      },
      (response) => {
        response.resume().on('end', () => resolve(response.statusCode));
      },
    )
      .on('error', reject)
      .end();
  });

/** Waits until so many requests stand in the journal, which writes many lines at a time. */
export const untilWritten = async (server: Running, requests: number): Promise<void> => {
  while ((await readJournal(server)).filter(({ kind }) => kind === 'hop').length < requests) await pause(100);
};
