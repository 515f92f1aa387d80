import { setTimeout as pause } from 'node:timers/promises';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fillSeason } from '../demo/fill.ts';
import { call } from '../server/client.ts';
import { trafficOf } from '../server/commands/trafficTable.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, personWithoutJournal, startServer, untilCounted } from './desk.ts';

const data = freshFolder();
let browser: Browser;
let server: Running;
const period = { from: '2026-10-24', to: '2026-11-22' };

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: data, PORT: String(port) }), 80_000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir: data, port });
  browser = await startBrowser();
  // They are made once somebody asks.
  while (!(await call(server, 'GET', '/columns')).body.includes('"000001"')) await pause(500);
}, 180_000);
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** What a new browser fetches of the journal, and what it then says of thirty days. */
const opened = async (context: BrowserContext) => {
  const asked: string[] = [];
  context.on('request', (request) => {
    const { pathname, search } = new URL(request.url());
    if (pathname.startsWith('/api/columns') || pathname === '/api/journal') asked.push(pathname + search);
  });
  const page = await openApp(context, server, `/traffic?from=${period.from}&to=${period.to}`);
  await page.getByRole('table', { name: 'Traffic' }).waitFor();
  await untilCounted(page);
  return { page, asked };
};
const visitorsOn = (page: Page): Promise<string> =>
  page
    .getByRole('list', { name: 'What became of all requests' })
    .getByRole('button', { name: /^Visitors/ })
    .locator('b')
    .innerText();
const visitors = async (): Promise<string> => {
  const { traffic } = await trafficOf({ data, by: 'source', ...period, where: [], now: Date.now() });
  return traffic.whole.visitors.toLocaleString('en-GB');
};

it('what was made as columns is there after a restart', async () => {
  await server.stop();
  server = await startServer({ dataDir: data, port: server.port });
  expect((await call(server, 'GET', '/columns')).body).toContain('"000001"');
});

describe('a new browser', () => {
  it('fetches what the server has as columns, the rest as lines, and says the same', async () => {
    const context = await freshPerson(browser);
    const { page, asked } = await opened(context);
    await expect.poll(() => visitorsOn(page), { timeout: 20_000 }).toBe(await visitors());
    expect(asked).toContain('/api/columns/000001.fhs');
    const after = asked.flatMap((path) => /journal\?after=(\d+)/.exec(path)?.[1] ?? []).map(Number);
    expect(Math.min(...after)).toBeGreaterThanOrEqual(65_536);
    // What is stored is the same after a reload.
    await page.reload();
    await expect.poll(() => visitorsOn(page), { timeout: 20_000 }).toBe(await visitors());
    await context.close();
  });

  it.each([
    ['once, fetches it again', 1],
    ['twice, reads lines in its place', 2],
  ])('that gets a damaged segment %s', async (_what, times) => {
    const context = await freshPerson(browser);
    let damaged = 0;
    await context.route('**/api/columns/000001.fhs', async (route) => {
      const response = await route.fetch();
      const body = await response.body();
      if (damaged < times) {
        damaged += 1;
        body[body.length >> 1] = (body[body.length >> 1] ?? 0) ^ 1;
      }
      await route.fulfill({ response, body });
    });
    const { page, asked } = await opened(context);
    await expect.poll(() => visitorsOn(page), { timeout: 30_000 }).toBe(await visitors());
    expect(damaged).toBe(times);
    const fetched = asked.filter((path) => path === '/api/columns/000001.fhs').length;
    expect(fetched).toBe(2);
    await context.close();
  });
});

