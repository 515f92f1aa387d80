import type { ChildProcess } from 'node:child_process';
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { keyPath } from '../adminKey.ts';
import { builtFile } from '../built.ts';

/** A running server, as a process of its own. */
export interface Running {
  readonly port: number;
  readonly key: string;
  readonly dataDir: string;
  readonly child: ChildProcess;
  /** Everything it wrote to its log so far. */
  log(): string;
  /** Ends it and resolves when it is gone. */
  stop(signal?: NodeJS.Signals): Promise<number | null>;
}

const canListen = (port: number): Promise<boolean> =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });

/** A free port whose next one is free too, for the stand-ins. */
export const freePort = async (): Promise<number> => {
  for (;;) {
    const port = 20_000 + Math.floor(Math.random() * 20_000);
    if ((await canListen(port)) && (await canListen(port + 1))) return port;
  }
};

/** How Node runs the server: room for young objects, so that collecting garbage costs the same with many links. */
export const nodeFlags: readonly string[] = ['--max-semi-space-size=64'];

const made: string[] = [];
process.once('exit', () => made.forEach(removeFolder));

/** Removes a folder with all that is in it. */
export const removeFolder = (folder: string): void => rmSync(folder, { recursive: true, force: true });

/** A new empty data folder under the system's temporary one; it goes when this process does. */
export const freshFolder = (): string => {
  const folder = mkdtempSync(join(tmpdir(), 'fernhop-'));
  made.push(folder);
  return folder;
};

const built = builtFile('main.js');
const children = new Set<ChildProcess>();
// A test that fails leaves no server behind.
process.once('exit', () => children.forEach((child) => child.kill('SIGKILL')));

/**
 * Starts the built server and waits until it says where it is.
 *
 * @throws Error with its last words when it ends instead
 */
export const startProcess = async (
  options: {
    dataDir?: string;
    port?: number;
    env?: Record<string, string>;
    command?: readonly string[];
  } = {},
): Promise<Running> => {
  const port = options.port ?? (await freePort());
  const dataDir = options.dataDir ?? freshFolder();
  const [program = process.execPath, ...before] = options.command ?? [process.execPath, ...nodeFlags];
  const child = spawn(program, [...before, built], {
    env: { PATH: process.env['PATH'] ?? '', PORT: String(port), DATA_DIR: dataDir, ...options.env },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  children.add(child);
  child.once('exit', () => children.delete(child));
  let log = '';
  child.stderr.setEncoding('utf8').on('data', (text: string) => (log += text));
  const ended = new Promise<number | null>((resolve) => child.once('exit', (code) => resolve(code)));
  await new Promise<void>((resolve, reject) => {
    let out = '';
    child.stdout.setEncoding('utf8').on('data', (text: string) => {
      out += text;
      if (out.includes('\n')) resolve();
    });
    void ended.then((code) => reject(new Error(`the server ended with ${String(code)}: ${log}`)));
  });
  const key = options.env?.['FERNHOP_KEY'] ?? readFileSync(keyPath(dataDir), 'utf8').trim();
  return {
    port,
    key,
    dataDir,
    child,
    log: () => log,
    stop: (signal = 'SIGTERM') => {
      child.kill(signal);
      return ended;
    },
  };
};
