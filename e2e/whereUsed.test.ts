import { readFileSync } from 'node:fs';
import { AxeBuilder } from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Page as PageRecord } from '#core/catalogue';
import { readTable } from '#core/formats';
import { pageId } from '#core/where-used';
import { changeOf, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { deskWithLink } from './desk.ts';

let browser: Browser;
let server: Running;
let page: Page;
let records: Awaited<ReturnType<typeof deskWithLink>>['records'];
/** The person's own site, as the stand-ins serve it. */
let site = '';
const rows = () => page.getByRole('table').getByRole('row');
const row = (name: string | RegExp) => rows().filter({ hasText: name }).first();
/** What is said of each link of a row that is opened. */
const open = async (name: string): Promise<string[]> => {
  await row(name).getByRole('button').click();
  return page.getByRole('table').locator('li').allInnerTexts();
};
const toPages = async (query = '') => {
  await page.goto(`http://localhost:${server.port}/place/pages${query}`);
  await page.getByRole('heading', { name: 'Pages' }).waitFor();
};
const places = () => page.getByRole('group', { name: 'Where it stands' });

beforeAll(async () => {
  browser = await startBrowser();
  const desk = await deskWithLink(browser, '/place/pages', { acceptDownloads: true });
  ({ server, page, records } = desk);
  site = `http://nightledge.localhost:${server.port + 1}`;
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

describe('where links are used', () => {
  it('is told by reading one’s own site, as its robots.txt allows', async () => {
    await page.getByText('No page is known to carry a link yet.').waitFor();
    await page.getByRole('button', { name: 'Read your site' }).click();
    const address = page.getByLabel('Address of your site');
    await address.fill('nothing');
    await page.getByRole('button', { name: 'Read it' }).click();
    await page.getByText('This is no address of a site').waitFor();
    // An address inside a network is not read, whatever is typed.
    await address.fill('http://10.0.0.1/');
    await page.getByRole('button', { name: 'Read it' }).click();
    await page.getByText('is an address inside a network and is not traced').waitFor();
    await address.fill(site);
    await page.getByRole('button', { name: 'Read it' }).click();
    // Reading goes on while something else is looked at.
    await page.getByRole('tab', { name: 'Sources' }).click();
    await page.getByRole('tab', { name: 'Pages' }).click();
    await page.getByText('5 pages read').waitFor();
    await page.getByRole('button', { name: 'Stop' }).waitFor({ state: 'detached' });
    const left = page.getByRole('list', { name: 'Not read' });
    expect(await left.getByRole('listitem').allInnerTexts()).toEqual([
      `nightledge.localhost:${server.port + 1}/drafts/winter The site’s robots.txt keeps it.`,
    ]);
    await row('Seeing the rings: what to buy first').waitFor();
    expect(await rows().count()).toBe(1 + 4);
    // The page without links is not among them.
    expect(await row('Open star night').count()).toBe(0);
    const said = await open('Seeing the rings');
    expect(said.find((each) => each.includes('saturn-kit'))).not.toContain('to mend');
    expect(said.filter((each) => each.startsWith('Leads nowhere'))).toHaveLength(2);
    expect(said.filter((each) => each.includes('Shop address'))).toHaveLength(1);
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  });

  it('is told by whoever comes from a page, and by page as by link', async () => {
    const reader = await freshPerson(browser);
    const article = await reader.newPage();
    await article.goto(`${site}/saturn-guide`);
    const [shop] = await Promise.all([
      reader.waitForEvent('page'),
      article.getByRole('link', { name: 'Saturn eyepiece kit' }).click(),
    ]);
    await shop.waitForURL(/polehouse/);
    await reader.close();
    await row('/saturn-guide').getByRole('cell', { name: '1', exact: true }).waitFor();
    await page.getByRole('button', { name: 'By link' }).click();
    const kit = row('Saturn eyepiece kit');
    await kit.waitFor();
    expect(
      (await open('Saturn eyepiece kit')).some((each) => /saturn-guide[\s\S]*1 visitor/.test(each)),
    ).toBe(true);
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save as CSV' }).click(),
    ]);
    const table = readTable(readFileSync(await download.path(), 'utf8'));
    const at = (name: string) => table.header.indexOf(name);
    const own = table.rows.filter((each) => each[at('page')] === `${site}/saturn-guide`);
    expect(own.find((each) => each[at('link')] === 'saturn-kit')?.[at('visitors')]).toBe('1');
    expect(own.map((each) => each[at('to mend')]).toSorted()).toEqual(['', 'nowhere', 'nowhere', 'shop']);
  });

  it('is told of files that were opened, and not any more once nothing of ours stands in them', async () => {
    const put = async (text: string) => {
      await page.goto(`http://localhost:${server.port}/place/articles`);
      await page
        .locator('input[type=file][accept*=html]')
        .first()
        .setInputFiles([{ name: 'old-post.md', mimeType: 'text/markdown', buffer: Buffer.from(text) }]);
      await page.getByRole('heading', { name: 'old-post.md' }).waitFor();
    };
    await put(`# An old post\n\nThe [kit](${records.link.destination.replace('{click}', '')}) we use.`);
    await toPages();
    await row('An old post').waitFor();
    expect(await open('An old post')).toEqual([expect.stringContaining('Raw tracking link')]);
    // What was read here stands elsewhere too: it is a record like any other.
    await put('# An old post\n\nNothing is linked.');
    await toPages();
    await row('Seeing the rings').waitFor();
    await row('An old post').waitFor({ state: 'detached' });
    await put(`# An old post\n\nThe [kit](${records.link.destination.replace('{click}', '')}) we use.`);
  });

  it('is said before a destination changes, and after it which places still need a hand', async () => {
    await page.goto(`http://localhost:${server.port}/links/lnk_saturn`);
    await page.getByRole('button', { name: 'Edit destination' }).click();
    await places()
      .getByText(/It stands in \d places: \d by its short address, which follows; \d to be changed by hand/)
      .waitFor();
    const field = page.getByRole('textbox', { name: 'Destination' });
    await field.fill(records.link.destination.replace('saturn', 'saturn-2'));
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await places().getByText('Earlier destination: saturn-kit led there before').first().waitFor();
    await places().getByText('old-post.md').waitFor();
    await page.keyboard.press('ControlOrMeta+z');
    await places().getByText('Raw tracking link').waitFor();
  });

  it('is said before a link is archived, and after it which places still need a hand', async () => {
    await page.getByRole('button', { name: 'More', exact: true }).click();
    await page.getByRole('button', { name: 'Archive', exact: true }).click();
    await places()
      .getByText(/by its short address, which then answers as you choose here/)
      .waitFor();
    expect(await places().first().innerText()).toContain('saturn-guide');
    await page.getByRole('button', { name: 'Archive', exact: true }).last().click();
    await page.getByText('Visitors are told that it is gone').waitFor();
    await places().getByText('who presses it gets nothing').first().waitFor();
    await places().getByRole('link').click();
    await row('Saturn eyepiece kit').waitFor();
    expect((await open('Saturn eyepiece kit'))[0]).toContain('Ended link');
    await page.goto(`http://localhost:${server.port}/links/lnk_saturn`);
    await page.getByText('Bring back').first().click();
  });

  it('forgets a page that is gone from the site, and keeps what could not be read this time', async () => {
    const recordOf = (path: string): PageRecord => ({
      id: pageId({ name: site + path }),
      name: site + path,
      title: `Page ${path}`,
      by: 'crawl',
      readAt: Date.now(),
      links: [
        {
          address: `http://see.nightledge.localhost:${server.port}/saturn-kit`,
          link: 'lnk_saturn',
          times: 1,
        },
      ],
    });
    await sendChanges(server, [changeOf('page', recordOf('/gone')), changeOf('page', recordOf('/down'))]);
    await toPages();
    await row('Page /gone').waitFor();
    await row('Page /down').waitFor();
    await row('Page /gone').getByRole('button').click();
    await page.getByRole('button', { name: 'Forget it' }).click();
    await row('Page /gone').waitFor({ state: 'detached' });
    await page.getByText('Undo').click();
    await row('Page /gone').waitFor();
    await page.route('**/api/crawl', (route) =>
      route.fulfill({
        contentType: 'application/x-ndjson',
        body: [
          { kind: 'left', url: `${site}/gone`, because: 'It was answered 404.', status: 404 },
          { kind: 'left', url: `${site}/down`, because: 'It took too long to answer.' },
          { kind: 'crawled', pages: 0, because: '' },
        ]
          .map((step) => `${JSON.stringify(step)}\n`)
          .join(''),
      }),
    );
    await page.getByRole('button', { name: 'Read your site' }).click();
    await page.getByLabel('Address of your site').fill(site);
    await page.getByRole('button', { name: 'Read it' }).click();
    await row('Page /gone').waitFor({ state: 'detached' });
    expect(await row('Page /down').count()).toBe(1);
    await page.unroute('**/api/crawl');
  });

  it('says what the server answers where it refuses, such as while another site is being read', async () => {
    await toPages();
    const key = {
      Authorization: `Bearer ${server.key}`,
      Origin: `http://localhost:${server.port}`,
      'Content-Type': 'application/json',
    };
    const stop = new AbortController();
    await page.getByRole('button', { name: 'Read your site' }).click();
    await page.getByLabel('Address of your site').fill(site);
    const first = fetch(`http://localhost:${server.port}/api/crawl`, {
      method: 'POST',
      headers: key,
      body: JSON.stringify({ site }),
      signal: stop.signal,
    }).catch(() => undefined);
    // It is under way for four seconds, five pages long.
    await page.waitForTimeout(300);
    await page.getByRole('button', { name: 'Read it' }).click();
    await page.getByText('One site is read at a time.').waitFor();
    stop.abort();
    await first;
    // Whoever goes away makes room for the next.
    await expect
      .poll(
        async () => {
          const again = page.getByRole('button', { name: 'Read it' });
          if (await again.isVisible()) await again.click();
          const site = page.getByRole('region', { name: 'Read your site' });
          return site.getByRole('status').innerText();
        },
        { timeout: 10_000 },
      )
      .toMatch(/^[1-5] pages? read/);
    await page.getByRole('button', { name: 'Stop' }).click();
    await page.getByText('You stopped it.').waitFor();
  });
});
