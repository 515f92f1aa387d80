import { spawn, spawnSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { createServer, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage, StoredChange } from '#core/catalogue';
import { present, sameId } from '#core/catalogue';
import type { fillFirst } from '../server/client.ts';
import { call, changeOf, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshFolder } from '../server/testing/process.ts';
import { smallDisk } from '../server/testing/smallDisk.ts';
import { send } from '../standins/index.ts';
import { flags, freshPerson, startBrowser } from './browser.ts';
import { deskWithLink, openApp, untilLive } from './desk.ts';

let browser: Browser;
let server: Running;
let records: Awaited<ReturnType<typeof fillFirst>>;
let context: BrowserContext;
let page: Page;

beforeAll(async () => {
  browser = await startBrowser();
  ({ server, records, context, page } = await deskWithLink(browser));
});
// One that fails leaves the others a network.
afterEach(() => context.setOffline(false));
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const stored = async (record: string, at = server): Promise<StoredChange | undefined> => {
  const { body } = await call(at, 'GET', '/changes?after=0');
  const all: ChangesPage = JSON.parse(body);
  return all.changes.find((change) => change.record === record);
};
/** The link as somebody else makes it, on what the server has now. */
const elsewhere = async (more: object | null, by = 'Joris'): Promise<void> => {
  const before = await stored('lnk_saturn');
  const revision = (before?.revision ?? 0) + 1;
  const change = changeOf('link', { ...records.link, ...before?.value, ...more }, revision, by);
  const answer = await sendChanges(server, [more === null ? { ...change, value: null } : change]);
  expect(answer.refused).toEqual([]);
};
const editEntry = async (field: string, text: string, on = page): Promise<void> => {
  await on.getByRole('button', { name: 'Edit entry' }).click();
  await on.getByLabel(field, { exact: true }).fill(text);
};
const save = (on = page) => on.getByRole('button', { name: 'Save', exact: true }).click();
const heading = (text: string, on = page) => on.getByRole('heading', { name: text, exact: true }).waitFor();
const goTo = (path: string, on = page) => on.goto(`http://localhost:${server.port}${path}`);

/** Ends what a test that failed left running. */
const kills: (() => Promise<void>)[] = [];
afterAll(() => Promise.all(kills.map((kill) => kill())));

/** A Chromium with a profile on disk, that can be killed as the system kills it. */
const onDisk = async (profile: string) => {
  const child = spawn(
    '/usr/bin/chromium',
    [...flags, '--headless', '--remote-debugging-port=0', `--user-data-dir=${profile}`, 'about:blank'],
    { stdio: ['ignore', 'ignore', 'pipe'], detached: true },
  );
  const address = await new Promise<string>((resolve, reject) => {
    let text = '';
    child.stderr.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      const found = /DevTools listening on (\S+)/.exec(text)?.[1];
      if (found !== undefined) resolve(found);
    });
    child.on('exit', () => reject(new Error(`Chromium ended: ${text}`)));
  });
  const connected = await chromium.connectOverCDP(address);
  const [window] = connected.contexts();
  if (!window) throw new Error('Chromium has a window.');
  const kill = async () => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((resolve) => child.on('exit', resolve));
    process.kill(-present(child.pid, 'process of Chromium'), 'SIGKILL');
    await gone;
  };
  kills.push(kill);
  return { window, kill };
};

/** A Chromium whose disk can be filled to the last byte. Only root can have one. */
const onSmallDisk = async () => {
  const disk = smallDisk(100 * 1024);
  const own = await onDisk(join(disk.folder, 'profile'));
  const filler = join(disk.folder, 'filler');
  return {
    ...own,
    /** Fills it, and goes on filling what the browser frees of its caches. */
    fill: async () => {
      for (let time = 0; time < 5; time++) {
        spawnSync('dd', ['if=/dev/zero', `of=${filler}`, 'bs=4k', 'oflag=append', 'conv=notrunc']);
        await new Promise((resolve) => setTimeout(resolve, 300));
      }
    },
    free: () => rmSync(filler),
    end: async () => {
      await own.kill();
      await vi.waitFor(() => disk.close(), { timeout: 10_000 });
    },
  };
};
const isRoot = process.getuid?.() === 0;

