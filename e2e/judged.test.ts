import { readFileSync } from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import UserAgent from 'user-agents';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { readTable } from '#core/formats';
import { fillFirst } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';
import { behindProxy, openAs, untilWritten } from './visitors.ts';

/** Visits that were bought: each from another address, all by two user agents that are nobody's robots, and no language. */
const bought = 240;
const readers = 160;
const twoAgents = [139, 140].map(
  (n) => `Mozilla/5.0 (X11; Linux x86_64; rv:${n}.0) Gecko/20100101 Firefox/${n}.0`,
);
let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  server = await startServer({ env: behindProxy });
  await fillFirst(server);
  for (let i = 0; i < bought; i++)
    await openAs(server, '/saturn-kit~bought', {
      'User-Agent': twoAgents[i % 2] ?? '',
      'X-Forwarded-For': `198.51.${i >> 6}.${(i % 64) + 1}`,
    });
  const people = new UserAgent();
  for (let i = 0; i < readers; i++)
    await openAs(server, '/saturn-kit~article', {
      'User-Agent': people.random().toString(),
      'Accept-Language': 'de-DE,de;q=0.9',
      'X-Forwarded-For': `203.0.${i >> 6}.${(i % 64) + 1}`,
    });
  await untilWritten(server, bought + readers);
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, '/traffic?at=bought');
}, 120_000);
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const row = () =>
  page
    .getByRole('table', { name: 'Traffic' })
    .getByRole('row')
    .filter({ has: page.getByRole('button', { name: 'bought', exact: true }) });

it('judges what was bought, treats it as machines by one press, and takes that back', async () => {
  const verdict = page.getByRole('region', { name: 'Is it real' });
  await verdict.getByText('Looks like machines').waitFor();
  await verdict.getByText(`${bought} of ${bought} requests by 2 user agents`).waitFor();
  await verdict.getByText(/^Four in five from 2 user agents; of your other sources from \d+$/).waitFor();
  await verdict.getByText('100% name no language; of your other sources 0%').waitFor();
  await row().getByText(String(bought), { exact: true }).waitFor();

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    verdict.getByText('requests as CSV').click(),
  ]);
  const { header, rows } = readTable(readFileSync(await download.path(), 'utf8'));
  expect([header[2], rows.length]).toEqual(['User agent', bought]);
  expect(new Set(rows.map((cells) => cells[2]))).toEqual(new Set(twoAgents));
  const [printed] = await Promise.all([
    page.waitForEvent('download'),
    verdict.getByText('page to print').click(),
  ]);
  expect(readFileSync(await printed.path(), 'utf8')).toContain('Looks like machines');

  await verdict.getByRole('button', { name: `Treat ${bought} as machines` }).click();
  await row().getByText('100%', { exact: true }).waitFor();
  await verdict.getByText('Treated as machines:').waitFor();
  // Who reads the article is nobody's machine.
  expect(await page.getByRole('button', { name: 'Undo' }).count()).toBe(1);
  await page.getByRole('button', { name: 'Undo' }).click();
  await row().getByText(String(bought), { exact: true }).waitFor();
  await verdict.getByRole('button', { name: `Treat ${bought} as machines` }).waitFor();
});

it('lists in Setup what is treated as machines, and lets it go there', async () => {
  await page.getByRole('button', { name: `Treat ${bought} as machines` }).click();
  await row().getByText('100%', { exact: true }).waitFor();
  await page.getByRole('link', { name: 'Setup' }).first().click();
  const list = page.getByRole('list', { name: 'Treated as machines' });
  await expect.poll(() => list.innerText()).toMatch(/^bought, .* 2 user agents: treated as machines/);
  // What else is saved of the rules leaves it alone.
  await page.getByLabel('Minutes in which the same visitor on the same link counts once').fill('20');
  await page.getByRole('button', { name: 'Count anew' }).click();
  await page.getByText('The past is counted anew by these rules.').waitFor();
  expect(await list.getByRole('listitem').count()).toBe(1);
  await list.getByText('Count them again').click();
  await list.waitFor({ state: 'detached' });
  await page.goto(`http://localhost:${server.port}/traffic?at=bought`);
  await row().getByText(String(bought), { exact: true }).waitFor();
});
