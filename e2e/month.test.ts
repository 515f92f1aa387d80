import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage, StoredChange } from '#core/catalogue';
import { fillSeason } from '../demo/fill.ts';
import { call } from '../server/client.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { balanceCells, balanceOn, openApp, startServer, pick, untilCounted } from './desk.ts';

const networks = ['net_harrowmead', 'net_kelvane', 'net_osprenet', 'net_vennor'];
const month = '2026-10';
let browser: Browser;
let server: Running;
let context: BrowserContext;
let page: Page;
const dataDir = freshFolder();

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 12_000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
  context = await freshPerson(browser);
  page = await openApp(context, server, `/reconcile/${networks[0] ?? ''}/${month}`);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const reported = (name: string) => page.getByRole('row', { name: new RegExp(`^${name}`) }).getByRole('cell');
const queue = () => page.getByLabel('To settle').getByRole('link');
/** How many differences wait in the month that is open. */
const waiting = async (): Promise<number> => {
  // While records still arrive nothing is shown, and nothing waits only seemingly.
  await reported('Conversions').first().waitFor();
  const rows = await queue().locator('> b').allInnerTexts();
  return rows.reduce((sum, text) => sum + Number(text.replaceAll(',', '')), 0);
};
const open = async (network: string) => {
  await page.goto(`http://localhost:${server.port}/reconcile/${network}/${month}`);
  await page
    .getByRole('row', { name: /^Commission/ })
    .first()
    .waitFor();
  await page.getByText('Nothing waits here.').or(queue().first()).first().waitFor();
};

describe('from four awkward networks to a closed month', () => {
  it.each(networks.slice(0, 3))('%s, by mouse', async (network) => {
    await open(network);
    let presses = 0;
    const shown = async () => (await queue().allInnerTexts()).join();
    while ((await waiting()) > 0) {
      const before = await shown();
      await queue().first().click();
      const all = page.getByRole('button', { name: /^Accept all/ });
      const one = page.locator('form.settle button[type=submit]');
      await one.waitFor();
      await ((await all.count()) > 0 ? all : one).click();
      presses += 2;
      // One answer may raise another question: what counts without an amount differs from the report.
      await expect.poll(shown, { timeout: 10_000 }).not.toBe(before);
    }
    // What is safe goes together: a month is no day's work.
    expect(presses).toBeLessThan(60);
    await reported('Conversions').first().waitFor();
    const before = await reported('Conversions').allInnerTexts();
    await page.getByRole('button', { name: 'Close month' }).click();
    await page.getByText('Nothing changed since.').waitFor();
    await expect.poll(() => reported('Conversions').allInnerTexts(), { timeout: 10_000 }).toEqual(before);
  });

  it('the last one, by keyboard alone', async () => {
    await open(networks[3] ?? '');
    /** Goes on with the Tab key until what has the focus is what is wanted. */
    const tabTo = async (wanted: string) => {
      for (let n = 0; n < 120; n++) {
        const here = await page.evaluate(
          (selector) => document.activeElement?.matches(selector) ?? false,
          wanted,
        );
        if (here) return;
        await page.keyboard.press('Tab');
      }
      throw new Error(`${wanted} cannot be reached by Tab`);
    };
    for (let left = await waiting(); left > 0; left = await waiting()) {
      await tabTo('nav[aria-label="To settle"] a');
      await page.keyboard.press('Enter');
      await tabTo('input[aria-label="Reason"]');
      await page.keyboard.type('looked at');
      await page.keyboard.press('Enter');
      await expect.poll(waiting, { timeout: 10_000 }).toBeLessThan(left);
    }
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    await tabTo('main header .actions > span:last-child button');
    expect(await page.evaluate(() => document.activeElement?.textContent?.trim())).toBe('Close month');
    await page.keyboard.press('Enter');
    await page.getByText('Nothing changed since.').waitFor();
  });

  it('is known to another window, and undone there too', async () => {
    const other = await openApp(context, server, `/reconcile/${networks[3] ?? ''}/${month}`);
    await other.getByText('Nothing changed since.').waitFor();
    await other.getByText('Nothing waits here.').waitFor();
    await page.keyboard.press('Control+z');
    await expect.poll(() => other.getByText('Nothing changed since.').count(), { timeout: 10_000 }).toBe(0);
    await other.close();
  });
});

