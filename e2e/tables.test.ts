import AxeBuilder from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fillSeason } from '../demo/fill.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer, untilCounted } from './desk.ts';

let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  const dataDir = freshFolder();
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 30_000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server);
  await untilCounted(page);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const patient = { timeout: 20_000 };
/** The cells of the rows that are seen, below a heading. */
const below = async (heading: string): Promise<string[]> => {
  const heads = await page.locator('thead th').allInnerTexts();
  const place = heads.findIndex((text) => text.trim() === heading);
  return (await page.locator('tbody tr:not(.space)').all()).length === 0
    ? []
    : page.locator(`tbody tr:not(.space) td:nth-child(${place + 1})`).allInnerTexts();
};
const numbers = async (heading: string) =>
  (await below(heading)).map((text) => Number(text.replaceAll(/\D/g, '')));
const press = (heading: string) => page.locator('thead').getByRole('button', { name: heading }).click();
const order = (heading: string) =>
  page.getByRole('columnheader', { name: heading, exact: true }).getAttribute('aria-sort');

describe('the list of links', () => {
  it('is sorted by a heading, the other way by the next press, and as it was by the third', async () => {
    const before = await below('Link');
    expect(before.length).toBeGreaterThan(5);
    await press('Visits');
    await expect.poll(() => order('Visits'), patient).toBe('descending');
    const down = await numbers('Visits');
    expect(down.length).toBeGreaterThan(5);
    expect(down).toEqual(down.toSorted((a, b) => b - a));
    expect(down[0]).toBeGreaterThan(0);
    await press('Visits');
    await expect.poll(() => order('Visits'), patient).toBe('ascending');
    const up = await numbers('Visits');
    expect(up).toEqual(up.toSorted((a, b) => a - b));
    await press('Visits');
    await expect.poll(() => order('Visits'), patient).toBeNull();
    await expect.poll(() => below('Link'), patient).toEqual(before);
  });

  it('compares earnings of one currency only, the person’s own first, and says why there are none', async () => {
    await press('EPC');
    await expect.poll(() => order('EPC'), patient).toBe('descending');
    await expect.poll(async () => (await below('EPC')).join(), { timeout: 30_000 }).toContain('–');
    const seen: string[] = [];
    const scroller = page.locator('.scroll');
    // The rows are only there where they are seen.
    for (let top = 0; top < 64 * 49; top += 400) {
      await scroller.evaluate((element, to) => (element.scrollTop = to), top);
      await page.waitForTimeout(60);
      for (const text of await below('EPC')) if (seen.at(-1) !== text) seen.push(text);
    }
    const symbols = [...new Set(seen.filter((text) => /\d\.\d/.test(text)).map((text) => text.charAt(0)))];
    expect(symbols).toEqual(['€', '£', '$']);
    expect(seen).toContain('—\n2 currencies');
    expect(seen).toContain('—\nno sales');
    // Under what one earned stands what it earns at worst and at best, in the person's own currency alone.
    const banded = seen.filter((text) => text.includes('–'));
    expect(banded.length).toBeGreaterThan(5);
    for (const text of banded) expect(text).toMatch(/^€\d+\.\d\d\n\d+\.\d\d–\d+\.\d\d$/);
    await scroller.evaluate((element) => (element.scrollTop = 0));
    await press('EPC');
    await press('EPC');
  });

  it('shows more columns by choice, by keyboard too, and keeps them and the order after a reload', async () => {
    await page.getByRole('button', { name: 'Columns' }).focus();
    await page.keyboard.press('Enter');
    const box = page.getByRole('menuitemcheckbox', { name: 'Bots' });
    await box.waitFor();
    const { violations } = await new AxeBuilder({ page }).analyze();
    const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
    expect(serious.map(({ id, nodes }) => `${id}: ${nodes[0]?.html ?? ''}`)).toEqual([]);
    await box.focus();
    await page.keyboard.press('Enter');
    await expect.poll(() => box.getAttribute('aria-checked'), patient).toBe('true');
    await page.getByRole('menuitemcheckbox', { name: 'Requests' }).click();
    await page.getByRole('menuitemcheckbox', { name: 'Repeats' }).click();
    await page.keyboard.press('Escape');
    await press('Requests');
    await expect.poll(() => order('Requests'), patient).toBe('descending');
    const [requests, visitors, repeats, bots] = await Promise.all(
      ['Requests', 'Visits', 'Repeats', 'Bots'].map(numbers),
    );
    requests?.forEach((all, i) =>
      expect(all).toBeGreaterThanOrEqual((visitors?.[i] ?? 0) + (repeats?.[i] ?? 0) + (bots?.[i] ?? 0)),
    );
    expect(bots?.some((n) => n > 0)).toBe(true);
    await page.getByText(/All \d+ links live/).waitFor();
    await page.reload();
    await untilCounted(page);
    await expect.poll(() => order('Requests'), patient).toBe('descending');
    await expect.poll(() => numbers('Requests'), patient).toEqual(requests);
    // It is kept in the settings, so another browser has it too.
    const other = await openApp(await freshPerson(browser), server);
    await expect
      .poll(() => other.getByRole('columnheader', { name: 'Bots', exact: true }).count(), patient)
      .toBe(1);
    await other.context().close();
  });
});

describe('the ledger', () => {
  it('is sorted by what we heard, of all conversions and not of those shown', async () => {
    await page.goto(`http://localhost:${server.port}/ledger/net_harrowmead`);
    await page.getByText(/^\d+ conversions/).waitFor();
    const shown = await below('Transaction');
    await press('We heard');
    await expect.poll(() => order('We heard'), patient).toBe('descending');
    const amounts = async () =>
      (await below('We heard')).map((text) => /€([\d,]+\.\d\d)/.exec(text)?.[1] ?? '');
    await expect
      .poll(async () => (await amounts()).map((text) => Number(text.replace(',', ''))), patient)
      .toSatisfy(
        (list: number[]) => list.length > 20 && list.every((n, i) => i === 0 || n <= (list[i - 1] ?? 0)),
      );
    expect(await below('Transaction')).not.toEqual(shown);
  });
});
