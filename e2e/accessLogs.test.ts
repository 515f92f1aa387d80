import { gzipSync } from 'node:zlib';
import AxeBuilder from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import { changeOf, fillFirst, readJournal, sendChanges } from '../server/client.ts';
import { accessLogText } from '../server/testing/accessLogLines.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, pick, startServer, untilCounted } from './desk.ts';

const dayMs = 86_400_000;
/** Before anything the server itself saw. */
const from = Math.floor(Date.now() / dayMs) * dayMs - 5 * dayMs;
const made = { seed: 7, everyMs: 60_000, paths: ['/saturn-kit', '/saturn'], share: 40, from };
const older = accessLogText(1500, made);
const newer = accessLogText(1500, { ...made, seed: 8, from: from + 2 * dayMs });
const asked = (text: string): number =>
  text.split('\n').filter((line) => line.includes('GET /saturn')).length;
const ofLink = asked(older) + asked(newer);
const torn = newer.replace(/\n(.{40}).*\n/, '\n$1\n');
const file = (name: string, text: string | Buffer) => ({
  name,
  mimeType: 'text/plain',
  buffer: Buffer.from(text),
});

let browser: Browser;
let server: Running;
let page: Page;
beforeAll(async () => {
  server = await startServer();
  await fillFirst(server);
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, '/traffic');
  await untilCounted(page);
}, 60_000);
afterAll(async () => {
  await browser.close();
  await server.stop();
});
const choose = async (...files: ReturnType<typeof file>[]) =>
  page.locator('input[type=file]').setInputFiles(files);
const heading = () => page.getByRole('region', { name: 'What is in the logs' }).getByRole('status');
const hops = async () => (await readJournal(server)).filter(({ kind }) => kind === 'hop').length;

it('logs of another server are looked at, brought in and counted, in four presses', async () => {
  await page.getByRole('link', { name: 'Import' }).click();
  await choose(file('access.log.1.gz', gzipSync(Buffer.from(older))), file('access.log', newer));
  await expect
    .poll(() => heading().innerText())
    .toMatch(`${ofLink.toLocaleString('en-GB')} requests are new`);
  await page.getByText('ask for something else than a link').waitFor();
  expect(await hops()).toBe(0);
  const { violations } = await new AxeBuilder({ page }).include('.logs').analyze();
  expect(violations.map(({ id }) => id)).toEqual([]);

  await page.getByRole('button', { name: `Bring in ${ofLink.toLocaleString('en-GB')} requests` }).click();
  await page.waitForURL(/\/traffic\?.*by=link/);
  expect(await hops()).toBe(ofLink);
  const row = page.getByRole('table', { name: 'Traffic' }).locator('tbody tr').first();
  await expect.poll(() => row.innerText()).toContain('saturn-kit');
  const bar = page.getByLabel('What became of all requests');
  const requests = async () =>
    [...(await bar.innerText()).matchAll(/^([\d,]+)$/gm)].map(([n]) => Number(n.replaceAll(',', '')));
  await expect.poll(async () => (await requests()).reduce((sum, n) => sum + n, 0)).toBe(ofLink);
});

it('the same again is known, torn lines are told with their place, and no log is refused', async () => {
  await page.getByRole('link', { name: 'Import' }).click();
  await choose(file('access.log', torn));
  await expect.poll(() => heading().innerText()).toMatch('0 requests are new');
  await page.getByText('are in the journal already').waitFor();
  await page.getByText('Line 2: It is not written as a combined log line is').waitFor();
  expect(await page.getByRole('button', { name: /^Bring in/ }).count()).toBe(0);

  await choose(file('links.csv', 'slug,destination\nkit,https://shop.example/\n'));
  await page.getByText(/It is no access log in combined, W3C extended or JSON form/).waitFor();
});

it('asks which domain was asked where the log does not say', async () => {
  await sendChanges(server, [changeOf('domain', newDomain('dom_two', 'go.nightledge.localhost', 'UTC'))]);
  await page.getByRole('link', { name: '← Traffic' }).click();
  await page.getByRole('link', { name: 'Import' }).click();
  const later = accessLogText(50, { ...made, seed: 9, from: from + 4 * dayMs });
  await choose(file('access.log', later));
  await page.getByText('name no host').waitFor();
  await pick(page.getByLabel('Which domain was asked'), 'see.nightledge.localhost');
  await expect.poll(() => heading().innerText()).toMatch(`${asked(later)} requests are new`);
});

it('is stopped by a press, and says so where the server goes away', async () => {
  const large = accessLogText(60_000, { ...made, seed: 10, from: from - 90 * dayMs });
  await page.route('**/api/access-logs/*?at=*', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 300));
    await route.continue();
  });
  await choose(file('access.log', large));
  await page.getByRole('button', { name: 'Stop' }).click();
  await page.getByRole('button', { name: 'Stop' }).waitFor({ state: 'hidden' });
  expect(await page.getByRole('button', { name: /^Bring in/ }).count()).toBe(0);
  await page.unroute('**/api/access-logs/*?at=*');
  // A reading that was stopped is in nobody's way.
  await choose(file('access.log', older));
  await page.getByText('name no host').waitFor();
  await page.route('**/api/access-logs/**', (route) => route.abort());
  await choose(file('access.log', older));
  await page.getByRole('alert').getByText('The server does not answer').waitFor();
});
