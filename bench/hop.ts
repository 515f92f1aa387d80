import type { ChildProcess } from 'node:child_process';
import { execFileSync, spawn } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import autocannon from 'autocannon';
import { changeOf, firstRecords, sendChanges } from '../server/client.ts';
import { freshFolder, freePort, nodeFlags, startProcess } from '../server/process.ts';
import { measureFirstScreen } from './firstScreen.ts';
import { askAtRate, quantile } from './fixedRate.ts';

const runs = Number(process.env['RUNS'] ?? 15);
const seconds = 1;
/** Long enough for the compiler to have seen the handler: a server is warm for all of its life but its first seconds. */
const warmSeconds = 5;
/** Processes of each kind, taken in turn: one process may be lucky with its memory and its compiled code. */
const instances = 3;
const tickMs = 1000 / Number(execFileSync('getconf', ['CLK_TCK'], { encoding: 'utf8' }));

const headers = {
  Host: 'see.nightledge.localhost',
  'User-Agent':
    'Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/141.0.0.0 Mobile Safari/537.36',
  Accept: 'text/html,application/xhtml+xml',
  'Accept-Language': 'en-GB,en;q=0.8',
  'Accept-Encoding': 'gzip, deflate, br',
  Referer: 'https://nightledge.example/',
};

interface Target {
  readonly name: string;
  readonly port: number;
  readonly pids: readonly number[];
  readonly paths: readonly string[];
  readonly stop: () => void;
}

/** Processor time a process took so far, in milliseconds. */
const cpuOf = (pid: number): number => {
  const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  return (Number(fields[11]) + Number(fields[12])) * tickMs;
};
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

const targetFile = join(import.meta.dirname, 'benchTarget.js');

const bare = async (): Promise<Target> => {
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
    stop: () => child.kill('SIGKILL'),
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

const ours = async (name: string, links: number): Promise<Target & { bytesPerLink: number }> => {
  const server = await startProcess({
    command: [
      process.execPath,
      ...nodeFlags,
      '--expose-gc',
      '--import',
      join(import.meta.dirname, 'benchMemory.js'),
    ],
  });
  const pid = server.child.pid ?? 0;
  const before = await memoryOf(server.child);
  const paths = await fill(server, links);
  await new Promise((resolve) => setTimeout(resolve, 500));
  return {
    name,
    port: server.port,
    pids: [pid],
    paths,
    bytesPerLink: ((await memoryOf(server.child)) - before) / links,
    stop: () => void server.stop(),
  };
};

const inExpress = async (): Promise<Target> => {
  const port = await freePort();
  const child = spawn(process.execPath, [...nodeFlags, targetFile, 'express', String(port)], {
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { PATH: process.env['PATH'] ?? '', PORT: String(port), DATA_DIR: freshFolder() },
  });
  const key = await started(child);
  const paths = await fill({ port, key }, 100);
  return {
    name: 'our hop in Express',
    port,
    pids: [child.pid ?? 0],
    paths,
    stop: () => child.kill('SIGKILL'),
  };
};

const nginx = async (): Promise<Target | undefined> => {
  if (!['/usr/sbin/nginx', '/usr/bin/nginx'].some((path) => existsSync(path))) return undefined;
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
    stop: () => child.kill('SIGTERM'),
  };
};

interface Measured {
  readonly rate: number;
  readonly cpuMicros: number;
}

/** Processor time other machines of the same host took away, and all there was, in ticks. */
const stolen = (): { steal: number; all: number } => {
  const ticks = (readFileSync('/proc/stat', 'utf8').split('\n')[0] ?? '')
    .trim()
    .split(/\s+/)
    .slice(1, 9)
    .map(Number);
  return { steal: ticks[7] ?? 0, all: ticks.reduce((sum, n) => sum + n, 0) };
};
const mostStolen = 0.1;
let disturbed = 0;

/** Measures again, up to six times, while more than a tenth of the processor was taken away; what remains is counted. */
const undisturbed = async <T>(measure: () => Promise<T>): Promise<T> => {
  for (let attempt = 1; ; attempt++) {
    const before = stolen();
    const value = await measure();
    const after = stolen();
    if ((after.steal - before.steal) / Math.max(1, after.all - before.all) <= mostStolen) return value;
    if (attempt === 6) {
      disturbed += 1;
      return value;
    }
  }
};

const load = async (target: Target, duration = seconds): Promise<Measured> => {
  const before = target.pids.reduce((sum, pid) => sum + cpuOf(pid), 0);
  const result = await autocannon({
    url: `http://127.0.0.1:${target.port}`,
    connections: 32,
    duration,
    requests: target.paths.map((path) => ({ path, headers })),
  });
  const cpu = target.pids.reduce((sum, pid) => sum + cpuOf(pid), 0) - before;
  const { total } = result.requests;
  if (result['3xx'] !== total)
    throw new Error(`${target.name}: ${total - result['3xx']} of ${total} were no redirect`);
  return { rate: total / result.duration, cpuMicros: (cpu * 1000) / total };
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

const raw = (target: Target): string =>
  `GET ${target.paths[0] ?? '/'} HTTP/1.1\r\n${Object.entries(headers)
    .map(([name, value]) => `${name}: ${value}\r\n`)
    .join('')}\r\n`;

const tailRatios = async (of: Kind, to: Kind): Promise<number[]> => {
  const p99 = async (kind: Kind, run: number) => {
    const target = kind.targets[run % kind.targets.length];
    const capacity = median(kind.measured.map((m) => m.rate));
    if (!target) return NaN;
    return undisturbed(async () =>
      quantile(await askAtRate(target.port, raw(target), capacity / 2, seconds), 0.99),
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

const main = async (): Promise<void> => {
  const base = kindOf(await several(bare));
  const small = kindOf(await several(() => ours('our hop, 100 links', 100)));
  const full = await several(() => ours('our hop, 100,000 links', 100_000));
  const large = kindOf(full);
  const express = kindOf(await several(inExpress));
  const web = await nginx();
  const server = web && kindOf([web]);
  const kinds = [base, small, large, express, ...(server ? [server] : [])];
  for (const kind of kinds) for (const target of kind.targets) await load(target, warmSeconds);

  for (let run = 0; run < runs; run++)
    for (const kind of kinds) {
      const target = kind.targets[run % kind.targets.length];
      if (target) kind.measured.push(await undisturbed(() => load(target)));
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
    `\n${runs} interleaved runs of ${seconds} s, ${instances} processes of each kind; ${disturbed} measurements were made while the host took more than a tenth of the processor away.\n`,
  );
  for (const kind of kinds) for (const target of kind.targets) target.stop();

  const screens = await measureFirstScreen(5);
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
