import AxeBuilder from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { monthIn } from '#core/hop';
import { send } from '../standins/index.ts';
import { changeOf, readJournal, sendChanges } from '../server/client.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { clipboard, deskWithLink, openApp, startServer, untilLive } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

const serious = async (page: Page): Promise<string[]> => {
  const { violations } = await new AxeBuilder({ page }).analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target.join(' ')).join(', ')}`);
};

describe.each(['light', 'dark'] as const)('axe in the %s theme', (colorScheme) => {
  it('finds nothing serious on any view', async () => {
    const { server, records, context, page } = await deskWithLink(browser, '/links/lnk_saturn', {
      colorScheme,
    });
    const hop = await send(`http://see.nightledge.localhost:${server.port}/saturn-kit~newsletter`, {
      headers: { 'User-Agent': 'Firefox' },
    });
    const click = new URL(hop.headers.location ?? '').searchParams.get('ref1') ?? '';
    // One that counts, and one that cannot be read.
    for (const [txn, status] of [
      ['HM-1', 'open'],
      ['HM-2', 'weird'],
    ] as const)
      await send(
        `http://localhost:${server.port}/postback/${records.key}?click=${click}&amount=13.83&txn=${txn}&status=${status}`,
      );
    await page.getByText('1 conversion in 30 days').waitFor();
    expect(['links', await serious(page)]).toEqual(['links', []]);
    for (const section of ['entry', 'split', 'destination', 'hop', 'marks']) {
      await page.getByRole('button', { name: `Edit ${section}` }).click();
      expect([section, await serious(page)]).toEqual([section, []]);
      await page.getByRole('button', { name: 'Cancel' }).click();
    }
    for (const path of [
      `/links/lnk_saturn/click/${click}`,
      '/programs/net_harrowmead',
      `/reconcile/net_harrowmead/${monthIn(records.network.zone, Date.now())}`,
      '/setup',
    ]) {
      await page.goto(`http://localhost:${server.port}${path}`);
      await page
        .getByText(/Journey of a click|Last postbacks|is no state this network|Your name/i)
        .first()
        .waitFor();
      expect([path, await serious(page)]).toEqual([path, []]);
    }
    await page.keyboard.press('Escape');
    await page.locator('h1').click();
    await page.keyboard.press('?');
    await page.getByRole('heading', { name: 'Keys', exact: true }).waitFor();
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(['keys', await serious(page)]).toEqual(['keys', []]);

    await page.goto(`http://localhost:${server.port}/links/lnk_saturn`);
    await page.locator('html[data-whole]').waitFor({ state: 'attached' });
    await context.setOffline(true);
    await page.getByRole('button', { name: 'Edit entry' }).click();
    await page.getByLabel('Title', { exact: true }).fill('Mine');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('1 edit waits').click();
    await page.getByText('Waiting to be sent').waitFor();
    expect(['waiting', await serious(page)]).toEqual(['waiting', []]);
    await sendChanges(server, [changeOf('link', { ...records.link, title: 'Theirs' }, 2, 'Joris')]);
    await context.setOffline(false);
    await page.getByText('Joris changed the same').waitFor();
    expect(['two versions', await serious(page)]).toEqual(['two versions', []]);
    await context.close();

    const empty = await startServer();
    const newcomer = await freshPerson(browser, { colorScheme });
    const first = await openApp(newcomer, empty);
    await first.getByText('First, your domain').waitFor();
    expect(['empty', await serious(first)]).toEqual(['empty', []]);
    await newcomer.close();
    await Promise.all([server.stop(), empty.stop()]);
    // A dozen views are looked through one by one, and that takes as long as the machine is busy.
  }, 300_000);
});