describe('a save that this browser cannot keep', () => {
  it.runIf(isRoot)(
    'is told, with all that was typed still there, and goes through once there is room',
    async () => {
      const { window, fill, free, end } = await onSmallDisk();
      const view = await openApp(window, server, '/links/lnk_saturn');
      await untilLive(view);
      await editEntry('Title', 'Typed on a full disk', view);
      await view.getByLabel('Notes', { exact: true }).fill('much to say. '.repeat(300));
      await fill();
      await save(view);
      await view.getByRole('alert').getByText('as it does when the disk is full').waitFor();
      expect(await view.getByLabel('Title', { exact: true }).inputValue()).toBe('Typed on a full disk');
      free();
      await save(view);
      await heading('Typed on a full disk', view);
      await untilLive(view);
      expect(await view.getByText('Nothing was saved').count()).toBe(0);
      await end();
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
    await editEntry('Title', 'Typed beside a newer tab', first);
    await save(first);
    await first.getByRole('alert').getByText('another tab runs a newer Fernhop').waitFor();
    expect(await first.getByLabel('Title', { exact: true }).inputValue()).toBe('Typed beside a newer tab');
    await own.close();
  });

  it('after the site’s data was cleared is kept all the same: the storage is filled again', async () => {
    await context.setOffline(true);
    await editEntry('Notes', 'before the storage went');
    await save();
    await page.getByText('Server away: 1 edit waits').waitFor();
    const session = await context.newCDPSession(page);
    await session.send('Storage.clearDataForOrigin', {
      origin: `http://localhost:${server.port}`,
      storageTypes: 'indexeddb',
    });
    await editEntry('Title', 'After the storage went');
    await save();
    await heading('After the storage went');
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
    expect((await stored('lnk_saturn'))?.value).toMatchObject({
      title: 'After the storage went',
      notes: 'before the storage went',
    });
    await session.detach();
  });
});

describe('two people and one link', () => {
  it('in different fields: the title of one stays when the other saves notes from a form opened before', async () => {
    await editEntry('Notes', 'mine');
    await elsewhere({ title: 'Joris’s title' });
    await heading('Joris’s title');
    await save();
    await untilLive(page);
    await vi.waitFor(async () =>
      expect((await stored('lnk_saturn'))?.value).toMatchObject({ title: 'Joris’s title', notes: 'mine' }),
    );
  });

  it('in the same field: both are kept until one chooses, listed with its cause', async () => {
    await editEntry('Title', 'Mine');
    await elsewhere({ title: 'Joris’s other title', starred: true });
    await heading('Joris’s other title');
    await save();
    await page.getByText('1 not live: look').click();
    await page.getByRole('heading', { name: 'To choose' }).waitFor();
    const versions = page.getByRole('alert', { name: 'Two versions' });
    expect(await versions.innerText()).toMatch(/Joris changed the same/);
    await versions.getByLabel('Joris’s: Joris’s other title').click();
    await versions.getByRole('button', { name: 'Take theirs' }).click();
    await page.getByText('Nothing waits: all that was made here is with the server.').waitFor();
    expect((await stored('lnk_saturn'))?.value).toMatchObject({
      title: 'Joris’s other title',
      starred: true,
    });
  });

  it('an undo leaves what the other changed later, and says so', async () => {
    await goTo('/links/lnk_saturn');
    await editEntry('Title', 'One step');
    await page.getByLabel('Notes', { exact: true }).fill('with two fields');
    await save();
    await untilLive(page);
    await elsewhere({ title: 'Joris’s last word' });
    await heading('Joris’s last word');
    await page.locator('body').click({ position: { x: 600, y: 740 } });
    await page.keyboard.press('ControlOrMeta+z');
    await page.getByText('Undone, but for title: somebody changed that later').waitFor();
    await untilLive(page);
    expect((await stored('lnk_saturn'))?.value).toMatchObject({ title: 'Joris’s last word', notes: 'mine' });
  });

  it('a removal against an edit is asked about, and either way ends', async () => {
    await context.setOffline(true);
    await page.getByRole('button', { name: 'More' }).click();
    await page.getByRole('button', { name: 'Remove' }).click();
    await page.getByText('Server away: 1 edit waits').waitFor();
    await elsewhere({ title: 'Still wanted' });
    await context.setOffline(false);
    await page.getByText('1 not live: look').click();
    await page.getByText('Joris changed this while you removed it').waitFor();
    await page.getByRole('button', { name: 'Keep it, with theirs' }).click();
    await goTo('/links/lnk_saturn');
    await heading('Still wanted');
    await untilLive(page);

    await editEntry('Title', 'Wanted here too');
    await elsewhere(null);
    await page.getByText('Somebody removed this link while you edit it.').waitFor();
    expect(await page.getByLabel('Title', { exact: true }).inputValue()).toBe('Wanted here too');
    await save();
    await page.getByText('1 not live: look').click();
    await page.getByText('Joris removed this while you changed it').waitFor();
    await page.getByRole('button', { name: 'Keep it, with your change' }).click();
    await vi.waitFor(async () =>
      expect((await stored('lnk_saturn'))?.value).toMatchObject({ title: 'Wanted here too' }),
    );
    await goTo('/links/lnk_saturn');
    await untilLive(page);
  });
});

