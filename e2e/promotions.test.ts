import { AxeBuilder } from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fillSeason } from '../demo/fill.ts';
import { costsOf } from '../demo/season/costs.ts';
import { changeOf, sendChanges } from '../server/client.ts';
import { openDataset } from '../server/dataFolder.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { answersFrom } from '#core/queries';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer, untilCounted } from './desk.ts';

const data = freshFolder();
const end = Date.UTC(2026, 10, 23);
let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: data, PORT: String(port) }), 6000, end + 15 * 3_600_000);
  server = await startServer({ dataDir: data, port });
  // The season's own promotions go: what is gathered here is made here.
  const { promotions } = costsOf(end, 90, 6000);
  await sendChanges(
    server,
    promotions.map((one) => ({ ...changeOf('promotion', one, 2), value: null })),
  );
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, '/decide');
  await untilCounted(page);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const form = () => page.getByRole('form', { name: 'Promotion' });
const fill = async (label: string, text: string) => form().getByLabel(label, { exact: true }).fill(text);
const make = async (name: string, begins: string, from: string, until = '') => {
  await page.getByRole('button', { name: 'Make a promotion' }).click();
  await fill('Name', name);
  await fill('Sources that begin with', begins);
  await fill('First day', from);
  if (until !== '') await fill('Last day, if it ends', until);
};
const sum = (title: string) =>
  page
    .locator('.sums div')
    .filter({ has: page.locator('dt', { hasText: title }) })
    .locator('dd')
    .innerText();
const serious = async (): Promise<string[]> =>
  (await new AxeBuilder({ page }).analyze()).violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target.join(' ')).join()}`);

describe('a promotion', () => {
  it('gathers sources by the beginning of their names on its days, after its days were mended', async () => {
    await page.getByRole('link', { name: 'Promotions' }).click();
    await page.getByText('None yet.').waitFor();
    await make('September letters', 'news*', '2026-09-01', '2026-08-30');
    await form().getByText('Its last day lies before its first. Change one of them.').waitFor();
    await fill('Last day, if it ends', '2026-09-30');
    // What the beginning takes by now is said, and what is no address is no page.
    await form()
      .getByText(/^By now: .*newsletter/)
      .waitFor();
    await fill('Pages with its links', 'the moon guide');
    await page.keyboard.press('Enter');
    await form().getByText('A page is an address that begins with http:// or https://.').waitFor();
    expect(await form().getByRole('button', { name: 'Make it' }).isDisabled()).toBe(true);
    await page.keyboard.press('Backspace');
    await page.keyboard.press('Backspace');
    await form().getByRole('button', { name: 'Make it' }).click();
    await page.getByRole('heading', { name: 'September letters', level: 1 }).waitFor();
    await page.getByRole('table', { name: 'By source' }).waitFor();
    await page.getByText('No promotion began before it.').waitFor();
    const sources = await page
      .getByRole('table', { name: 'By source' })
      .locator('tbody tr td:first-child')
      .allInnerTexts();
    expect(sources).toContain('newsletter');
    expect(sources.every((name) => name.startsWith('news'))).toBe(true);
    expect(await serious()).toEqual([]);
  });

  it('carries what was paid for it, in two currencies, and is held against the one before', async () => {
    await page.getByRole('link', { name: 'All promotions' }).click();
    await make('October', 'news*, video-*', '2026-10-01', '2026-10-31');
    await form().getByRole('button', { name: 'Make it' }).click();
    await page.getByRole('heading', { name: 'October', level: 1 }).waitFor();
    await page.getByRole('heading', { name: 'Against September letters' }).waitFor();
    const before = await sum('spent');
    for (const text of ['€310 for promotion October', '100 USD for promotion October on 5 Oct']) {
      await page.getByRole('button', { name: 'Add a cost' }).click();
      await page.getByLabel('What was paid, for what, and when').fill(text);
      await page.locator('#cost-reading').getByText('for promotion October').waitFor();
      await page.getByRole('button', { name: 'Note this cost' }).click();
      // The next is typed in a form of its own, once this one is gone.
      await page.getByRole('dialog').waitFor({ state: 'hidden' });
    }
    await expect.poll(() => sum('spent')).not.toBe(before);
    // What the page says is what the question says of the data folder, once both costs have come there.
    const [promotion] = await expect
      .poll(
        async () =>
          (await openDataset(data)).records.costs.filter(({ of }) => of.kind === 'promotion').length,
      )
      .toBe(2)
      .then(async () =>
        (await openDataset(data)).records.promotions.filter(({ name }) => name === 'October'),
      );
    const said = answersFrom(await openDataset(data)).promotionPage({
      ...{ id: promotion?.id ?? '', currency: 'EUR', now: Date.now() },
    });
    const money = (minor: number) =>
      new Intl.NumberFormat('en-GB', { style: 'currency', currency: 'EUR' }).format(minor / 100);
    await expect.poll(() => sum('spent')).toBe(money(said?.whole.cost ?? NaN));
    expect(await sum('earned')).toBe(money((said?.whole.approved ?? NaN) + (said?.whole.worth ?? NaN)));
    expect(said?.whole.cost).toBeGreaterThan(31_000 + 8000);
  });

  it('says which of its visits another has too, and a sum of both has them once', async () => {
    await page.getByRole('link', { name: 'All promotions' }).click();
    await make('Video evenings', 'video-12', '2026-10-10');
    await form().getByRole('button', { name: 'Make it' }).click();
    await page.getByRole('heading', { name: 'Video evenings', level: 1 }).waitFor();
    const note = page.getByRole('note').filter({ hasText: 'belong to October too' });
    await note.waitFor();
    const [shared = NaN] = ((await note.innerText()).match(/[\d,]+/) ?? []).map((text) =>
      Number(text.replaceAll(',', '')),
    );
    expect(shared).toBeGreaterThan(10);
    await page.goto(
      `http://localhost:${server.port}/decide?by=promotion&from=2026-10-01&to=2026-10-31&without=promotion:`,
    );
    const table = page.getByRole('table', { name: 'What pays' });
    await table.waitFor();
    await untilCounted(page);
    const rows = await table.locator('tbody tr').all();
    const cells = await Promise.all(rows.map((row) => row.locator('td').allInnerTexts()));
    const both = cells.find(([name]) => name?.trim() === 'October and Video evenings');
    expect(Number(both?.[2]?.replaceAll(',', ''))).toBeLessThanOrEqual(shared);
    const names = cells.map(([name]) => name?.trim());
    expect(names.toSorted()).toEqual(['October', 'October and Video evenings']);
  });
});
