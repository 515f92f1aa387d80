import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { Browser } from 'playwright-core';
import { chromium } from 'playwright-core';
import { fillSeason } from '../demo/fill.ts';
import { call } from '../server/client.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, startProcess } from '../server/testing/process.ts';
import { printTable } from './table.ts';

/** What a browser that was never here waits for, in milliseconds from its leaving for the address. */
interface NewBrowser {
  /** Until the visitors of thirty days are shown, counted by whom ever. */
  readonly figuresMs: number;
  /** Until the browser holds the whole journal and counts by itself. */
  readonly wholeMs: number;
  readonly visitors: string;
}

const flags =
  '--no-sandbox --disable-gpu --disable-quic --disable-background-networking --disable-component-update --disable-sync --no-first-run';
const end = Date.UTC(2026, 10, 23, 15);

const open = async (browser: Browser, server: Running, asLines: boolean): Promise<NewBrowser> => {
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, locale: 'en-GB' });
  // As it was before there were columns: every record comes as a line, and nobody answers meanwhile.
  if (asLines) {
    await context.route('**/api/columns', async (route) => {
      await route.fulfill({ response: await route.fetch(), json: { parts: [] } });
    });
    await context.route('**/api/ask', (route) => route.abort());
  }
  const page = await context.newPage();
  const begun = Date.now();
  await page.goto(`http://localhost:${server.port}/traffic?from=2026-10-24&to=2026-11-22#key=${server.key}`);
  const number = page
    .getByRole('list', { name: 'What became of all requests' })
    .getByRole('button', { name: /^Visitors/ })
    .locator('b');
  const isPart = page.getByText(/still arriving/).first();
  const isServers = page.getByText(/Counted by the server/);
  let figuresMs = 0;
  for (;;) {
    const isShown = (await number.count()) > 0 && (await number.innerText()) !== '0';
    const isTrue = isShown && (await isPart.count()) === 0;
    if (isTrue && figuresMs === 0) figuresMs = Date.now() - begun;
    if (isTrue && (await isServers.count()) === 0) break;
    if (Date.now() - begun > 300_000) throw new Error('The journal did not come within five minutes.');
    await pause(50);
  }
  const wholeMs = Date.now() - begun;
  const visitors = await number.innerText();
  await context.close();
  return { figuresMs, wholeMs, visitors };
};

const runs = Number(process.env['RUNS'] ?? 3);
const requests = Number(process.env['ROWS'] ?? 1_000_000);

/** Opens Traffic with empty profiles, as it is and with every record as a line, in turn; all are to show the same. */
const measure = async (): Promise<void> => {
  const dataDir = mkdtempSync(join(tmpdir(), 'fernhop-bench-'));
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), requests, end);
  const server = await startProcess({ dataDir, port });
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: flags.split(' ') });
  try {
    // Once it was asked, a server makes them.
    let parts = 0;
    for (let before = -1; parts === 0 || parts > before;) {
      before = parts;
      await pause(5000);
      parts = (JSON.parse((await call(server, 'GET', '/columns')).body) as { parts: unknown[] }).parts.length;
    }
    const columns: NewBrowser[] = [];
    const lines: NewBrowser[] = [];
    for (let n = 0; n < runs; n++) {
      columns.push(await open(browser, server, false));
      lines.push(await open(browser, server, true));
      console.log(JSON.stringify([columns.at(-1), lines.at(-1)]));
    }
    const shown = new Set([...columns, ...lines].map(({ visitors }) => visitors));
    if (shown.size !== 1) throw new Error(`They show ${[...shown].join(' and ')}.`);
    printTable(`A new browser on ${requests} requests, ${runs} times`, [
      { what: 'first true figures, s', values: columns.map(({ figuresMs }) => figuresMs / 1000), most: 5 },
      {
        what: 'whole copy: columns ÷ lines',
        values: columns.map(({ wholeMs }, i) => wholeMs / (lines[i]?.wholeMs ?? NaN)),
        most: 0.5,
      },
      { what: 'whole copy, s', values: columns.map(({ wholeMs }) => wholeMs / 1000) },
      { what: 'whole copy from lines, s', values: lines.map(({ wholeMs }) => wholeMs / 1000) },
    ]);
  } finally {
    await browser.close();
    await server.stop();
    rmSync(dataDir, { recursive: true, force: true });
  }
};

await measure();
