import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fillSeason } from '../demo/fill.ts';
import { call } from '../server/client.ts';
import { trafficOf } from '../server/commands/trafficTable.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';

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
  await expect
    .poll(async () => (await call(server, 'GET', '/columns')).body, { timeout: 60_000, interval: 500 })
    .toContain('"000001"');
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
  await page.getByText('still arriving').first().waitFor({ state: 'detached', timeout: 60_000 });
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