it('a new browser that is reloaded, is answered half a line, and loses its server meanwhile holds the same in the end', async () => {
  const context = await freshPerson(browser);
  const happened: string[] = [];
  const page = await context.newPage();
  await context.route('**/api/columns/000001.fhs', async (route) => {
    if (happened.length > 0) return route.continue();
    happened.push('reloaded');
    // The answer is on its way while the page goes.
    void page.reload();
    return route.continue();
  });
  await context.route('**/api/journal?**', async (route) => {
    const response = await route.fetch().catch(() => undefined);
    if (!response) return route.abort();
    const text = await response.text();
    // What is left after the columns comes as lines: of these half are cut off inside of one, then all after the server ended.
    if (happened.length === 1 && text.length > 100_000) {
      happened.push('torn');
      return route.fulfill({ response, body: text.slice(0, text.lastIndexOf('"visitor"', text.length / 2)) });
    }
    if (happened.length === 2) {
      happened.push('ended');
      await server.stop();
      server = await startServer({ dataDir: data, port: server.port });
      return route.abort();
    }
    return route.fulfill({ response, body: text });
  });
  await page.goto(
    `http://localhost:${server.port}/traffic?from=${period.from}&to=${period.to}#key=${server.key}`,
  );
  await expect.poll(() => happened, { timeout: 60_000 }).toEqual(['reloaded', 'torn', 'ended']);
  await untilCounted(page);
  await expect.poll(() => visitorsOn(page), { timeout: 20_000 }).toBe(await visitors());
  // Every record is stored, and once.
  await page.reload();
  await untilCounted(page);
  await expect.poll(() => visitorsOn(page), { timeout: 20_000 }).toBe(await visitors());
  await context.close();
});

describe('a browser that does not hold the whole journal', () => {
  /** A person whose browser gets nothing of the journal until it is let go. */
  const withoutJournal = async (): Promise<{ context: BrowserContext; letGo: () => void }> => {
    const { context, letGo } = await personWithoutJournal(browser);
    await context.route('**/api/columns', async (route) => {
      const response = await route.fetch();
      await route.fulfill({ response, json: { parts: [] } });
    });
    return { context, letGo };
  };

  it('shows what the server counts, says so, and counts by itself once it has all', async () => {
    const { context, letGo } = await withoutJournal();
    const page = await openApp(context, server, `/traffic?from=${period.from}&to=${period.to}`);
    await page.getByText(/Counted by the server: 0 of [\d,]+ records are here so far/).waitFor();
    await expect.poll(() => visitorsOn(page), { timeout: 20_000 }).toBe(await visitors());
    // Sums are shown, as they are whole.
    await page.goto(`http://localhost:${server.port}/reconcile/net_harrowmead/2026-10`);
    await page.getByRole('row', { name: /^Conversions/ }).waitFor();
    const byServer = await page.getByRole('row', { name: /^Conversions/ }).innerText();
    letGo();
    await page.getByText('Counted by the server').waitFor({ state: 'detached', timeout: 60_000 });
    await untilCounted(page);
    expect(await page.getByRole('row', { name: /^Conversions/ }).innerText()).toBe(byServer);
    await context.close();
  });

  it('shows no sums where the server does not answer either', async () => {
    const { context } = await withoutJournal();
    await context.route('**/api/ask', (route) => route.fulfill({ status: 503, body: '' }));
    const page = await openApp(context, server, '/reconcile/net_harrowmead/2026-10');
    await page.getByText(/The journal is still arriving/).waitFor();
    expect(await page.getByRole('row', { name: /^Conversions/ }).count()).toBe(0);
    expect(await page.getByText('Counted by the server').count()).toBe(0);
    await context.close();
  });

  it('keeps no more than the person says, and follows what the server counts', async () => {
    const context = await freshPerson(browser);
    const page = await openApp(context, server, '/setup');
    await page.getByLabel('Most records kept here').fill('30000');
    await page.getByRole('button', { name: 'Keep at most that many' }).click();
    await page.getByText(/more than this browser is to keep/).waitFor({ timeout: 30_000 });
    await page.reload();
    await page.getByText(/more than this browser is to keep/).waitFor();
    await page.goto(`http://localhost:${server.port}/links`);
    const tape = page.getByRole('region', { name: 'Live events, newest first' });
    await tape.getByText('from the server').waitFor();
    const before = await tape.getByRole('link').first().innerText();
    const person = await freshPerson(browser);
    const visitor = await person.newPage();
    const at = Date.now();
    await visitor
      .goto(`http://see.nightledge.localhost:${server.port}/saturn~here-now`)
      .catch(() => undefined); // it leads away
    await tape
      .getByText(/~here-now/)
      .first()
      .waitFor({ timeout: 5000 });
    expect(Date.now() - at).toBeLessThan(5000);
    expect(await tape.getByRole('link').first().innerText()).not.toBe(before);
    await context.close();
  });
});