describe('two people and one month', () => {
  const path = `/reconcile/${networks[1] ?? ''}/2026-09`;
  const stored = async (kind: string): Promise<StoredChange[]> => {
    const all: StoredChange[] = [];
    for (let after = 0, more = true; more;) {
      const found: ChangesPage = JSON.parse((await call(server, 'GET', `/changes?after=${after}`)).body);
      all.push(...found.changes.filter((change) => change.kind === kind && change.value !== null));
      ({ version: after, more } = found);
    }
    return all;
  };

  it('who decide one case differently: the second hears of the first, and one decision stands', async () => {
    const joris = await freshPerson(browser);
    const his = await openApp(joris, server, '/setup');
    await his.getByLabel('Your name').fill('Joris');
    await his.goto(`http://localhost:${server.port}${path}`);
    await page.goto(`http://localhost:${server.port}${path}`);
    const before = (await stored('decision')).length;
    const decideFirst = async (on: Page, reason: string, button: string) => {
      await on.getByLabel('To settle').getByRole('link').first().click();
      await on.getByLabel('Reason').fill(reason);
      await on.getByRole('button', { name: button, exact: true }).click();
      await on.getByText(/^One difference is/).waitFor();
    };
    await context.setOffline(true);
    await decideFirst(page, 'small change', 'Write off');
    await decideFirst(his, 'they owe it', 'Ask the network');
    await vi.waitFor(async () => expect(await stored('decision')).toHaveLength(before + 1));
    await context.setOffline(false);
    await page.getByText('1 not live: look').click();
    const versions = page.getByRole('alert', { name: 'Two versions' });
    await versions.getByText('Joris changed the same').waitFor();
    expect(await versions.innerText()).toMatch(/Yours: write off\s+Joris’s: ask/);
    await versions.getByRole('button', { name: 'Keep yours' }).click();
    await page.getByText('Nothing waits: all that was made here is with the server.').waitFor();
    const decisions = await stored('decision');
    expect(decisions).toHaveLength(before + 1);
    expect(decisions.at(-1)?.value).toMatchObject({ kind: 'write off', reason: 'small change' });
    await joris.close();
  });

  it('who close it at once, with the same figures: it is closed once, and nobody is asked', async () => {
    const joris = await freshPerson(browser);
    const his = await openApp(joris, server, path);
    await page.goto(`http://localhost:${server.port}${path}`);
    const close = async (on: Page) => {
      await on.getByRole('button', { name: 'Close month' }).click();
      await on.getByRole('button', { name: 'Close all the same' }).click();
      await on.getByText('Nothing changed since.').waitFor();
    };
    const before = (await stored('month')).length;
    await context.setOffline(true);
    await close(page);
    await close(his);
    await vi.waitFor(async () => expect(await stored('month')).toHaveLength(before + 1));
    await context.setOffline(false);
    await page.getByText(/^All \d+ links live$/).waitFor();
    expect(await stored('month')).toHaveLength(before + 1);
    await page.getByText('Nothing changed since.').waitFor();
    await joris.close();
  });
});

describe('old days rolled up', () => {
  const heading = (words: string) => page.getByRole('heading', { level: 1, name: words }).waitFor();
  const figures = async () => {
    await page.goto(`http://localhost:${server.port}/reconcile/net_harrowmead/2026-09`);
    await untilCounted(page);
    await reported('Clicks').first().getByText(/\d/).waitFor();
    return balanceOn(page);
  };
  const rolledUp = (on: Page) => on.getByText(/requests before .* are kept as daily counts/);
  const rollUp = async () => {
    await page.goto(`http://localhost:${server.port}/setup`);
    await untilCounted(page);
    const storage = page.getByRole('region', { name: 'In this browser' });
    await pick(storage.getByLabel('Requests older than'), '2 months');
    await storage.getByRole('button', { name: 'Roll up by day' }).click();
    await rolledUp(page).waitFor({ timeout: 15_000 });
  };
  let before = '';

  it('keep every figure of the balance', async () => {
    before = await figures();
    await rollUp();
    expect(await figures()).toBe(before);
    // It holds after the window was closed.
    await page.reload();
    expect(await figures()).toBe(before);
  });

  it('come back in front of a person who looks at them, and no other figure is shown meanwhile', async () => {
    const other = await openApp(context, server, '/setup');
    await rolledUp(other).waitFor();
    /** Shows the month before and this one again. */
    const lookAround = async (): Promise<void> => {
      await page.keyboard.press('[');
      await heading('August 2026');
      await page.keyboard.press(']');
      await heading('September 2026');
    };
    /** What the balance said at any moment, while something went on. */
    const seenWhile = async (work: () => Promise<void>): Promise<string[]> => {
      await page.evaluate((selector) => {
        const seen = new Set<string>();
        const look = () => {
          const table = document.querySelector('main table');
          const cells = [...(table?.querySelectorAll(selector) ?? [])];
          if (cells.length > 0) seen.add(cells.map(({ textContent }) => textContent).join(' | '));
        };
        look();
        const observer = new MutationObserver(look);
        observer.observe(document.body, { childList: true, subtree: true, characterData: true });
        Object.assign(globalThis, { seen, stopLooking: () => observer.disconnect() });
      }, balanceCells);
      await work();
      return page.evaluate(() => {
        const { seen, stopLooking } = globalThis as unknown as { seen: Set<string>; stopLooking: () => void };
        stopLooking();
        return [...seen];
      });
    };
    const known = await seenWhile(async () => {
      await lookAround();
      await page.waitForTimeout(500);
    });
    expect(known).toHaveLength(2);
    expect(known[0]).toBe(before);
    const seen = await seenWhile(async () => {
      await other.getByRole('button', { name: 'Bring them back' }).click();
      while ((await rolledUp(other).count()) > 0) await lookAround();
      await untilCounted(page);
      await lookAround();
    });
    expect(known).toEqual(expect.arrayContaining(seen));
    expect(await figures()).toBe(before);
    expect(await rolledUp(other).count()).toBe(0);
    await other.close();
  });

  it('come back also where the window that was to fetch them is closed at that moment', async () => {
    await rollUp();
    // One that holds the lock of the window that stores, and hears nothing, as one that is being closed.
    await page.goto(`http://localhost:${server.port}/robots.txt`);
    await page.evaluate(
      () =>
        new Promise<void>((resolve) => {
          void navigator.locks.request('fernhop-journal', () => {
            resolve();
            return new Promise(() => undefined);
          });
        }),
    );
    const other = await openApp(context, server, '/setup');
    await rolledUp(other).waitFor();
    await other.getByRole('button', { name: 'Bring them back' }).click();
    await page.goto('about:blank');
    await vi.waitFor(async () => expect(await rolledUp(other).count()).toBe(0), { timeout: 15_000 });
    await untilCounted(other);
    expect(await figures()).toBe(before);
    await other.close();
  });
});
