import AxeBuilder from '@axe-core/playwright';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fillSeason } from '../demo/fill.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';

let browser: Browser;
let server: Running;
let context: BrowserContext;
let page: Page;

beforeAll(async () => {
  const dataDir = freshFolder();
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 6000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
  // A phone of a usual size; its layout is as wide as its screen.
  context = await freshPerson(browser, {
    viewport: { width: 390, height: 844 },
    deviceScaleFactor: 2,
    isMobile: true,
    hasTouch: true,
  });
  page = await openApp(context, server);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** Fewest letters of a text that has to be cut. */
const fewest = 12;
/**
 * Texts that are cut so that fewer letters are left, and what reaches beyond the screen, but for what lies in a table that
 * scrolls by itself.
 */
const faults = (): Promise<string[]> =>
  page.evaluate((least) => {
    const found: string[] = [];
    const isSeen = (element: Element) => {
      const box = element.getBoundingClientRect();
      return box.width > 1 && box.height > 1 && element.checkVisibility({ visibilityProperty: true });
    };
    for (const element of document.querySelectorAll('main *, header *, nav *')) {
      if (!isSeen(element) || element.closest('.visually-hidden, svg, [aria-hidden=true], select')) continue;
      const text = (element.textContent ?? '').trim().replaceAll(/\s+/g, ' ');
      const style = getComputedStyle(element);
      const cuts = style.overflowX === 'hidden' || style.textOverflow === 'ellipsis';
      if (cuts && text !== '' && element.scrollWidth > element.clientWidth + 1) {
        const left = Math.floor((text.length * element.clientWidth) / element.scrollWidth);
        if (left < least) found.push(`cut to about ${left} letters: ${text.slice(0, 60)}`);
      }
      const scroller = element.closest('[data-scrolls], .table-scroll, .v-table__wrapper, table');
      const box = element.getBoundingClientRect();
      if (!scroller && text !== '' && element.children.length === 0 && box.right > innerWidth + 1)
        found.push(`beyond the screen: ${text.slice(0, 60)}`);
    }
    if (document.documentElement.scrollWidth > innerWidth) found.push('the page scrolls sideways');
    return [...new Set(found)];
  }, fewest);

const expectWhole = async (what: string): Promise<void> => {
  await page.waitForTimeout(500);
  expect([what, await faults()]).toEqual([what, []]);
  const { violations } = await new AxeBuilder({ page }).analyze();
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
  expect(
    serious.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target.join(' ')).join()}`),
  ).toEqual([]);
};

describe('on a phone', () => {
  it('a branch is dragged in place with a finger', async () => {
    await page.goto(`http://localhost:${server.port}/links/lnk_mount`);
    await page.getByRole('button', { name: 'Edit split' }).tap();
    for (const n of [0, 1]) {
      await page.getByRole('button', { name: 'Add a branch' }).tap();
      await page
        .getByLabel('Name of the branch')
        .nth(n)
        .fill(`Branch ${'AB'.charAt(n)}`);
    }
    const names = () =>
      page
        .getByLabel('Name of the branch')
        .evaluateAll((list) => list.map((field) => (field as HTMLInputElement).value));
    expect(await names()).toEqual(['Branch A', 'Branch B']);
    const grip = page.getByRole('button', { name: 'Branch 2: drag' });
    await grip.scrollIntoViewIfNeeded();
    const middle = async (n: number) => {
      const box = await page.getByRole('button', { name: `Branch ${n}: drag` }).boundingBox();
      if (!box) throw new Error(`Branch ${n} is not on the screen.`);
      return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
    };
    const [first, second] = [await middle(1), await middle(2)];
    const finger = await page.context().newCDPSession(page);
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', y?: number) =>
      finger.send('Input.dispatchTouchEvent', {
        type,
        touchPoints: y === undefined ? [] : [{ x: second.x, y }],
      });
    await touch('touchStart', second.y);
    const steps = 12;
    for (let i = 1; i <= steps; i++) {
      await touch('touchMove', second.y + ((first.y - 12 - second.y) * i) / steps);
      await page.waitForTimeout(30);
    }
    await touch('touchEnd');
    await expect.poll(names, { timeout: 10_000 }).toEqual(['Branch B', 'Branch A']);
    await page.getByText('Branch 2 is now tried as number 1.').waitFor({ state: 'attached' });
    await page.getByRole('button', { name: 'Cancel' }).tap();
    await page.goto(`http://localhost:${server.port}/links`);
  });

  it('a link that is pressed covers the list, and is whole', async () => {
    await page.locator('tr[data-link]').first().tap();
    await page.getByRole('button', { name: 'Edit hop' }).waitFor();
    await expectWhole('a link');
    await page.getByRole('button', { name: 'another way' }).tap();
    await page.getByRole('list', { name: 'How it sends on' }).waitFor();
    await expectWhole('the ways it hops');
  });

  it.each([
    ['/links', 'Links'],
    ['/traffic?from=2026-10-24&to=2026-11-22&chart=outcomes', 'newsletter'],
    ['/traffic?from=2026-10-24&to=2026-11-22&at=newsletter', 'Newest visits'],
    ['/reconcile/net_harrowmead/2026-10', 'Conversions'],
    ['/ledger/net_harrowmead/2026-10', 'Ledger'],
    ['/payments/net_harrowmead', 'still owed'],
    ['/programs/net_harrowmead', 'Last postbacks'],
    ['/decide?from=2026-08-25&to=2026-11-22', 'podcast'],
    ['/decide?from=2026-08-25&to=2026-11-22&at=podcast', 'Profit so far'],
    ['/decide/costs', 'podcast'],
    ['/decide/writers?month=2026-10&writer=Maren', 'Save as a page'],
    ['/decide/promotions', 'Star nights'],
    ['/decide/promotions/prm_starnights', 'By source'],
    ['/place/articles', 'Choose or drop'],
    ['/place/products', 'Find by name or code'],
    ['/place/feed', 'Choose or drop'],
    ['/place/kits', 'New kit for a link'],
    ['/place/pages', 'To mend'],
    ['/place/pages/script', 'known to it'],
    ['/place/sources', 'Find a source'],
    ['/trace', 'Address to follow'],
    ['/import', 'Drop files'],
    ['/setup', 'Your name'],
  ])('%s shows names and figures whole', async (path, word) => {
    await page.goto(`http://localhost:${server.port}${path}`);
    await page.getByText(word).or(page.getByLabel(word)).first().waitFor();
    await expectWhole(path);
  });
});
