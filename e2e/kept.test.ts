import { createServer, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage } from '#core/catalogue';
import { call } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshFolder } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, untilCounted, untilLive } from './desk.ts';
import { deskAndOthers } from './deskAndOthers.ts';
import { onDisk, onSmallDisk } from './ownProfile.ts';

let browser: Browser;
let desk: Awaited<ReturnType<typeof deskAndOthers>>;
let server: Running;
let context: BrowserContext;
let page: Page;

beforeAll(async () => {
  browser = await startBrowser();
  desk = await deskAndOthers(browser);
  ({ server, context, page } = desk);
});
// One that fails leaves the others a network.
afterEach(() => context.setOffline(false));
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const isRoot = process.getuid?.() === 0;

describe('a save that this browser cannot keep', () => {
  it.runIf(isRoot)(
    'is told, with all that was typed still there, and goes through once there is room',
    async () => {
      const { window, fill, free, end } = await onSmallDisk();
      try {
        const view = await openApp(window, server, '/links/lnk_saturn');
        await untilLive(view);
        await desk.editEntry('Title', 'Typed on a full disk', view);
        await view.getByLabel('Notes', { exact: true }).fill('much to say. '.repeat(300));
        await fill();
        await desk.save(view);
        // It depends on what of the storage was open.
        await view
          .getByRole('alert')
          .getByText(/^Nothing was saved: .*Free some room/)
          .waitFor();
        expect(await view.getByLabel('Title', { exact: true }).inputValue()).toBe('Typed on a full disk');
        free();
        await desk.save(view);
        await desk.heading('Typed on a full disk', view);
        await untilLive(view);
        expect(await view.getByText('Nothing was saved').count()).toBe(0);
      } finally {
        await end();
      }
    },
  );

  it('since another tab has a newer database says so, and what was typed is kept by loading anew', async () => {
    const own = await freshPerson(browser);
    const first = await openApp(own, server, '/links/lnk_saturn');
    await untilLive(first);
    const newer = await own.newPage();
    await newer.goto(`http://localhost:${server.port}/mark.svg`);
    await newer.evaluate(
      () =>
        new Promise<void>((resolve, reject) => {
          const opening = indexedDB.open('fernhop', 99);
          opening.onsuccess = () => resolve();
          opening.onerror = () => reject(opening.error ?? new Error('not opened'));
        }),
    );
    await desk.editEntry('Title', 'Typed beside a newer tab', first);
    await desk.save(first);
    await first.getByRole('alert').getByText('another tab runs a newer Fernhop').waitFor();
    expect(await first.getByLabel('Title', { exact: true }).inputValue()).toBe('Typed beside a newer tab');
    await own.close();
  });

  it('after the site’s data was cleared is kept all the same: the storage is filled again', async () => {
    await context.setOffline(true);
    await desk.editEntry('Notes', 'before the storage went');
    await desk.save();
    await page.getByText('Server away: 1 edit waits').waitFor();
    const session = await context.newCDPSession(page);
    await session.send('Storage.clearDataForOrigin', {
      origin: `http://localhost:${server.port}`,
      storageTypes: 'indexeddb',
    });
    await desk.editEntry('Title', 'After the storage went');
    await desk.save();
    await desk.heading('After the storage went');
    const rows = await page.evaluate(
      () =>
        new Promise<number[]>((resolve, reject) => {
          const opening = indexedDB.open('fernhop');
          opening.onerror = () => reject(opening.error ?? new Error('not opened'));
          opening.onsuccess = () => {
            const tx = opening.result.transaction(['records', 'outbox']);
            const [all, waiting] = [tx.objectStore('records').count(), tx.objectStore('outbox').count()];
            tx.oncomplete = () => {
              opening.result.close();
              resolve([all.result, waiting.result]);
            };
          };
        }),
    );
    expect(rows).toEqual([4, 1]);
    await context.setOffline(false);
    await untilLive(page);
    expect((await desk.stored('lnk_saturn'))?.value).toMatchObject({
      title: 'After the storage went',
      notes: 'before the storage went',
    });
    await session.detach();
  });
});

