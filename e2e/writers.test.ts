import { readFileSync } from 'node:fs';
import { AxeBuilder } from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fillSeason } from '../demo/fill.ts';
import { readConfig } from '../server/config.ts';
import { changeOf, sendChanges } from '../server/client.ts';
import { openDataset } from '../server/dataFolder.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import type { Writers } from '#core/queries';
import { answersFrom } from '#core/queries';
import { readTable } from '#core/formats';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, pick, startServer, untilCounted } from './desk.ts';

const data = freshFolder();
const end = Date.UTC(2026, 10, 23);
let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: data, PORT: String(port) }), 6000, end + 15 * 3_600_000);
  server = await startServer({ dataDir: data, port });
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, '/decide');
  await untilCounted(page);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const earned = async (month: string): Promise<Writers> =>
  answersFrom(await openDataset(data)).writers({ month, currency: 'EUR', now: end });
const sumOf = ({ entries }: Writers, owner: string): number =>
  entries.filter((one) => one.owner === owner).reduce((sum, { approved }) => sum + approved, 0);
const euros = (minor: number) =>
  new Intl.NumberFormat('en-GB', { style: 'currency', currency: 'EUR' }).format(minor / 100);
const rowOf = (name: string) =>
  page.getByRole('table', { name: 'Writers' }).locator('tbody tr').filter({ hasText: name });
const saved = async (name: string): Promise<{ file: string; text: string }> => {
  const coming = page.waitForEvent('download');
  await page.getByRole('button', { name }).click();
  const download = await coming;
  return { file: download.suggestedFilename(), text: readFileSync(await download.path(), 'utf8') };
};

describe('what writers earned', () => {
  it('is a statement to send, as a table and as a page, of what the reports approved', async () => {
    await page.getByRole('link', { name: 'Writers' }).click();
    await page.getByRole('heading', { name: 'Writers', level: 1 }).waitFor();
    await pick(page.getByLabel('Month', { exact: true }), 'October 2026');
    const october = await earned('2026-10');
    const approved = sumOf(october, 'Maren');
    expect(approved).toBeGreaterThan(0);
    await rowOf('Maren').getByText(euros(approved)).first().waitFor();
    await rowOf('Maren').getByRole('button', { name: 'Maren' }).click();
    await page.getByRole('heading', { name: 'Maren, October 2026' }).waitFor();

    const table = await saved('Save as a table (CSV)');
    expect(table.file).toBe('statement-Maren-2026-10.csv');
    const { header, rows } = readTable(table.text);
    const cents = rows.map((row) => Math.round(Number(row[header.indexOf('approved')]) * 100));
    expect(cents.reduce((sum, one) => sum + one, 0)).toBe(approved);
    expect(rows).toHaveLength(october.entries.filter(({ owner }) => owner === 'Maren').length);

    const { file, text } = await saved('Save as a page');
    expect(file).toBe('statement-Maren-2026-10.html');
    const sent = await (await freshPerson(browser)).newPage();
    await sent.setContent(text);
    await sent.getByRole('heading', { name: 'Maren, October 2026' }).waitFor();
    const cell = sent.locator('table').first().locator('tbody td').nth(4);
    expect(await cell.innerText()).toBe((approved / 100).toFixed(2));
    await sent.close();
    // Behind the sales of a link stand its conversions of the month.
    const line = page.getByRole('table', { name: 'By link' }).locator('tbody tr').first();
    const [slug = ''] = await line.locator('td').allInnerTexts();
    const link = (await openDataset(data)).records.links.find((one) => one.slug === slug);
    const own = october.entries.filter((one) => one.link === link?.id && one.network === 'net_harrowmead');
    await line.locator('td').nth(2).getByRole('link').click();
    await page.getByText(`${own.length} conversions of Harrowmead, October 2026`).waitFor();
    expect(await page.getByLabel('Search', { exact: true }).inputValue()).toBe(slug);
    await page.goBack();
    await page.getByRole('heading', { name: 'Maren, October 2026' }).waitFor();
    const found = (await new AxeBuilder({ page }).analyze()).violations;
    expect(found.filter(({ impact }) => impact === 'serious' || impact === 'critical')).toEqual([]);
  });

  it('stands where the address says, and says what is pending in a month that is not over', async () => {
    await page.goto(`http://localhost:${server.port}/decide/writers?month=2026-11&writer=Maren`);
    await untilCounted(page);
    await page.getByRole('heading', { name: 'Maren, November 2026' }).waitFor();
    await page.getByText('Harrowmead: the month is not closed yet, its figures may still change.').waitFor();
    const { sums } = await earned('2026-11');
    const maren = sums.find(({ owner }) => owner === 'Maren');
    expect(maren?.pending).toBeGreaterThan(0);
    await rowOf('Maren')
      .getByText(euros(maren?.pending ?? NaN))
      .first()
      .waitFor();
    expect(maren?.worth).toBeLessThan(maren?.pending ?? NaN);
  });

  it('of a tag that nobody registered says so, and leads to where it can be', async () => {
    const { accounts } = (await openDataset(data)).records;
    const maren = accounts.find(({ owner }) => owner === 'Maren');
    if (!maren) throw new Error('her tag is registered');
    await sendChanges(server, [{ ...changeOf('account', maren, 2), value: null }]);
    await rowOf('Not registered: nl-5520').waitFor();
    await rowOf('Not registered: nl-5520').getByRole('link', { name: 'Say whose it is' }).click();
    await page.waitForURL(/\/programs\/net_harrowmead/);
  });
});
