import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fillFirst } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { startBrowser } from './browser.ts';
import { openApp, openDesk, personWithoutJournal, rowOf, startServer } from './desk.ts';

let browser: Browser;
let server: Running;
beforeAll(async () => {
  browser = await startBrowser();
  server = await startServer();
  await fillFirst(server);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

describe('the first screen', () => {
  it('loads at most 190 KB of compressed script, and nothing from elsewhere', async () => {
    const { context, page } = await openDesk(browser, server);
    await page.close();
    const cold = await context.newPage();
    const session = await context.newCDPSession(cold);
    await session.send('Network.enable');
    await session.send('Network.setCacheDisabled', { cacheDisabled: true });
    const hosts = new Set<string>();
    session.on('Network.responseReceived', ({ response }) => {
      if (!response.url.startsWith('data:')) hosts.add(new URL(response.url).host);
    });
    // The page's own clock says what was there by then: what it asks for once it is drawn is for later.
    await cold.addInitScript(() => {
      new MutationObserver((_changes, observer) => {
        if (!document.body?.textContent?.includes('The link is live')) return;
        observer.disconnect();
        performance.mark('live');
      }).observe(document, { childList: true, subtree: true, characterData: true });
    });
    await cold.goto(`http://localhost:${server.port}/links/lnk_saturn`);
    await cold.getByText('The link is live').waitFor();
    const loaded = await cold.evaluate(() => {
      const live = performance.getEntriesByName('live')[0]?.startTime ?? 0;
      return (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
        .filter(({ name, responseEnd }) => /\.js$/.test(name) && responseEnd <= live)
        .map(({ name, encodedBodySize }): [string, number] => [name, encodedBodySize / 1024]);
    });
    // A worker computes while the screen is drawn already.
    const own = loaded.filter(([name]) => !name.includes('.worker-'));
    const sum = own.reduce((all, [, each]) => all + each, 0);
    expect(sum).toBeGreaterThan(50);
    expect(sum, JSON.stringify(own)).toBeLessThanOrEqual(190);
    expect([...hosts]).toEqual([`localhost:${server.port}`]);
    await context.close();
  });

  it('asks for the key where there is none, and says what the server lacks', async () => {
    const stranger = await browser.newContext();
    const first = await stranger.newPage();
    await first.goto(`http://localhost:${server.port}/setup`);
    await first.getByText('Key needed: see Setup').waitFor();
    await first.getByLabel('Key of the server').fill(server.key);
    await first.getByRole('button', { name: 'Keep key' }).click();
    await first.getByText('The link is live').waitFor();
    await stranger.close();
  });

  it('says what to do where this browser’s data is in an older format, and leaves it as it is', async () => {
    const older = await browser.newContext();
    const page = await older.newPage();
    await page.goto(`http://localhost:${server.port}/mark.svg`);
    const openOld = (version?: number) =>
      page.evaluate(
        (format) =>
          new Promise<number>((resolve, reject) => {
            const request = indexedDB.open('fernhop', format);
            request.onerror = () => reject(request.error ?? new Error('not opened'));
            request.onsuccess = () => {
              resolve(request.result.version);
              request.result.close();
            };
          }),
        version,
      );
    expect(await openOld(5)).toBe(5);
    await page.goto(`http://localhost:${server.port}/`);
    await page.getByRole('alert').getByText('is in format 5, and Fernhop reads format 7 alone').waitFor();
    expect(await openOld()).toBe(5);
    await older.close();
  });

  it('says nothing of figures until the journal is whole', async () => {
    const slow = await personWithoutJournal(browser);
    const page = await slow.context.newPage();
    await page.goto(`http://localhost:${server.port}/links/lnk_saturn#key=${server.key}`);
    await page.getByText('1, last 30 days, still arriving').waitFor();
    expect(await rowOf(page, 'saturn-kit')).toMatchObject({ Visits: '…', 'Conv.': '…', EPC: '…' });
    await page.getByText('Visits and conversions are still arriving.').waitFor();
    const tape = page.getByLabel('Live events, newest first');
    expect(await tape.innerText()).toBe('still arriving');
    slow.letGo();
    await page.getByText('No conversion in 30 days.').waitFor();
    expect(await page.getByText('still arriving').count()).toBe(0);
    expect(await tape.innerText()).toBe('quiet so far');
    expect(await rowOf(page, 'saturn-kit')).toMatchObject({
      Visits: '0',
      'Conv.': '0',
      EPC: '—\nno visits',
    });
    await slow.context.close();
  });
});

describe('a page on another host', () => {
  it('can neither embed the application nor call its server', async () => {
    const { context, page } = await openDesk(browser, server);
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
  });
});
