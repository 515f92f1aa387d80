import type { ChildProcess } from 'node:child_process';
import { execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { changeOf, firstRecords, sendChanges } from '../server/client.ts';
import { freshFolder, freePort, nodeFlags, removeFolder, startProcess } from '../server/testing/process.ts';

/** The client has one address: within the usual limit all but the first of its hops would go unwritten. */
const outOfReach = { RECORDS_PER_MINUTE: '999999999' };

/** What a browser sends with a click. */
export const headers = {
  Host: 'see.nightledge.localhost',
  'User-Agent':
    'Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/141.0.0.0 Mobile Safari/537.36',
  Accept: 'text/html,application/xhtml+xml',
  'Accept-Language': 'en-GB,en;q=0.8',
  'Accept-Encoding': 'gzip, deflate, br',
  Referer: 'https://nightledge.example/',
};

/** A server to be measured. */
export interface Target {
  readonly name: string;
  readonly port: number;
  readonly pids: readonly number[];
  readonly paths: readonly string[];
  /** Ends it and resolves when it is gone. */
  readonly stop: () => Promise<unknown>;
}

/** Bytes a server holds after collecting its garbage; `memory.ts`, loaded before it, answers the signal. */
const memoryOf = (child: ChildProcess): Promise<number> =>
  new Promise((resolve) => {
    const hear = (text: string) => {
      const held = /held=(\d+)\n/.exec(text)?.[1];
      if (held === undefined) return;
      child.stdout?.off('data', hear);
      resolve(Number(held));
    };
    child.stdout?.on('data', hear);
    child.kill('SIGUSR2');
  });

const started = (child: ChildProcess): Promise<string> =>
  new Promise((resolve, reject) => {
    let out = '';
    child.stdout?.setEncoding('utf8').on('data', (text: string) => {
      out += text;
      const key = /#key=(\S+)\n/.exec(out)?.[1];
      if (key !== undefined) resolve(key);
    });
    child.once('exit', (code) => reject(new Error(`a target ended with ${String(code)}`)));
  });

const ended = (child: ChildProcess, signal: NodeJS.Signals): Promise<unknown> => {
  const gone = once(child, 'exit');
  child.kill(signal);
  return gone;
};

const targetFile = join(import.meta.dirname, 'benchTarget.js');

/** A `node:http` server that answers a constant 307. */
export const bare = async (): Promise<Target> => {
  const port = await freePort();
  const child = spawn(process.execPath, [...nodeFlags, targetFile, 'bare', String(port)], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await started(child);
  return {
    name: 'bare node:http',
    port,
    pids: [child.pid ?? 0],
    paths: ['/saturn-kit'],
    stop: () => ended(child, 'SIGKILL'),
  };
};

/** Fills a server with links and gives the paths to ask for: a hundred of them, spread over all. */
const fill = async (place: { port: number; key: string }, count: number): Promise<string[]> => {
  const { domain, network, program, link } = firstRecords(place.port);
  await sendChanges(place, [
    changeOf('domain', domain),
    changeOf('network', network),
    changeOf('program', program),
  ]);
  const destination = (n: number) =>
    `https://t.harrowmead.example/r?by=nl-4471&deal=${n}&ref1={click}&ref2={source}&page=https%3A%2F%2Fpolehouse.example%2Fkits%2Fsaturn`;
  for (let from = 0; from < count; from += 1000)
    await sendChanges(
      place,
      Array.from({ length: Math.min(1000, count - from) }, (_, i) =>
        changeOf('link', {
          ...link,
          id: `lnk_n${from + i}`,
          slug: `link-${from + i}`,
          aliases: [],
          destination: destination(from + i),
        }),
      ),
    );
  const step = Math.max(1, Math.floor(count / 100));
  return Array.from({ length: Math.min(100, count) }, (_, i) => `/link-${i * step}`);
};

/**
 * Our server, filled with links and then started anew, as one that runs with what it holds: right after a hundred
 * thousand links were brought in, what a hop needs lies scattered among them in memory.
 */
export const ours = async (name: string, links: number): Promise<Target> => {
  const empty = await startProcess();
  const paths = await fill(empty, links);
  await empty.stop();
  const { dataDir, port } = empty;
  const server = await startProcess({ dataDir, port, env: outOfReach });
  return {
    name,
    port,
    pids: [server.child.pid ?? 0],
    paths,
    stop: () => server.stop().finally(() => removeFolder(dataDir)),
  };
};

/**
 * Bytes our server holds for each of so many links. It is asked of a process of its own: collecting garbage by force
 * also throws away what the compiler learned, and costs a server that has just started a fifth of its speed.
 */
export const bytesPerLink = async (links: number): Promise<number> => {
  const command = [
    process.execPath,
    ...nodeFlags,
    '--expose-gc',
    '--import',
    join(import.meta.dirname, 'benchMemory.js'),
  ];
  const empty = await startProcess({ command });
  const before = await memoryOf(empty.child);
  await fill(empty, links);
  await empty.stop();
  const { dataDir, port } = empty;
  const server = await startProcess({ command, dataDir, port });
  const after = await memoryOf(server.child);
  await server.stop();
  removeFolder(dataDir);
  return (after - before) / links;
};

/** The same handler mounted in an Express application, filled and started anew as well. */
export const inExpress = async (): Promise<Target> => {
  const port = await freePort();
  const dataDir = freshFolder();
  const env = { PATH: process.env['PATH'] ?? '', PORT: String(port), DATA_DIR: dataDir, ...outOfReach };
  const begin = async () => {
    const child = spawn(process.execPath, [...nodeFlags, targetFile, 'express', String(port)], {
      stdio: ['ignore', 'pipe', 'inherit'],
      env,
    });
    return { child, key: await started(child) };
  };
  const empty = await begin();
  const paths = await fill({ port, key: empty.key }, 100);
  await ended(empty.child, 'SIGTERM');
  const { child } = await begin();
  return {
    name: 'our hop in Express',
    port,
    pids: [child.pid ?? 0],
    paths,
    stop: () => ended(child, 'SIGTERM').finally(() => removeFolder(dataDir)),
  };
};

/** nginx with one worker, `return 307` and an access log. */
const startNginx = async (): Promise<Target> => {
  const folder = freshFolder();
  const port = await freePort();
  writeFileSync(
    join(folder, 'nginx.conf'),
    `daemon off; worker_processes 1; pid ${folder}/pid; error_log ${folder}/error.log;
events { worker_connections 1024; }
http {
  access_log ${folder}/access.log combined;
  keepalive_requests 100000000;
  server { listen 127.0.0.1:${port}; location / { return 307 https://t.harrowmead.example/r?by=nl-4471&deal=2093; } }
}`,
  );
  const child = spawn('nginx', ['-p', folder, '-c', join(folder, 'nginx.conf')], { stdio: 'ignore' });
  await new Promise((resolve) => setTimeout(resolve, 500));
  const workers = execFileSync('pgrep', ['-P', String(child.pid)], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .map(Number);
  return {
    name: 'nginx, return 307',
    port,
    pids: workers,
    paths: ['/saturn-kit'],
    stop: () => ended(child, 'SIGTERM').finally(() => removeFolder(folder)),
  };
};

/** Starts nginx; undefined where it is not installed. */
export const nginx = ['/usr/sbin/nginx', '/usr/bin/nginx'].some((path) => existsSync(path))
  ? startNginx
  : undefined;
