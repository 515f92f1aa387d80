import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { startBrowser } from './browser.ts';
import { deskWithLink, openApp, personWithoutJournal, rowOf } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

describe('the first screen', () => {
  it('loads at most 260 KB of compressed script, and nothing from elsewhere', async () => {
    const { server, context, page } = await deskWithLink(browser);
    await page.close();
    const cold = await context.newPage();
    const session = await context.newCDPSession(cold);
    await session.send('Network.enable');
    await session.send('Network.setCacheDisabled', { cacheDisabled: true });
    const scripts = new Set<string>();
    let bytes = 0;
    const hosts = new Set<string>();
    session.on('Network.responseReceived', ({ requestId, response, type }) => {
      if (!response.url.startsWith('data:')) hosts.add(new URL(response.url).host);
      if (type === 'Script' || response.url.endsWith('.js')) scripts.add(requestId);
    });
    session.on('Network.loadingFinished', ({ requestId, encodedDataLength }) => {
      if (scripts.has(requestId)) bytes += encodedDataLength;
    });
    await cold.goto(`http://localhost:${server.port}/links/lnk_saturn`);
    await cold.getByText('The link is live').waitFor();
    // What comes after is fetched for later, while the first screen is in use.
    expect(scripts.size).toBeGreaterThan(0);
    expect(bytes / 1024).toBeGreaterThan(50);
    expect(bytes / 1024).toBeLessThanOrEqual(260);
    expect([...hosts]).toEqual([`localhost:${server.port}`]);
    await context.close();
    await server.stop();
  });

  it('asks for the key where there is none, and says what the server lacks', async () => {
    const { server, context, page } = await deskWithLink(browser);
    await context.close();
    const stranger = await browser.newContext();
    const first = await stranger.newPage();
    await first.goto(`http://localhost:${server.port}/setup`);
    await first.getByText('Key needed: see Setup').waitFor();
    await first.getByLabel('Key of the server').fill(server.key);
    await first.getByRole('button', { name: 'Keep key' }).click();
    await first.getByText('The link is live').waitFor();
    expect(page.isClosed()).toBe(true);
    await stranger.close();
    await server.stop();
  });

  it('says nothing of figures until the journal is whole', async () => {
    const { server, context } = await deskWithLink(browser);
    await context.close();
    const slow = await personWithoutJournal(browser);
    const page = await slow.context.newPage();
    await page.goto(`http://localhost:${server.port}/links/lnk_saturn#key=${server.key}`);
    await page.getByText('1, last 30 days, still arriving').waitFor();
    expect(await rowOf(page, 'saturn-kit')).toMatchObject({ Visitors: '…', 'Conv.': '…', EPC: '…' });
    await page.getByText('Visits and conversions are still arriving.').waitFor();
    slow.letGo();
    await page.getByText('No conversion in 30 days.').waitFor();
    expect(await page.getByText('still arriving').count()).toBe(0);
    expect(await rowOf(page, 'saturn-kit')).toMatchObject({ Visitors: '0', 'Conv.': '0', EPC: '—' });
    await slow.context.close();
    await server.stop();
  });
});

describe('a page on another host', () => {
  it('can neither embed the application nor call its server', async () => {
    const { server, context, page } = await deskWithLink(browser);
    const evil = await context.newPage();
    await evil.route('http://evil.localhost/', (route) =>
      route.fulfill({
        contentType: 'text/html',
        body: `<!doctype html><iframe src="http://localhost:${server.port}/links"></iframe>`,
      }),
    );
    await evil.goto('http://evil.localhost/');
    await evil.waitForTimeout(500);
    const inside = await Promise.all(
      evil
        .frames()
        .slice(1)
        .map((frame) => frame.locator('#app').count()),
    );
    expect(inside).toEqual([0]);
    const calls = await evil.evaluate(async (port) => {
      const attempt = (path: string, options: RequestInit) =>
        fetch(`http://localhost:${port}${path}`, options).then(
          async (response) => `${response.type} ${response.status} ${await response.text()}`,
          () => 'refused',
        );
      return Promise.all([
        attempt('/api/health', {}),
        attempt('/api/changes', { headers: { Authorization: 'Bearer x' } }),
        attempt('/api/changes', {
          method: 'POST',
          body: '{"changes":[]}',
          mode: 'no-cors',
          headers: { 'Content-Type': 'text/plain' },
        }),
      ]);
    }, server.port);
    expect(calls.slice(0, 2)).toEqual(['refused', 'refused']);
    // Sent without looking, it is refused by the server and tells nothing.
    expect(['opaque 0 ', 'refused']).toContain(calls[2]);
    const second = await openApp(context, server, '/links/lnk_saturn');
    await second.getByText('The link is live').waitFor();
    expect(page.url()).toContain('/links/');
    await context.close();
    await server.stop();
  });
});