describe('what answers in the place of the server', () => {
  it('a portal’s page with 200 changes nothing, and is called what it is', async () => {
    await desk.goTo('/links/lnk_saturn');
    await untilLive(page);
    await send(`http://see.nightledge.localhost:${server.port}/saturn-kit`, {
      headers: { 'User-Agent': 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0' },
    });
    await page.getByLabel('Live events, newest first').getByText('saturn-kit').waitFor();
    const seen = await page.locator('table.list tbody tr').first().innerText();
    await context.route('**/api/**', (route) =>
      route.fulfill({
        status: 200,
        contentType: 'text/html',
        body: '<html><h1>Sign in to the hotel</h1></html>',
      }),
    );
    await desk.goTo('/links/lnk_saturn');
    await page.getByText('Not our server').waitFor();
    await page.waitForTimeout(2500);
    expect(await page.locator('table.list tbody tr').first().innerText()).toBe(seen);
    await page.getByText('Not our server').click();
    await page.getByText('such as the sign-in page of a network you joined').waitFor();
    await context.unroute('**/api/**');
    await desk.goTo('/links/lnk_saturn');
    await untilLive(page);
    await vi.waitFor(async () =>
      expect(await page.locator('table.list tbody tr').first().innerText()).toBe(seen),
    );
  });

  it('a proxy that takes less than the server gets smaller calls, and what is too large alone is named', async () => {
    const limit = 20_000;
    const proxy = createServer((incoming, outgoing) => {
      const chunks: Buffer[] = [];
      incoming.on('data', (chunk: Buffer) => chunks.push(chunk));
      incoming.on('end', () => {
        const body = Buffer.concat(chunks);
        if (body.length > limit) {
          outgoing.writeHead(413, { 'Content-Type': 'text/html' }).end('<h1>413</h1>');
          return;
        }
        const onward = request(
          {
            port: server.port,
            host: '127.0.0.1',
            method: incoming.method,
            path: incoming.url,
            headers: { ...incoming.headers, host: `localhost:${server.port}` },
          },
          (answer) => {
            outgoing.writeHead(answer.statusCode ?? 502, answer.headers);
            answer.pipe(outgoing);
          },
        );
        onward.on('error', () => outgoing.destroy());
        onward.end(body);
      });
    });
    await new Promise<void>((resolve) => proxy.listen(0, '127.0.0.1', resolve));
    const { port } = proxy.address() as AddressInfo; // it listens on a port
    await context.route('**/api/changes', (route) =>
      route.request().method() === 'POST'
        ? route
            .fetch({ url: `http://127.0.0.1:${port}/api/changes` })
            .then((response) => route.fulfill({ response }))
        : route.continue(),
    );
    await desk.goTo('/import');
    const rows = Array.from(
      { length: 60 },
      (_, n) => `k${n},https://polehouse.example/${n},${'note '.repeat(150)}`,
    );
    await page.locator('input[type=file]').setInputFiles({
      name: 'links.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(`slug,destination,notes\n${rows.join('\n')}\n`),
    });
    await page.getByRole('button', { name: /60 links/ }).click();
    await page.getByText('All 61 links live').waitFor();
    await context.unroute('**/api/changes');
    await new Promise((resolve) => proxy.close(resolve));
  });
});

describe('the worker that keeps the figures', () => {
  it('is started again when it dies, and the screen says so meanwhile', async () => {
    await desk.goTo('/links/lnk_saturn');
    await untilCounted(page);
    const tape = page.getByLabel('Live events, newest first');
    const before = await page.locator('table.list tbody tr').first().innerText();
    const isJournal = (url: string) => url.includes('journal.worker');
    const worker = page.workers().find((found) => isJournal(found.url()));
    void worker?.evaluate(() => self.close()).catch(() => undefined);
    await tape.getByText('stopped, starting again').waitFor();
    await untilCounted(page);
    expect(await page.locator('table.list tbody tr').first().innerText()).toBe(before);
  });

  it.runIf(isRoot)('misses nothing of what came while this browser could keep nothing', async () => {
    const { window, fill, free, end } = await onSmallDisk();
    const view = await openApp(window, server, '/ledger/net_harrowmead');
    await fill();
    for (let n = 0; n < 30; n++)
      await send(
        `http://see.nightledge.localhost:${server.port}/postback/${desk.records.key}?txn=full-${n}&amount=5.00&currency=EUR&status=approved&event=sale&note=${'x'.repeat(2000)}`,
      );
    await view.waitForTimeout(3000);
    free();
    const rows = async () =>
      (await view.locator('tbody tr').allInnerTexts()).filter((row) => row.includes('full-')).length;
    await vi.waitFor(async () => expect(await rows()).toBe(30), { timeout: 20_000 });
    // And on its disk, not in memory alone.
    await view.reload();
    await vi.waitFor(async () => expect(await rows()).toBe(30), { timeout: 20_000 });
    await end();
  });
});

describe('without the server', () => {
  it('the application opens, also a screen that was never open before, and edits are kept', async () => {
    const own = await freshPerson(browser, { serviceWorkers: 'allow' });
    const view = await openApp(own, server, '/links/lnk_saturn');
    await untilLive(view);
    await view.evaluate(() => navigator.serviceWorker.ready);
    await view.waitForFunction(async () => (await caches.keys()).length > 0);
    await view.waitForFunction(async () => {
      const names = await caches.keys();
      const kept = await Promise.all(
        names.map(async (name) => (await (await caches.open(name)).keys()).length),
      );
      return kept.some((count) => count > 40);
    });
    await own.setOffline(true);
    await view.reload();
    await view.getByText('Server away').waitFor();
    await desk.heading('After the storage went', view);
    await desk.goTo('/payments/net_harrowmead', view);
    await view.getByRole('heading', { name: 'Payments of Harrowmead' }).waitFor();
    await desk.goTo('/links/lnk_saturn', view);
    await desk.editEntry('Notes', 'written on a train', view);
    await desk.save(view);
    await view.getByText('Server away: 1 edit waits').waitFor();
    await own.setOffline(false);
    await untilLive(view);
    expect((await desk.stored('lnk_saturn'))?.value).toMatchObject({ notes: 'written on a train' });
    await own.close();
  });
});

describe('a browser that is killed', () => {
  it('while it brings in 2,000 links has all of them or none; two at once keep what they said is saved', async () => {
    const [mine, theirs] = [freshFolder(), freshFolder()];
    const rows = Array.from({ length: 2000 }, (_, n) => `mass-${n},https://polehouse.example/${n}`);
    const first = await onDisk(mine);
    const second = await onDisk(theirs);
    const other = await openApp(second.window, server, '/links/lnk_saturn');
    await untilLive(other);
    await second.window.setOffline(true);
    await desk.editEntry('Title', 'Saved before the kill', other);
    await desk.save(other);
    await other.getByRole('heading', { name: 'Saved before the kill' }).waitFor();

    const importing = await openApp(first.window, server, '/import');
    await first.window.setOffline(true);
    await importing.locator('input[type=file]').setInputFiles({
      name: 'links.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(`slug,destination\n${rows.join('\n')}\n`),
    });
    const button = importing.getByRole('button', { name: /2,000 links/ });
    await button.waitFor();
    void button.click().catch(() => undefined);
    await importing.waitForTimeout(120);
    await Promise.all([first.kill(), second.kill()]);

    const again = await onDisk(mine);
    const reopened = await openApp(again.window, server, '/links');
    const held = await reopened.evaluate(
      () =>
        new Promise<number>((resolve, reject) => {
          const opening = indexedDB.open('fernhop');
          opening.onerror = () => reject(opening.error ?? new Error('not opened'));
          opening.onsuccess = () => {
            const all = opening.result.transaction('records').objectStore('records').getAllKeys();
            all.onsuccess = () => resolve(all.result.length);
          };
        }),
    );
    const before = (
      await call(server, 'GET', '/changes?after=0').then(({ body }) => JSON.parse(body) as ChangesPage)
    ).changes.length;
    expect([before, before + 2000]).toContain(Math.max(held, before));
    await again.kill();

    const returned = await onDisk(theirs);
    const kept = await openApp(returned.window, server, '/links/lnk_saturn');
    await kept.getByRole('heading', { name: 'Saved before the kill' }).waitFor();
    await untilLive(kept);
    await returned.kill();
  });
});
