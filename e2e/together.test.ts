import { cpSync, readFileSync } from 'node:fs';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage } from '#core/catalogue';
import { call, readJournal } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { deskWithLink, openApp, rowOf, startServer, untilLive } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

describe('two people', () => {
  it('see each other’s edits, and choose when both changed the same link', async () => {
    const { server, context: ines, page: hers } = await deskWithLink(browser);
    const joris = await freshPerson(browser);
    const his = await openApp(joris, server, '/links/lnk_saturn');
    await untilLive(his);
    for (const [page, name] of [
      [hers, 'Ines'],
      [his, 'Joris'],
    ] as const) {
      await page.goto(`http://localhost:${server.port}/setup`);
      await page.getByLabel('Your name').fill(name);
      await page.goto(`http://localhost:${server.port}/links/lnk_saturn`);
      await page.locator('html[data-whole]').waitFor({ state: 'attached' });
    }
    const rename = async (page: typeof hers, title: string) => {
      await page.getByRole('button', { name: 'Edit entry' }).click();
      await page.getByLabel('Title').fill(title);
      await page.getByRole('button', { name: 'Save' }).click();
      await page.getByRole('heading', { name: title }).waitFor();
    };
    /** Hers is at the server before his is sent: whoever comes second is asked. */
    const arrived = (title: string) =>
      expect.poll(async () => (await call(server, 'GET', '/changes?after=0')).body).toContain(title);
    await rename(hers, 'From Ines');
    await his.getByRole('heading', { name: 'From Ines' }).waitFor();

    await joris.setOffline(true);
    await rename(his, 'From Joris');
    await rename(hers, 'From Ines again');
    await arrived('From Ines again');
    await joris.setOffline(false);
    await his.getByText('Ines changed the same').waitFor();
    const versions = his.getByRole('alert', { name: 'Two versions' });
    expect(await versions.innerText()).toMatch(/title\s+Yours: From Joris\s+Ines’s: From Ines again/);
    await his.getByText('1 not live: look').waitFor();
    await his.getByRole('button', { name: 'Keep yours' }).click();
    await hers.getByRole('heading', { name: 'From Joris' }).waitFor();
    await untilLive(his);

    // A change that is undone on one desk is undone on the other.
    await his.locator('body').click({ position: { x: 600, y: 740 } });
    await his.keyboard.press('ControlOrMeta+z');
    await hers.getByRole('heading', { name: 'From Ines' }).waitFor();
    await Promise.all([ines.close(), joris.close()]);
    await server.stop();
  });

  it('one is refused a slug the other took first, reads why, and mends it', async () => {
    const { server, context: ines, page: hers } = await deskWithLink(browser, '/links');
    const joris = await freshPerson(browser);
    const his = await openApp(joris, server, '/links');
    await his.getByText('The link is live').waitFor();
    const make = async (page: typeof hers) => {
      await page.keyboard.press('/');
      await page.keyboard.insertText('https://club.nightledge.example/star-party');
      await page.getByText('no network of yours').first().waitFor();
      await page.keyboard.press('Enter');
      await page.getByRole('heading', { name: 'Star party' }).waitFor();
    };
    await joris.setOffline(true);
    await make(his);
    await make(hers);
    await untilLive(hers);
    await joris.setOffline(false);
    const refusal = his.getByRole('alert').filter({ hasText: 'Refused.' });
    await refusal.waitFor();
    expect(await refusal.innerText()).toMatch(/is taken by another link\. Free are star-party-2/);
    await his.getByRole('button', { name: 'Edit entry' }).click();
    await his.getByLabel('Slug').fill('club-night');
    await his.getByRole('button', { name: 'Save' }).click();
    await untilLive(his);
    await hers.getByText('club-night', { exact: true }).first().waitFor();
    await Promise.all([ines.close(), joris.close()]);
    await server.stop();
  });

  it('a second window of one person follows the first', async () => {
    const { server, context, page } = await deskWithLink(browser);
    const second = await openApp(context, server, '/links/lnk_saturn');
    await untilLive(second);
    await page.getByRole('button', { name: 'Edit entry' }).click();
    await page.getByLabel('Title').fill('Seen in both');
    await page.getByRole('button', { name: 'Save' }).click();
    await second.getByRole('heading', { name: 'Seen in both' }).waitFor();
    await send(`http://see.nightledge.localhost:${server.port}/saturn-kit`);
    for (const window of [page, second])
      await vi.waitFor(async () =>
        expect(await window.getByLabel('Live events, newest first').innerText()).toContain('saturn-kit'),
      );
    await context.close();
    await server.stop();
  });
});

