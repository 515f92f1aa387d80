import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { changeOf, fillFirst, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';
import { behindProxy, openAs, untilWritten } from './visitors.ts';

const slugs = ['saturn-kit', 'red-lamp', 'warm-gloves'];
const agent = (n: number) => `Mozilla/5.0 (X11; Linux x86_64; rv:${n}.0) Gecko/20100101 Firefox/${n}.0`;
let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  const list = join(freshFolder(), 'hosting.txt');
  writeFileSync(list, '203.0.113.0/24\n');
  server = await startServer({ env: { ...behindProxy, HOSTING_NETWORKS: list } });
  const { link } = await fillFirst(server);
  await sendChanges(
    server,
    slugs
      .slice(1)
      .map((slug, i) => changeOf('link', { ...link, id: `lnk_${i}`, slug, aliases: [], title: slug })),
  );
  /** Three links of the same mailing at once, from an address. */
  const all = async (address: string, n: number, source: string) => {
    for (const slug of slugs)
      await openAs(server, `/${slug}~${source}`, { 'User-Agent': agent(n), 'X-Forwarded-For': address });
  };
  await all('203.0.113.7', 140, 'newsletter');
  // A reader in a hurry, one at work behind a hosting network who reads an article, and one there who presses two links.
  await all('198.51.100.4', 141, 'newsletter');
  await all('203.0.113.8', 142, 'article');
  for (const slug of slugs.slice(1))
    await openAs(server, `/${slug}~newsletter`, {
      'User-Agent': agent(143),
      'X-Forwarded-For': '203.0.113.9',
    });
  await untilWritten(server, 11);
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, '/place/sources');
}, 120_000);
afterAll(async () => {
  await browser.close();
  await server.stop();
});

it('tells mail scanners from readers once it is said which source comes by mail, for the past as well', async () => {
  const visitsOf = async (source: string) => {
    await page.goto(`http://localhost:${server.port}/traffic?by=source`);
    const row = page
      .getByRole('table', { name: 'Traffic' })
      .getByRole('row')
      .filter({ has: page.getByRole('button', { name: source, exact: true }) });
    await row.waitFor();
    return row.innerText();
  };
  // Nobody said yet that they come by mail.
  await expect.poll(() => visitsOf('newsletter')).toMatch(/^newsletter\s+3\s/);
  await page.goto(`http://localhost:${server.port}/place/sources`);
  await page.getByRole('button', { name: 'newsletter', exact: true }).click();
  await page.getByLabel('Channel').fill('mail');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await page.getByText('newsletter is described.').waitFor();
  await expect.poll(() => visitsOf('newsletter')).toMatch(/^newsletter\s+2\s/);
  await expect.poll(() => visitsOf('article')).toMatch(/^article\s+1\s/);

  await page.goto(`http://localhost:${server.port}/traffic?by=bot&show=bot`);
  const bots = page
    .getByRole('table', { name: 'Traffic' })
    .getByRole('row')
    .filter({ has: page.getByRole('button', { name: 'mail scanner', exact: true }) });
  await expect.poll(() => bots.innerText()).toMatch(/^mail scanner\s[\s\S]*\b3\b/);
});
