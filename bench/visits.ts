import { execFile } from 'node:child_process';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { chromium } from 'playwright-core';
import { build } from 'vite';
import { printTable } from './table.ts';
import type { Answered } from './traffic.ts';
import { answer, measureTraffic } from './traffic.ts';
import { undisturbed } from './undisturbed.ts';

/** What the worker tells of one reading, in milliseconds, and the memory of the page with its worker, in bytes. */
interface Reading {
  readonly rows: number;
  readonly counted: number;
  readonly load: number;
  readonly first: number;
  readonly classification: number;
  readonly memory: number;
}

const runs = Number(process.env['RUNS'] ?? 9);
const million = Number(process.env['ROWS'] ?? 1_000_000);
const root = process.cwd();
/** Runs with ten times the requests, each of which takes a minute or two. */
const mostOfTen = 3;

const bundle = async (): Promise<string> => {
  const result = await build({
    root,
    configFile: false,
    logLevel: 'error',
    build: {
      write: false,
      target: 'es2022',
      lib: { entry: join(root, 'bench/visitsPage.ts'), formats: ['es'], fileName: 'worker' },
    },
  });
  const [output] = Array.isArray(result) ? result : [result];
  const chunk = output && 'output' in output ? output.output[0] : undefined;
  if (!chunk) throw new Error('the worker was not built');
  return chunk.code;
};

const inChromium = async (): Promise<void> => {
  const code = await bundle();
  const server = createServer((request, response) => {
    // Both make the page isolated, without which a browser tells nobody how much memory it holds.
    response.writeHead(200, {
      'Cross-Origin-Opener-Policy': 'same-origin',
      'Cross-Origin-Embedder-Policy': 'require-corp',
      'Content-Type': request.url === '/worker.js' ? 'text/javascript' : 'text/html',
    });
    response.end(request.url === '/worker.js' ? code : '<!doctype html><title>bench</title>');
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo; // a server that listens on a port has one
  const flags =
    '--no-sandbox --disable-gpu --disable-quic --disable-background-networking --disable-component-update --disable-sync --no-first-run --enable-blink-features=ForceEagerMeasureMemory';
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: flags.split(' ') });
  const context = await browser.newContext();
  const ask = async (does: string, count: number): Promise<Reading> => {
    const page = await context.newPage();
    page.setDefaultTimeout(600_000);
    await page.goto(`http://localhost:${port}/`);
    const reading = await page.evaluate(
      async ([what, rows]) => {
        const measure = async (): Promise<number> => {
          const memory = performance as unknown as {
            measureUserAgentSpecificMemory(): Promise<{ bytes: number }>;
          };
          return (await memory.measureUserAgentSpecificMemory()).bytes;
        };
        const worker = new Worker('/worker.js', { type: 'module' });
        const answer = await new Promise<{ answer: object; error?: string }>((resolve) => {
          worker.onmessage = ({ data }) => resolve(data);
          worker.postMessage({ does: what, count: rows });
        });
        if (answer.error) throw new Error(answer.error);
        return { ...answer.answer, memory: what.startsWith('fill') ? 0 : await measure() };
      },
      [does, count] as const,
    );
    await page.close();
    return reading as Reading;
  };
  try {
    await ask('fill both', million);
    await ask('fill', million * 2);
    const found: Record<'columns' | 'plain' | 'twice', Reading[]> = { columns: [], plain: [], twice: [] };
    // Each run has all three beside each other, and is made again while other work disturbs it.
    for (let run = 0; run < runs; run++) {
      const { value } = await undisturbed(async () => ({
        columns: await ask('columns', million),
        plain: await ask('plain', million),
        twice: await ask('columns', million * 2),
      }));
      for (const name of ['columns', 'plain', 'twice'] as const) found[name].push(value[name]);
    }
    const valuesOf = (name: keyof typeof found, what: keyof Reading) =>
      found[name].map((reading) => reading[what]);
    const ratios = (name: 'plain' | 'twice', what: keyof Reading) => {
      const ours = valuesOf('columns', what);
      return valuesOf(name, what).map((value, run) => value / (ours[run] ?? NaN));
    };
    const [columns] = found.columns;
    const [plain] = found.plain;
    if (columns?.counted !== plain?.counted)
      throw new Error(`columns counted ${columns?.counted}, the plain way ${plain?.counted}`);
    const megabytes = (bytes: number) => bytes / 1024 / 1024;
    printTable(`Requests in a worker of Chromium, ${million} of them, medians of ${runs} runs`, [
      {
        what: 'seconds from idb to first counts',
        values: valuesOf('columns', 'first').map((ms) => ms / 1000),
      },
      {
        what: 'seconds to count anew after the classification changed',
        values: valuesOf('columns', 'classification').map((ms) => ms / 1000),
      },
      {
        what: 'megabytes of page and worker',
        values: valuesOf('columns', 'memory').map(megabytes),
        most: 220,
      },
      {
        what: 'first counts, array of objects ÷ columns',
        values: ratios('plain', 'first'),
        least: 6,
      },
      {
        what: 'classification, array of objects ÷ columns',
        values: ratios('plain', 'classification'),
        least: 3.5,
      },
      { what: 'memory, array of objects ÷ columns', values: ratios('plain', 'memory') },
      { what: 'first counts, twice the requests ÷ once', values: ratios('twice', 'first'), most: 2.2 },
      {
        what: 'classification, twice the requests ÷ once',
        values: ratios('twice', 'classification'),
        most: 2.2,
      },
    ]);
  } finally {
    await browser.close();
    server.close();
  }
};

/** Counts in a process of its own, so that its memory is known. */
const alone = async (rows: number): Promise<Answered> => {
  const { stdout } = await promisify(execFile)(
    process.execPath,
    [...process.execArgv, process.argv[1] ?? '', 'answer', String(rows)],
    { maxBuffer: 1e7 },
  );
  const answered: Answered = JSON.parse(stdout);
  return answered;
};

const inNode = async (): Promise<void> => {
  printTable(
    `Breakdowns in Node of ${million} requests, beside a database on one thread, medians of ${runs} runs`,
    await measureTraffic(million, runs),
  );
  const few = Math.min(runs, mostOfTen);
  const once: Answered[] = [];
  const ten: Answered[] = [];
  for (let run = 0; run < few; run++) {
    const { value } = await undisturbed(
      async () => [await alone(million), await alone(million * 10)] as const,
    );
    once.push(value[0]);
    ten.push(value[1]);
  }
  const gigabytes = ten.map(({ peak }) => peak / 1024 ** 3);
  printTable(`Ten times as many in Node, medians of ${few} runs`, [
    {
      what: 'classified and all breakdowns, ten times the requests ÷ once',
      values: ten.map(({ ms }, run) => ms / (once[run]?.ms ?? NaN)),
      most: 11,
    },
    { what: 'gigabytes of the process at most, ten times the requests', values: gigabytes, most: 2 },
  ]);
};

const main = async (): Promise<void> => {
  const [does, rows] = process.argv.slice(2);
  if (does === 'answer') {
    console.log(JSON.stringify(answer(Number(rows))));
    return;
  }
  await inChromium();
  await inNode();
};

main().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