describe('a browser that knew another state of the server', () => {
  /** A desk whose server was stopped with an edit unsent, and another server in its place. */
  const metAnother = async () => {
    const { server, context, page } = await deskWithLink(browser);
    await context.setOffline(true);
    await page.getByRole('button', { name: 'Edit entry' }).click();
    await page.getByLabel('Title').fill('Never sent');
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('Server away: 1 edit waits').waitFor();
    await page.close();
    await server.stop();
    const fresh = await startServer({ port: server.port });
    await context.setOffline(false);
    const again = await openApp(context, fresh, '/links/lnk_saturn');
    await again.getByText('Another server: choose').click();
    await again.getByText('Another server answers here').waitFor();
    await again.getByText('1 record of them never sent').waitFor();
    return { server: fresh, context, page: again };
  };
  const linksOf = async (server: Running) => {
    const { body } = await call(server, 'GET', '/changes?after=0');
    const page: ChangesPage = JSON.parse(body);
    return page.changes.flatMap(({ kind, value }) => (kind === 'link' ? [value?.['title']] : []));
  };

  it('sends nothing to another server and drops nothing before it is asked, then lets go', async () => {
    const { server, context, page } = await metAnother();
    expect(await linksOf(server)).toEqual([]);
    const saved = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Export everything that is here' }).click();
    expect(readFileSync(await (await saved).path(), 'utf8')).toContain('Never sent');
    await page.getByRole('button', { name: 'Let it go' }).click();
    // Whoever leaves before it is done is asked again.
    await page.getByText('Another server answers here').waitFor({ state: 'hidden' });
    await page.goto(`http://localhost:${server.port}/links`);
    await page.getByText('First, your domain').waitFor();
    expect(await page.getByText('saturn-kit').count()).toBe(0);
    await context.close();
    await server.stop();
  });

  it('brings everything to a server whose folder was emptied', async () => {
    const { server, context, page } = await metAnother();
    await page.getByRole('button', { name: 'Bring it to this server' }).click();
    await vi.waitFor(async () => expect(await linksOf(server)).toEqual(['Never sent']), { timeout: 10_000 });
    await page.goto(`http://localhost:${server.port}/links/lnk_saturn`);
    await untilLive(page);
    await context.close();
    await server.stop();
  });

  it('keeps apart the requests and postbacks that a server set back to a backup lost', async () => {
    const { server, records, context, page } = await deskWithLink(browser);
    await untilLive(page);
    const click = (n: number) =>
      send(`http://see.nightledge.localhost:${server.port}/saturn-kit?n=${n}`, {
        headers: {
          'User-Agent': `Mozilla/5.0 (X11; Linux x86_64; rv:1${n}.0) Gecko/20100101 Firefox/1${n}.0`,
        },
      });
    const visitors = (count: string) =>
      vi.waitFor(async () => expect((await rowOf(page, 'saturn-kit'))['Visits']?.trim()).toBe(count), {
        timeout: 15_000,
      });
    await click(1);
    await visitors('1');
    await server.stop();
    const backup = `${server.dataDir}-backup`;
    cpSync(server.dataDir, backup, { recursive: true });
    let running = await startServer({ port: server.port, dataDir: server.dataDir });
    await page.reload();
    await visitors('1');
    for (let n = 2; n < 7; n++) await click(n);
    await send(
      `http://see.nightledge.localhost:${server.port}/postback/${records.key}?txn=lost-1&amount=5.00&currency=EUR&event=sale`,
    );
    await visitors('6');
    await running.stop();
    running = await startServer({ port: server.port, dataDir: backup });
    await visitors('1');
    await page.goto(`http://localhost:${server.port}/waiting`);
    await page.getByText('5 requests and 1 other lines of the journal, found missing').waitFor();
    const saved = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save as a file' }).click();
    const lines = readFileSync(await (await saved).path(), 'utf8');
    expect(lines.match(/"kind":"hop"/g)).toHaveLength(5);
    expect(lines).toContain('txn=lost-1');
    await page.getByRole('button', { name: 'Give them back to the server' }).click();
    await page.getByText('found missing').waitFor({ state: 'detached' });
    await page.goto(`http://localhost:${server.port}/links`);
    await visitors('6');
    // Another browser that lost nothing sees the same: they are the server's again.
    const again = await readJournal(running);
    expect(again.filter(({ kind }) => kind === 'hop')).toHaveLength(6);
    await context.close();
    await running.stop();
  });

  it('sends again what a server restored from a backup lacks', async () => {
    const { server, context, page } = await deskWithLink(browser);
    await untilLive(page);
    await server.stop();
    const backup = `${server.dataDir}-backup`;
    cpSync(server.dataDir, backup, { recursive: true });
    let running = await startServer({ port: server.port, dataDir: server.dataDir });
    await page.getByRole('button', { name: 'Edit entry' }).click();
    await page.getByLabel('Title').fill('Made after the backup');
    await page.getByRole('button', { name: 'Save' }).click();
    await untilLive(page);
    await running.stop();
    running = await startServer({ port: server.port, dataDir: backup });
    await vi.waitFor(
      async () =>
        expect((await call(running, 'GET', '/changes?after=0')).body).toContain('Made after the backup'),
      { timeout: 10_000 },
    );
    await untilLive(page);
    await context.close();
    await running.stop();
  });
});
