import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { ReadingRecord } from '#core/visits';
import { changeOf, fillFirst, readJournal, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { asPerson, freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer, untilCounted } from './desk.ts';

/** A page of the person's own, with the script, longer than any window. */
const site = createServer((_request, response) => {
  response.setHeader('Content-Type', 'text/html; charset=utf-8');
  response.end(
    `<!doctype html><html lang="en"><title>First night</title><body><p>A first night out.</p><div style="height:5000px"></div><p>End.</p><script src="http://see.nightledge.localhost:${server.port}/place.js"></script>`,
  );
});
let browser: Browser;
let server: Running;
let landing = '';
const domain = () => `http://see.nightledge.localhost:${server.port}`;
let visitors = 0;
const newVisitor = (): Promise<BrowserContext> =>
  freshPerson(browser, {
    userAgent: `Mozilla/5.0 (X11; Linux x86_64; rv:${140 + visitors++}.0) Gecko/20100101 Firefox/140.0`,
  });
/** Opens a short link, does something there, and leaves the page. */
const visit = async (path: string, there: (tab: Page) => Promise<unknown>): Promise<void> => {
  const visitor = await newVisitor();
  const tab = await visitor.newPage();
  await tab.goto(domain() + path);
  await there(tab);
  await tab.goto(`${domain()}/robots.txt`);
  // A beacon is sent while the next page is shown.
  await tab.waitForTimeout(700);
  await visitor.close();
};

beforeAll(async () => {
  browser = await startBrowser(asPerson);
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
  landing = `http://nightledge.localhost:${(site.address() as AddressInfo).port}/first-night`; // it listens on a port
  server = await startServer();
  const { link } = await fillFirst(server);
  const { program: _, network: __, ...rest } = link;
  const made = (id: string, more: object) =>
    changeOf('link', { ...rest, id, slug: id.slice(4), aliases: [], ...more });
  await sendChanges(server, [
    made('lnk_frame', { title: 'Framed shop', hop: { page: 'frame' } }),
    made('lnk_wait', {
      title: 'Page that waits',
      hop: { page: 'refresh', wait: { seconds: 3, text: '', button: 'Go on', progress: false } },
    }),
    made('lnk_plain', { title: 'Plain' }),
    made('lnk_ad', { title: 'Advertised', destination: `${landing}?from-click={click}&from={source}` }),
  ]);
}, 60_000);
afterAll(async () => {
  await browser.close();
  site.close();
  await server.stop();
});

it('is told by frames, waiting pages and pages with the script, shown where it is known, and by redirects not at all', async () => {
  await visit('/frame~club', async (tab) => {
    await tab.frameLocator('iframe').getByText('Saturn').first().waitFor();
    await tab.waitForTimeout(3000);
  });
  await visit('/frame~club', (tab) => tab.waitForTimeout(1200));
  await visit('/wait', (tab) => tab.waitForURL(/polehouse|harrowmead/, { timeout: 10_000 }));
  await visit('/plain~club', (tab) => tab.waitForTimeout(500));
  await visit('/ad~club', async (tab) => {
    await tab.waitForURL(/from-click=/);
    await tab.mouse.wheel(0, 1500);
    await tab.waitForTimeout(1500);
  });
  await visit('/ad~bought', (tab) => tab.waitForTimeout(1000));
  // What was gathered is written when the server ends.
  await server.stop();
  server = await startServer({ dataDir: server.dataDir });
  const kept = (await readJournal(server)).filter(
    (record): record is ReadingRecord => record.kind === 'reading',
  );
  const of = (link: string | undefined, source: string) =>
    kept.filter((one) => one.link === link && one.source === source);
  const [framed] = of('lnk_frame', 'club');
  expect(framed?.views).toBe(2);
  expect(framed?.seconds).toBeGreaterThanOrEqual(4);
  expect(framed?.seconds).toBeLessThan(15);
  const [waited] = of('lnk_wait', '');
  expect(waited?.views).toBe(1);
  expect(Math.abs((waited?.seconds ?? 0) - 3)).toBeLessThanOrEqual(2);
  expect(of(undefined, 'club')).toMatchObject([{ page: landing, views: 1, scrolled: 1 }]);
  expect(of(undefined, 'bought')).toMatchObject([{ page: landing, views: 1, scrolled: 0 }]);
  expect(kept.length).toBe(4);

  const page = await openApp(await freshPerson(browser), server, '/links/lnk_frame');
  await untilCounted(page);
  await page.getByText(/^In sight for \d seconds on average, as 2 visits told\.$/).waitFor();
  const pane = async (address: string) => {
    await page.goto(`http://localhost:${server.port}${address}`);
    const lines = page.locator('.pane');
    await lines.getByRole('heading', { name: 'Time spent' }).waitFor();
    return lines.innerText();
  };
  const club = await pane('/traffic?by=source&at=club');
  expect(club).toMatch(/In sight for \d seconds on average, as 2 visits told\./);
  expect(club).toMatch(
    /Your pages were in sight for .* as 1 view told\. 100% of those who came by a link scrolled\./,
  );
  expect(await pane('/traffic?by=link&at=lnk_plain')).toContain(
    'A redirect cannot know it: only frames, waiting pages and pages with the script tell, and none did.',
  );
  // What no page tells is not claimed.
  await page.goto(`http://localhost:${server.port}/traffic?by=device&at=desktop`);
  await page.locator('.pane').getByText('Where they went').waitFor();
  expect(await page.locator('.pane').innerText()).not.toContain('Time spent');
}, 120_000);
