import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { fillSeason } from '../demo/fill.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { balanceOn, openApp, startServer } from './desk.ts';

const dataDir = freshFolder();
let port = 0;
let browser: Browser;
let server: Running;

beforeAll(async () => {
  port = await freePort();
  // A season that was over before the months that are kept.
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 4000, Date.UTC(2026, 2, 10, 15));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** The balance of a month as it is shown. */
const balance = async (page: Page): Promise<string> => {
  await page.goto(`http://localhost:${port}/reconcile/net_harrowmead/2026-02`);
  await page
    .getByRole('row', { name: /^Commission/ })
    .first()
    .waitFor();
  return balanceOn(page);
};
const filesLeft = () =>
  readdirSync(join(dataDir, 'journal')).filter((name) => /^\d{12}-\d{4}-/.test(name)).length;

it('old requests go from the server by a person’s choice, and a new browser shows the same balance', async () => {
  const context = await freshPerson(browser);
  const page = await openApp(context, server, '/setup');
  const before = await balance(page);
  const files = filesLeft();
  expect(files).toBeGreaterThan(60);

  await page.goto(`http://localhost:${port}/setup`);
  const evidence = page.getByRole('region', { name: 'Evidence' });
  // What stands above it moves it until all is there.
  await page.getByText(/The browser (keeps them|may let them go)/).waitFor();
  await evidence
    .getByRole('combobox', { name: 'Requests the server keeps one by one' })
    .click({ force: true });
  await page
    .getByRole('listbox', { name: 'Requests the server keeps one by one' })
    .getByRole('option', { name: '6 months', exact: true })
    .dispatchEvent('click');
  await evidence.getByText(/go within the hour, whole, and do not come\s+back/).waitFor();
  // The links were live before the choice, too: that it has arrived is told by the server's answer.
  const arrived = page.waitForResponse(
    (answer) => answer.url().endsWith('/api/changes') && answer.request().method() === 'POST',
  );
  await evidence.getByRole('button', { name: 'Keep 6 months' }).click();
  expect((await arrived).status()).toBe(200);
  await server.stop();
  server = await startServer({ dataDir, port });
  await vi.waitFor(() => expect(filesLeft()).toBeLessThan(10), { timeout: 20_000 });

  // Whoever had all of it goes on with it.
  expect(await balance(page)).toBe(before);
  // A browser that was never here begins with the counts.
  const fresh = await openApp(await freshPerson(browser), server, '/setup');
  await fresh.getByText('are kept as daily counts').waitFor();
  expect(await balance(fresh)).toBe(before);
  await fresh.context().close();
  await context.close();
});