describe('by keyboard alone', () => {
  it('a link is made, edited, copied, tested and left', async () => {
    const { server, context, page } = await deskWithLink(browser, '/links');
    await untilLoaded(page);
    await page.keyboard.press('/');
    await page.keyboard.type(
      `http://t.harrowmead.localhost:${server.port + 1}/r?by=nl-4471&deal=2093&ref1=&ref2=&page=http%3A%2F%2Fpolehouse.localhost%3A${server.port + 1}%2Ffilters%2Fmoon`,
    );
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Moon', level: 2 }).waitFor();
    await untilLive(page);

    // To the row, into the route, along the stem, into a section and out again.
    await page.keyboard.press('1');
    await page.locator('tbody tr').first().focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowUp');
    await page.keyboard.press('ControlOrMeta+c');
    await vi.waitFor(async () =>
      expect(await clipboard(page)).toBe(`http://see.nightledge.localhost:${server.port}/moon`),
    );
    await page.keyboard.press('Enter');
    expect(await focusedName(page)).toBe('Edit entry');
    await page.keyboard.press('ArrowDown');
    expect(await focusedName(page)).toBe('Edit split');
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    expect(await focusedName(page)).toBe('Edit hop');
    await page.keyboard.press('Enter');
    await page.keyboard.press('Space');
    await page.getByLabel('Hide from the network').focus();
    await page.keyboard.press('Space');
    await page.keyboard.press('Enter');
    await page.getByText('referrer hidden').first().waitFor();
    await page.keyboard.press('ControlOrMeta+z');
    await page.getByText('the network learns the site, not the page').first().waitFor();
    await page.keyboard.press('Escape');
    await vi.waitFor(() => expect(new URL(page.url()).pathname).toBe('/links'));

    // The test hop is not counted and shows its journey by itself. What was just undone has to be live first.
    await page.getByText('All 2 links live').waitFor();
    const row = page.locator('tbody tr').first();
    await row.focus();
    await page.keyboard.press('ArrowUp');
    const [tab] = await Promise.all([context.waitForEvent('page'), row.press('ControlOrMeta+Enter')]);
    await tab.getByRole('button', { name: 'Place order' }).waitFor();
    await page.getByText('Your own test: kept, not counted.').waitFor();
    expect(
      (await readJournal(server)).flatMap((record) => (record.kind === 'hop' ? [record.test] : [])),
    ).toEqual([true]);
    await page.keyboard.press('7');
    await page.getByRole('heading', { name: 'Setup' }).waitFor();
    await context.close();
    await server.stop();
  });

  it('the paste bar finds a short link, words, a click ID and a transaction', async () => {
    const { server, records, context, page } = await deskWithLink(browser, '/setup');
    const hop = await send(`http://see.nightledge.localhost:${server.port}/saturn`);
    const click = new URL(hop.headers.location ?? '').searchParams.get('ref1') ?? '';
    await send(
      `http://localhost:${server.port}/postback/${records.key}?click=${click}&amount=13.83&txn=HM-77`,
    );
    await page.getByText(/postback Harrowmead/).waitFor();
    for (const [text, path] of [
      [`http://see.nightledge.localhost:${server.port}/SATURN~flyer`, '/links/lnk_saturn'],
      ['eyepiece kit', '/links/lnk_saturn'],
      [click.toLowerCase(), `/links/lnk_saturn/click/${click}`],
      ['HM-77', `/links/lnk_saturn/click/${click}`],
    ] as const) {
      await page.goto(`http://localhost:${server.port}/setup`);
      await page.getByRole('heading', { name: 'Setup' }).waitFor();
      await page.getByText(/postback Harrowmead/).waitFor();
      await page.keyboard.press('/');
      await page.keyboard.type(text);
      await page.getByText('Enter', { exact: true }).waitFor();
      await page.keyboard.press('Enter');
      await vi.waitFor(() => expect(new URL(page.url()).pathname).toBe(path));
    }
    await context.close();
    await server.stop();
  });
});

const focusedName = (page: Page) => page.evaluate(() => document.activeElement?.getAttribute('aria-label'));
const untilLoaded = (page: Page) => page.locator('tbody tr').first().waitFor();