describe('what there is one of', () => {
  it('a rate of a day that is given already is asked about; two at once hear of each other', async () => {
    const give = async (value: string) => {
      await page.getByLabel('Currency', { exact: true }).last().fill('USD');
      await page.getByLabel('Day of the rate').fill('2026-11-02');
      await page.getByLabel('Worth in EUR').fill(value);
      await page.getByLabel('Source of the rate').fill('my bank');
      await page.getByRole('button', { name: 'Add rate' }).click();
    };
    await goTo('/setup');
    await context.setOffline(true);
    await give('0.93');
    await page.getByText('Server away: 1 edit waits').waitFor();
    const first = {
      id: sameId('rat', 'USD', 'EUR', '2026-11-02'),
      from: 'USD',
      to: 'EUR',
      day: '2026-11-02',
      rate: '0.92',
      source: 'my bank',
    };
    expect((await sendChanges(server, [changeOf('rate', first, 1, 'Joris')])).refused).toEqual([]);
    await context.setOffline(false);
    await page.getByText('1 not live: look').click();
    const versions = page.getByRole('alert', { name: 'Two versions' });
    await versions.getByText('Joris changed the same').waitFor();
    expect(await versions.innerText()).toMatch(/rate\s+Yours: 0.93\s+Joris’s: 0.92/);
    await versions.getByRole('button', { name: 'Take theirs' }).click();
    await untilGone();
    expect(await changesOf('rate')).toMatchObject([{ value: first }]);

    await goTo('/setup');
    await give('0.94');
    await page.getByText('A rate of that day is given already').waitFor();
    expect(await changesOf('rate')).toMatchObject([{ value: first }]);
    await page.getByRole('button', { name: 'Replace it' }).click();
    await vi.waitFor(async () =>
      expect(await changesOf('rate')).toMatchObject([{ value: { rate: '0.94' } }]),
    );
  });

  const changesOf = async (kind: string) => {
    const { body } = await call(server, 'GET', '/changes?after=0');
    const all: ChangesPage = JSON.parse(body);
    return all.changes.filter((change) => change.kind === kind && change.value !== null);
  };
  const untilGone = () => page.getByText(/^(?:The link is live|All \d+ links live)$/).waitFor();

  it('a payment like one that is noted is asked about', async () => {
    await goTo('/payments/net_harrowmead');
    const note = async (button: string) => {
      await page.getByLabel('Amount').fill('120.00');
      await page.getByRole('button', { name: button, exact: true }).click();
    };
    await note('Note it');
    await page.getByText('is noted.').waitFor();
    await note('Note it');
    await page.getByText('This sum of this day is noted already. Is it a second payment?').waitFor();
    expect(await changesOf('payment')).toHaveLength(1);
    await page.getByRole('button', { name: 'Note it all the same' }).click();
    await vi.waitFor(async () => expect(await changesOf('payment')).toHaveLength(2));
    // From two browsers they could not be asked about; they are marked.
    await page.getByText('noted twice?').waitFor();
  });
});

