import { execFile, execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { freshFolder } from '../server/testing/process.ts';
import { askAtRate, FellBehind, quantile } from './fixedRate.ts';
import type { Target } from './targets.ts';
import { headers } from './targets.ts';
import { undisturbed } from './undisturbed.ts';

/** Processes of each kind, one after the other: one may be lucky with its memory and its compiled code. */
export const instances = 3;
/** Undisturbed turns of each pair of processes; with three pairs, nine. */
export const turns = Number(process.env['TURNS'] ?? 3);
/** Most turns that are tried for them. */
const mostTurns = 4 * turns;
/** Of one server, in two halves, with the other's in the middle: what the machine's speed does meanwhile meets both. */
export const seconds = 2;
/** Long enough for the compiler to have seen the handler: a server is warm for all of its life but its first seconds. */
const warmSeconds = 5;
const tickMs = 1000 / Number(execFileSync('getconf', ['CLK_TCK'], { encoding: 'utf8' }));

/** Processor time a process took so far, in milliseconds. */
const cpuOf = (pid: number): number => {
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  return (Number(fields[11]) + Number(fields[12])) * tickMs;
};

interface Measured {
  readonly rate: number;
  readonly cpuMicros: number;
}

const scripts = freshFolder();
const raw = (path: string): string =>
  `GET ${path} HTTP/1.1\r\n${Object.entries(headers)
    .map(([name, value]) => `${name}: ${value}\r\n`)
    .join('')}\r\n`;

/** Asks as fast as it is answered, by 32 connections, for each of a target's paths in turn. */
const load = async (target: Target, duration: number): Promise<Measured> => {
  const script = join(scripts, `${target.port}.lua`);
  if (!existsSync(script))
    writeFileSync(
      script,
      `local asked = {${target.paths.map((path) => JSON.stringify(raw(path))).join(',')}}
local at = 0
request = function() at = at % #asked + 1; return asked[at] end
done = function(all) io.write(string.format("%d %d %d\\n", all.requests, all.duration, all.errors.status)) end
`,
    );
  const before = target.pids.reduce((sum, pid) => sum + cpuOf(pid), 0);
  const { stdout } = await promisify(execFile)('wrk', [
    '-t1',
    '-c32',
    `-d${duration}s`,
    `-s${script}`,
    `http://127.0.0.1:${target.port}`,
  ]);
  const cpu = target.pids.reduce((sum, pid) => sum + cpuOf(pid), 0) - before;
  const [, total = '0', micros = '1', errors = '0'] = /^(\d+) (\d+) (\d+)$/m.exec(stdout) ?? [];
  if (errors !== '0' || total === '0') throw new Error(`${target.name}: ${errors} of ${total} failed`);
  return { rate: (Number(total) * 1e6) / Number(micros), cpuMicros: (cpu * 1000) / Number(total) };
};

/** Processor time and requests a second of one server, divided by those of another measured right beside it. */
export interface Compared {
  readonly cpu: number[];
  readonly rate: number[];
  /** p99 at half of each one's capacity; empty where it was not asked for. */
  readonly p99: number[];
  /** How many of the turns nothing disturbed. */
  readonly clean: number;
}

/** One turn of two servers: a second of the one, two of the other, a second of the one. */
const turn = async (one: Target, other: Target): Promise<readonly [Measured[], Measured[]]> => {
  const first = await load(one, seconds / 2);
  const second = await load(other, seconds / 2);
  const third = await load(other, seconds / 2);
  return [
    [first, await load(one, seconds / 2)],
    [second, third],
  ];
};

const swing = ([a, b]: readonly Measured[]): number => (a && b ? Math.abs(a.rate / b.rate - 1) : 0);
const mean = (list: readonly number[]): number => list.reduce((sum, n) => sum + n, 0) / list.length;
const together = (halves: readonly Measured[]): Measured => ({
  rate: mean(halves.map(({ rate }) => rate)),
  cpuMicros: mean(halves.map(({ cpuMicros }) => cpuMicros)),
});

/** A redirect with our headers is what is measured, so each target is asked for one first. */
const mustRedirect = async ({ name, port, paths }: Target): Promise<void> => {
  const { stdout } = await promisify(execFile)('curl', [
    '-s',
    '-o/dev/null',
    '-w%{http_code}',
    `-HHost: ${headers.Host}`,
    `http://127.0.0.1:${port}${paths[0] ?? ''}`,
  ]);
  if (stdout !== '307') throw new Error(`${name} answered ${stdout}`);
};

const middle = (list: readonly number[]): number =>
  quantile(
    [...list].sort((a, b) => a - b),
    0.5,
  );

/** The time that 99 of 100 answers stay under, at half of a server's capacity. */
const p99 = async (
  { port, paths }: Target,
  capacity: number,
): Promise<{ micros: number; unseen: number }> => {
  try {
    const { latencies, unseen } = await askAtRate(port, raw(paths[0] ?? '/'), capacity / 2, seconds);
    return { micros: quantile(latencies, 0.99), unseen };
  } catch (error) {
    // The machine does less than half of what it did when the capacity was measured: nothing can be said of it.
    if (error instanceof FellBehind) return { micros: NaN, unseen: 1 };
    throw error;
  }
};

/**
 * Compares two kinds of server. Only two processes run meanwhile and take turns of a few seconds: one that idles for
 * longer gives memory and compiled code back, and a busy server never does.
 */
export const compare = async (
  first: () => Promise<Target>,
  second: () => Promise<Target>,
  withTail = false,
): Promise<Compared> => {
  const found = { cpu: [] as number[], rate: [] as number[], p99: [] as number[], clean: 0 };
  for (let instance = 0; instance < instances; instance++) {
    const one = await first();
    const other = await second();
    for (const target of [one, other]) {
      await mustRedirect(target);
      await load(target, warmSeconds);
    }
    const rates: [number[], number[]] = [[], []];
    for (let n = 0, clean = 0; n < mostTurns && clean < turns; n++) {
      const measured = await undisturbed(
        () => turn(one, other),
        ([ones, others]) => Math.max(swing(ones), swing(others)),
      );
      // One that was disturbed is left out as long as there may still be enough that were not.
      if (!measured.clean && mostTurns - n > turns - clean) continue;
      clean += 1;
      found.clean += measured.clean ? 1 : 0;
      const [a, b] = [together(measured.value[0]), together(measured.value[1])];
      found.cpu.push(a.cpuMicros / b.cpuMicros);
      found.rate.push(a.rate / b.rate);
      rates[0].push(a.rate);
      rates[1].push(b.rate);
    }
    for (let n = 0; withTail && n < turns; n++) {
      const {
        value: [a, b],
      } = await undisturbed(
        async () => [await p99(one, middle(rates[0])), await p99(other, middle(rates[1]))] as const,
        ([ones, others]) => Math.max(ones.unseen, others.unseen),
      );
      const ratio = a.micros / b.micros;
      if (!Number.isNaN(ratio)) found.p99.push(ratio);
    }
    await Promise.all([one.stop(), other.stop()]);
  }
  return found;
};
