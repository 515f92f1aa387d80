import type { Browser, BrowserContext, Locator, Page } from 'playwright-core';
import { expect, vi } from 'vitest';
import { fillFirst } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { startProcess } from '../server/testing/process.ts';
import { freshPerson } from './browser.ts';

/** A server with its stand-ins, as a process of its own. */
export const startServer = (options: Parameters<typeof startProcess>[0] = {}): Promise<Running> =>
  startProcess({ ...options, env: { STANDINS: '1', ...options.env } });

/** Opens the application with the server's key, as the start line says. */
export const openApp = async (context: BrowserContext, server: Running, path = '/'): Promise<Page> => {
  const page = await context.newPage();
  await page.goto(`http://localhost:${server.port}${path}#key=${server.key}`);
  await page.getByLabel('Paste bar').waitFor();
  await page.locator('html[data-whole]').waitFor({ state: 'attached' });
  return page;
};

/** Somebody who has a server with one link open. */
export const openDesk = async (
  browser: Browser,
  server: Running,
  path = '/links/lnk_saturn',
  more: object = {},
): Promise<{ context: BrowserContext; page: Page }> => {
  const context = await freshPerson(browser, more);
  const page = await openApp(context, server, path);
  await page.getByText('The link is live').waitFor();
  return { context, page };
};

/** A server of its own with one domain, network, program and link, and somebody who has it open. */
export const deskWithLink = async (browser: Browser, path?: string, more?: object) => {
  const server = await startServer();
  const records = await fillFirst(server);
  return { server, records, ...(await openDesk(browser, server, path, more)) };
};

/** A person whose browser waits for the journal until it is let go. */
export const personWithoutJournal = async (
  browser: Browser,
): Promise<{ context: BrowserContext; letGo: () => void }> => {
  const context = await freshPerson(browser);
  let letGo = () => {};
  const gone = new Promise<void>((resolve) => (letGo = resolve));
  await context.route('**/api/journal?**', async (route) => {
    await gone;
    await route.continue();
  });
  return { context, letGo };
};

/** Waits until the route says that the link is live. */
export const untilLive = (page: Page): Promise<void> =>
  page.getByLabel('Route').getByRole('status').getByText('live', { exact: true }).waitFor();

/** Waits until the browser has the whole journal and counts by itself, as the tape says once it does. */
export const untilCounted = (page: Page): Promise<void> =>
  page
    .getByLabel('Live events, newest first')
    .getByText(/^(?:now|quiet so far)$/)
    .waitFor({ timeout: 60_000 });

/** Cells and steps of a balance: its chart is drawn later than they are, and writes numbers of its own. */
export const balanceCells = 'td.number, td button';
/** What the balance on a page says, in one line. */
export const balanceOn = async (page: Page): Promise<string> =>
  (await page.locator('main table').first().locator(balanceCells).allTextContents()).join(' | ');

/** Copies a text as a person would have, then pastes it with the keyboard where the focus is. */
export const paste = async (page: Page, text: string): Promise<void> => {
  await page.evaluate((words) => navigator.clipboard.writeText(words), text);
  await page.keyboard.press('ControlOrMeta+v');
};

export const clipboard = (page: Page): Promise<string> => page.evaluate(() => navigator.clipboard.readText());

/** Chooses what a list offers, by its words. */
export const pick = async (field: Locator, words: string | RegExp): Promise<void> => {
  await field.click({ force: true });
  const option = field.page().getByRole('option', { name: words, exact: true });
  await option.dispatchEvent('click');
  await option.waitFor({ state: 'hidden' });
};

/** The cells of a link's row by their heading. */
export const rowOf = async (page: Page, slug: string): Promise<Record<string, string>> => {
  const heads = await page.locator('table.list thead th').allInnerTexts();
  const cells = await page
    .locator('table.list tbody tr', { hasText: slug })
    .first()
    .locator('td')
    .allInnerTexts();
  expect(cells.length).toBe(heads.length);
  return Object.fromEntries(heads.map((head, i) => [head, cells[i] ?? '']));
};

/** Tells the first network where to report sales, as Programs says. */
export const setPostback = async (context: BrowserContext, page: Page, server: Running): Promise<void> => {
  await page.getByRole('link', { name: 'Programs' }).click();
  await page.getByRole('button', { name: 'Copy', exact: true }).click();
  // It is called in hooks too, where nothing may be polled.
  const address = await vi.waitFor(async () => {
    const text = await clipboard(page);
    expect(text).toContain('/postback/');
    return text;
  });
  // From here on another page is in front: the clipboard may keep this one waiting without an end.
  const network = await context.newPage();
  await network.goto(`http://t.harrowmead.localhost:${server.port + 1}/console`);
  await network.getByLabel('All offers of the account').fill(address);
  // A page that is closed while its form is still on its way may never be closed: Chromium says nothing more about it.
  await Promise.all([
    network.waitForEvent('load'),
    network.getByRole('button', { name: 'Set' }).first().click(),
  ]);
  await network.close();
};
