import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { build } from 'vite';
import { printTable } from './table.ts';

/** What the worker tells of one reading, in milliseconds, and the memory of the page with its worker, in bytes. */
interface Reading {
  readonly rows: number;
  readonly counted: number;
  readonly load: number;
  readonly first: number;
  readonly classification: number;
  readonly memory: number;
}

const runs = Number(process.env['RUNS'] ?? 3);
const million = Number(process.env['ROWS'] ?? 1_000_000);
const root = process.cwd();

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

const main = async (): Promise<void> => {
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
  const median = (values: number[]) => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;

  try {
    await ask('fill both', million);
    await ask('fill', million * 2);
    const found: Record<'columns' | 'plain' | 'twice', Reading[]> = { columns: [], plain: [], twice: [] };
    for (let run = 0; run < runs; run++) {
      found.columns.push(await ask('columns', million));
      found.plain.push(await ask('plain', million));
      found.twice.push(await ask('columns', million * 2));
    }
    const valuesOf = (name: keyof typeof found, what: keyof Reading) =>
      found[name].map((reading) => reading[what]);
    const [columns] = found.columns;
    const [plain] = found.plain;
    if (columns?.counted !== plain?.counted)
      throw new Error(`columns counted ${columns?.counted}, the plain way ${plain?.counted}`);
    const megabytes = (bytes: number) => bytes / 1024 / 1024;
    printTable(`Requests in a worker of Chromium, ${million} of them, medians of ${runs} runs`, [
      {
        what: 'seconds from idb to first counts',
        values: valuesOf('columns', 'first').map((ms) => ms / 1000),
        most: 1.5,
      },
      {
        what: 'seconds to count anew after the classification changed',
        values: valuesOf('columns', 'classification').map((ms) => ms / 1000),
        most: 0.7,
      },
      {
        what: 'megabytes of page and worker',
        values: valuesOf('columns', 'memory').map(megabytes),
        most: 250,
      },
      {
        what: 'first counts, twice the requests ÷ once',
        values: [median(valuesOf('twice', 'first')) / median(valuesOf('columns', 'first'))],
        most: 2.2,
      },
      {
        what: 'classification, twice the requests ÷ once',
        values: [median(valuesOf('twice', 'classification')) / median(valuesOf('columns', 'classification'))],
        most: 2.2,
      },
      {
        what: 'first counts, array of objects ÷ columns',
        values: [median(valuesOf('plain', 'first')) / median(valuesOf('columns', 'first'))],
      },
      {
        what: 'classification, array of objects ÷ columns',
        values: [median(valuesOf('plain', 'classification')) / median(valuesOf('columns', 'classification'))],
      },
      {
        what: 'memory, array of objects ÷ columns',
        values: [median(valuesOf('plain', 'memory')) / median(valuesOf('columns', 'memory'))],
      },
    ]);
  } finally {
    await browser.close();
    server.close();
  }
};

main().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