describe('two people and one report', () => {
  it('bring in the same file: nobody is asked anything, and its rows count once', async () => {
    const own = await freshPerson(browser);
    const other = await openApp(own, server, '/report/net_harrowmead');
    await goTo('/report/net_harrowmead');
    const read = async (on: Page) => {
      await on.getByText('Drop a report here').waitFor();
      await on.locator('input[type=file]').setInputFiles({
        name: 'september.csv',
        mimeType: 'text/csv',
        buffer: Buffer.from(
          'Order,Time,Commission,State\nR-1,2026-09-03 10:00,€8.60,confirmed\nR-2,2026-09-04 10:00,€1.40,confirmed\n',
        ),
      });
      await on.getByText('2 rows are good').waitFor();
    };
    const bring = async (on: Page) => {
      await on.getByRole('button', { name: 'Bring in 2 rows' }).click();
      await on.getByText('They are brought in').waitFor();
    };
    await read(page);
    await read(other);
    await context.setOffline(true);
    await bring(page);
    await bring(other);
    await other.getByText(/^(?:The link is live|All \d+ links live)$/).waitFor();
    await context.setOffline(false);
    await page.getByText(/^(?:The link is live|All \d+ links live)$/).waitFor();
    await goTo('/reconcile/net_harrowmead/2026-09');
    const commission = page.getByRole('row', { name: /^Commission/ }).first();
    await commission.getByText('€10.00').first().waitFor();
    await own.close();
  });
});

describe('what answers in the place of the server', () => {
  it('a portal’s page with 200 changes nothing, and is called what it is', async () => {
    await goTo('/links/lnk_saturn');
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
    await goTo('/links/lnk_saturn');
    await page.getByText('Not our server').waitFor();
    await page.waitForTimeout(2500);
    expect(await page.locator('table.list tbody tr').first().innerText()).toBe(seen);
    await page.getByText('Not our server').click();
    await page.getByText('such as the sign-in page of a network you joined').waitFor();
    await context.unroute('**/api/**');
    await goTo('/links/lnk_saturn');
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
    await goTo('/import');
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
    await goTo('/links/lnk_saturn');
    await page.getByText('still arriving').first().waitFor({ state: 'detached' });
    const tape = page.getByLabel('Live events, newest first');
    const before = await page.locator('table.list tbody tr').first().innerText();
    const isJournal = (url: string) => url.includes('journal.worker');
    const worker = page.workers().find((found) => isJournal(found.url()));
    void worker?.evaluate(() => self.close()).catch(() => undefined);
    await tape.getByText('stopped, starting again').waitFor();
    await tape.getByText(/^(?:now|quiet so far)$/).waitFor();
    expect(await page.locator('table.list tbody tr').first().innerText()).toBe(before);
  });

  it.runIf(isRoot)('misses nothing of what came while this browser could keep nothing', async () => {
    const { window, fill, free, end } = await onSmallDisk();
    const view = await openApp(window, server, '/ledger/net_harrowmead');
    await fill();
    for (let n = 0; n < 30; n++)
      await send(
        `http://see.nightledge.localhost:${server.port}/postback/${records.key}?txn=full-${n}&amount=5.00&currency=EUR&status=approved&event=sale&note=${'x'.repeat(2000)}`,
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
    await heading('Wanted here too', view);
    await goTo('/payments/net_harrowmead', view);
    await view.getByRole('heading', { name: 'Payments of Harrowmead' }).waitFor();
    await goTo('/links/lnk_saturn', view);
    await editEntry('Notes', 'written on a train', view);
    await save(view);
    await view.getByText('Server away: 1 edit waits').waitFor();
    await own.setOffline(false);
    await untilLive(view);
    expect((await stored('lnk_saturn'))?.value).toMatchObject({ notes: 'written on a train' });
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
    await editEntry('Title', 'Saved before the kill', other);
    await save(other);
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
