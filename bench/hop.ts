import { execFile, execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { freshFolder } from '../server/process.ts';
import { measureFirstScreen } from './firstScreen.ts';
import { askAtRate, quantile } from './fixedRate.ts';
import type { Target } from './targets.ts';
import { bare, headers, inExpress, nginx, ours } from './targets.ts';
import { disturbed, undisturbed } from './undisturbed.ts';

const runs = Number(process.env['RUNS'] ?? 11);
const seconds = 2;
/** Long enough for the compiler to have seen the handler: a server is warm for all of its life but its first seconds. */
const warmSeconds = 5;
/** The same before each run: until then a process collects the garbage of what it held while it idled. */
const againSeconds = 3;
/** Processes of each kind, taken in turn: one process may be lucky with its memory and its compiled code. */
const instances = 3;
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
const load = async (target: Target, duration = seconds): Promise<Measured> => {
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

const sorted = (list: readonly number[]) => [...list].sort((a, b) => a - b);
const median = (list: readonly number[]): number => quantile(sorted(list), 0.5);
const spread = (list: readonly number[]): string => {
  const s = sorted(list);
  return `${(s[0] ?? NaN).toFixed(2)} to ${(s.at(-1) ?? NaN).toFixed(2)}`;
};

/** One kind of target with its processes. */
interface Kind {
  readonly name: string;
  readonly targets: readonly Target[];
  readonly measured: Measured[];
}

const several = async <T extends Target>(start: () => Promise<T>): Promise<T[]> => {
  const list: T[] = [];
  for (let i = 0; i < instances; i++) list.push(await start());
  return list;
};

const kindOf = (targets: readonly Target[]): Kind => ({
  name: targets[0]?.name ?? '',
  targets,
  measured: [],
});

const ratios = (of: Kind, to: Kind, value: (m: Measured) => number): number[] =>
  of.measured.flatMap((m, i) => {
    const other = to.measured[i];
    return other ? [value(m) / value(other)] : [];
  });

const tailRatios = async (of: Kind, to: Kind): Promise<number[]> => {
  const p99 = async (kind: Kind, run: number) => {
    const target = kind.targets[run % kind.targets.length];
    const capacity = median(kind.measured.map((m) => m.rate));
    if (!target) return NaN;
    return undisturbed(async () =>
      quantile(await askAtRate(target.port, raw(target.paths[0] ?? '/'), capacity / 2, seconds), 0.99),
    );
  };
  const found: number[] = [];
  for (let run = 0; run < runs; run++) found.push((await p99(of, run)) / (await p99(to, run)));
  return found;
};

type Row = readonly [
  what: string,
  values: readonly number[],
  wanted: string,
  good: (value: number) => boolean,
];

const table = (rows: readonly Row[]): string =>
  [
    '| what | median | spread | wanted | met |',
    '|---|---:|---|---|---|',
    ...rows.map(([what, values, wanted, good]) => {
      const value = median(values);
      return `| ${what} | ${value.toFixed(2)} | ${spread(values)} | ${wanted} | ${good(value) ? 'yes' : 'no'} |`;
    }),
  ].join('\n');

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

const main = async (): Promise<void> => {
  if (!existsSync('/usr/bin/wrk') || !existsSync('/usr/bin/curl')) {
    process.stdout.write('The client that asks is not installed: apt-get install wrk curl\n');
    process.exit(2);
  }
  const base = kindOf(await several(bare));
  const small = kindOf(await several(() => ours('our hop, 100 links', 100)));
  const full = await several(() => ours('our hop, 100,000 links', 100_000));
  const large = kindOf(full);
  const express = kindOf(await several(inExpress));
  const web = await nginx();
  const server = web && kindOf([web]);
  const kinds = [base, small, large, express, ...(server ? [server] : [])];
  for (const kind of kinds)
    for (const target of kind.targets) {
      await mustRedirect(target);
      await load(target, warmSeconds);
    }

  for (let run = 0; run < runs; run++)
    for (const kind of kinds) {
      const target = kind.targets[run % kind.targets.length];
      if (!target) continue;
      // A process that idled has given memory and compiled code back; what is measured is one at work.
      await load(target, againSeconds);
      kind.measured.push(await undisturbed(() => load(target)));
    }
  const rate = (m: Measured) => m.rate;
  const cpu = (m: Measured) => m.cpuMicros;
  const rows: Row[] = [
    ['processor time a request, ours ÷ bare', ratios(small, base, cpu), 'at most 2', (v) => v <= 2],
    ['requests a second, ours ÷ bare', ratios(small, base, rate), 'at least 0.55', (v) => v >= 0.55],
    ['p99 at half of its capacity, ours ÷ bare', await tailRatios(small, base), 'at most 3', (v) => v <= 3],
    [
      'requests a second, ours ÷ ours in Express',
      ratios(small, express, rate),
      'at least 3.5',
      (v) => v >= 3.5,
    ],
    [
      'requests a second, 100,000 links ÷ 100 links',
      ratios(large, small, rate),
      '0.90 to 1.10',
      (v) => v >= 0.9 && v <= 1.1,
    ],
    [
      'bytes of memory a link, at 100,000',
      full.map((target) => target.bytesPerLink),
      'under 1024',
      (v) => v < 1024,
    ],
  ];
  if (server) {
    rows.push(['requests a second, ours ÷ nginx', ratios(small, server, rate), 'reported', () => true]);
    rows.push(['processor time a request, ours ÷ nginx', ratios(small, server, cpu), 'reported', () => true]);
  } else
    process.stdout.write(
      'nginx is not installed, so nothing is compared with it: apt-get install nginx-light\n',
    );
  process.stdout.write(`${table(rows)}\n`);
  process.stdout.write(
    `\n${runs} interleaved runs of ${seconds} s, ${instances} processes of each kind; ${disturbed()} measurements were made while the host took more than a twentieth of the processor away.\n`,
  );
  for (const kind of kinds) for (const target of kind.targets) target.stop();

  const screens = await measureFirstScreen(9);
  process.stdout.write(
    `\n${table([
      [
        'first screen, kilobytes of compressed script',
        screens.map((s) => s.scriptKilobytes),
        'at most 260',
        (v) => v <= 260,
      ],
      [
        'first screen, seconds until usable, empty profile',
        screens.map((s) => s.usableMs / 1000),
        'at most 1',
        (v) => v <= 1,
      ],
    ])}\n`,
  );
};

await main();
process.exit(0);
