import { readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { isUlid } from '#core/catalogue';
import { call, changeOf, fillFirst, firstRecords, readJournal, sendChanges } from '../server/client.ts';
import { bringToFormat } from '../server/migrate.ts';
import type { Running } from '../server/testing/process.ts';
import { freshFolder } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';

let browser: Browser;
let server: Running;
let records: Awaited<ReturnType<typeof fillFirst>>;
beforeAll(async () => {
  browser = await startBrowser();
  server = await startServer();
  records = await fillFirst(server);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const keyOf = (page: Page) => page.evaluate(() => localStorage.getItem('fernhop-key'));
const live = (page: Page) => page.getByText(/(?:link is|links) live/).waitFor();

describe('a key in an address', () => {
  it('does not take the place of one that works unless the person says so', async () => {
    const person = await freshPerson(browser);
    const page = await openApp(person, server);
    await live(page);
    const other = await person.newPage();
    await other.goto(`http://localhost:${server.port}/#key=somebody-elses-key`);
    await other.getByRole('alertdialog').waitFor();
    expect(other.url()).not.toContain('key');
    expect(await keyOf(other)).toBe(server.key);
    await other.getByRole('button', { name: 'Keep mine' }).click();
    await other.getByRole('alertdialog').waitFor({ state: 'detached' });
    expect(await keyOf(other)).toBe(server.key);
    await other.goto(`http://localhost:${server.port}/setup#key=somebody-elses-key`);
    await other.reload();
    await other.goto(`http://localhost:${server.port}/#key=somebody-elses-key`);
    await other.getByRole('button', { name: 'Take the other' }).click();
    await expect.poll(() => keyOf(other)).toBe('somebody-elses-key');
    // The one there is now does not work, so the right one is taken without a question.
    await other.goto(`http://localhost:${server.port}/?again#key=${server.key}`);
    await live(other);
    expect(await keyOf(other)).toBe(server.key);
    await person.close();
  });
});

describe('Setup', () => {
  it('says what was saved and refused, warns of an unnamed proxy, and makes a new key that counts at once', async () => {
    const person = await freshPerson(browser);
    const page = await openApp(person, server, '/import');
    const saved = async (button: string) => {
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('button', { name: button }).click(),
      ]);
      return { name: download.suggestedFilename(), text: readFileSync(await download.path(), 'utf8') };
    };
    const open = await saved('Everything as JSON, without secrets');
    expect(open.text).toContain('"secrets": "left out"');
    expect(open.text).not.toContain(records.key);
    const whole = await saved('Everything with secrets');
    expect([whole.name, whole.text]).toEqual([
      expect.stringContaining('with-secrets'),
      expect.stringContaining(records.key),
    ]);

    await send(`http://see.nightledge.localhost:${server.port}/saturn`, {
      headers: { 'X-Forwarded-For': '192.0.2.7' },
    });
    await send(`http://see.nightledge.localhost:${server.port}/postback/${'k'.repeat(30)}?txn=1`);
    await page.goto(`http://localhost:${server.port}/setup`);
    const audit = page.getByRole('region', { name: 'Keys and exports' });
    await audit.getByText('A request to a postback address was refused: unknown key.').waitFor();
    await audit.getByText('saved everything as JSON, secrets left out.').waitFor();
    await page.getByText('A proxy at 127.0.0.1 forwards requests and is not named').waitFor();
    await page.getByText('TRUST_PROXY=127.0.0.1').waitFor();

    const before = server.key;
    await page.getByRole('button', { name: 'Make a new key' }).click();
    await page.getByText('There is a new key, kept in this browser.').waitFor();
    await audit.getByText('The key of the server was renewed').waitFor();
    expect((await call(server, 'GET', '/about')).status).toBe(401);
    const renewed = (await keyOf(page)) ?? '';
    expect(renewed).not.toBe(before);
    server = { ...server, key: renewed };
    await page.reload();
    await live(page);
    await person.close();
  });

  it('refuses a prefix that is the server’s, where it is typed', async () => {
    const person = await freshPerson(browser);
    const page = await openApp(person, server, '/setup');
    await page.getByRole('button', { name: 'Edit see.nightledge.localhost' }).click();
    await page.getByLabel('Prefix before every slug').fill('postback/');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('is where the server itself answers. Choose another prefix.').waitFor();
    await person.close();
  });

  it('lists what an earlier program let in and what is to be mended', async () => {
    const { domain } = firstRecords(4600);
    const bad = { ...domain, after: { kind: 'address', to: 'https://else.example/{foo}' } };
    const { link } = records;
    const { network: _1, program: _2, ...bare } = link;
    const lines = [
      changeOf('domain', bad),
      changeOf('link', { ...bare, hours: { until: '2026-01-01T00:00' } }),
    ];
    const dataDir = freshFolder();
    await bringToFormat(dataDir, { now: Date.now, log: () => undefined });
    writeFileSync(
      join(dataDir, 'changes.ndjson'),
      lines.map((line, i) => `${JSON.stringify({ ...line, version: i + 1 })}\n`).join(''),
    );
    const old = await startServer({ dataDir });
    const person = await freshPerson(browser);
    const page = await openApp(person, old, '/setup');
    const section = page.getByRole('region', { name: 'To mend' });
    await section.getByRole('link', { name: 'saturn-kit' }).waitFor();
    await section.getByText('domain.after.to').waitFor();
    await person.close();
    await old.stop();
  });
});

it('a link to which another was archived is not removed, and it is said who leans on it', async () => {
  const { link } = records;
  await sendChanges(server, [
    changeOf('link', {
      ...link,
      id: 'lnk_old',
      slug: 'old-kit',
      aliases: [],
      archived: { at: 1, to: link.id },
    }),
  ]);
  const person = await freshPerson(browser);
  const page = await openApp(person, server, `/links/${link.id}`);
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('button', { name: 'Remove this link' }).click();
  await page.getByText('saturn-kit is not removed. Used by 1 link: old-kit.').waitFor();
  await person.close();
});

it('the script on a page makes the click ID, puts it into the link, and tells of it', async () => {
  const asked: string[] = [];
  const site = createServer((request, response) => {
    const url = request.url ?? '';
    if (url.startsWith('/r?')) asked.push(url);
    response.setHeader('Content-Type', 'text/html');
    response.end(
      `<!doctype html><a href="/r?a=1&s1=&b=%20x#f" data-fernhop="lnk_saturn" data-click="s1" data-source="guide">kit</a>
<script src="http://see.nightledge.localhost:${server.port}/place.js"></script>`,
    );
  });
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
  const { port } = site.address() as AddressInfo; // it listens on a port
  const person = await freshPerson(browser);
  const page = await person.newPage();
  await page.goto(`http://nightledge.localhost:${port}/gear`);
  await page.getByRole('link', { name: 'kit' }).click();
  await vi.waitFor(() => expect(asked).toHaveLength(1), { timeout: 5000 });
  const click = /^\/r\?a=1&s1=(\w{26})&b=%20x$/.exec(asked[0] ?? '')?.[1] ?? '';
  expect(isUlid(click)).toBe(true);
  await vi.waitFor(
    async () =>
      expect(
        (await readJournal(server)).findLast(
          (record) => record.kind === 'beacon' && record.event === 'click',
        ),
      ).toMatchObject({
        click,
        link: 'lnk_saturn',
        source: 'guide',
        page: `http://nightledge.localhost:${port}/gear`,
      }),
    { timeout: 5000 },
  );
  await person.close();
  site.close();
});
