import AxeBuilder from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import UserAgent from 'user-agents';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { fillFirst } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, pick, startServer, untilCounted } from './desk.ts';
import { behindProxy, openAs, untilWritten } from './visitors.ts';

/** What sellers send behind a short address; each from another address. */
const sent = [
  ...Array.from({ length: 6 }, () => 'from=bought&zone=12&kw=red%20lamp&p=0.045'),
  ...Array.from({ length: 3 }, () => 'from=bought&zone=9&kw=moon+map&p=0.05'),
  'zone={zone}&kw=%C3%BC%26%3Cb%3E&p=n%2Fa&from=bought',
  ...Array.from({ length: 2 }, () => 'from=reader'),
];
let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  server = await startServer({ env: behindProxy });
  await fillFirst(server);
  const people = new UserAgent();
  for (const [i, query] of sent.entries()) {
    const status = await openAs(server, `/saturn-kit?${query}`, {
      'User-Agent': people.random().toString(),
      'X-Forwarded-For': `203.0.113.${i + 1}`,
    });
    expect(status).toBeLessThan(400);
  }
  await untilWritten(server, sent.length);
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, '/place/sources');
  await untilCounted(page);
}, 120_000);
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const rows = async (): Promise<string[][]> => {
  const table = page.getByRole('table', { name: 'Traffic' });
  await table.waitFor();
  return Promise.all(
    (await table.locator('tbody tr').all()).map(async (row) =>
      (await row.locator('td').allInnerTexts()).map((text) => text.trim()),
    ),
  );
};

it('says in a few presses what a seller passes along, and traffic is told apart by it, with its cost', async () => {
  await page.getByRole('button', { name: 'bought', exact: true }).click();
  const passed = page.getByRole('region', { name: 'Passed along' });
  await passed.getByText('12, 9; 1 not filled by the seller').waitFor();
  // A price that its name does not tell is for the person to say.
  await expect.poll(() => passed.innerText()).toContain('kw is keyword, zone is placement.');
  await passed.getByRole('button', { name: 'Read them so' }).click();
  await pick(passed.getByLabel('What p is'), 'cost of the visit');
  const { violations } = await new AxeBuilder({ page }).include('.passed').analyze();
  expect(violations.map(({ id }) => id)).toEqual([]);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByText('passes placement, keyword and cost along').waitFor();

  await page.goto(`http://localhost:${server.port}/traffic?by=placement`);
  await untilCounted(page);
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Cost' }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('columnheader', { name: 'Cost', exact: true }).waitFor();
  const cells = (await rows()).map((row) => [row[0], row.at(-1)]);
  expect(cells).toEqual([
    ['12', '€0.27'],
    ['9', '€0.15'],
    ['no placement', ''],
    ['{zone}', '1 not readable'],
  ]);
  await page.goto(`http://localhost:${server.port}/traffic?by=keyword`);
  await untilCounted(page);
  expect((await rows()).map(([word]) => word)).toEqual(['red lamp', 'moon map', 'no keyword', 'ü&<b>']);
});

it('is taken back as one step, and was never in the way of the visitor', async () => {
  await page.goto(`http://localhost:${server.port}/place/sources`);
  await page.getByRole('button', { name: 'bought', exact: true }).click();
  const passed = page.getByRole('region', { name: 'Passed along' });
  for (const name of ['zone', 'kw', 'p']) await pick(passed.getByLabel(`What ${name} is`), 'not read');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByText('passes placement, keyword and cost along').waitFor({ state: 'detached' });
  await page.getByRole('button', { name: 'Undo' }).click();
  await page.getByText('passes placement, keyword and cost along').waitFor();
});
