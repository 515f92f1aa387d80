import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { builtFile } from '../server/built.ts';
import { call, readJournal } from '../server/client.ts';
import { freshFolder } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { deskWithLink, openApp, startServer, untilLive } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

const command = (name: string, ...args: string[]): string => {
  const { status, stdout, stderr } = spawnSync(process.execPath, [builtFile(`${name}.js`), ...args], {
    encoding: 'utf8',
  });
  expect([status, stderr]).toEqual([0, '']);
  return stdout;
};

it('a browser with edits of its own meets a server restored on another machine: nothing is lost', async () => {
  const { server, context, page, records } = await deskWithLink(browser);
  const { port } = server;
  const postback = (txn: string) =>
    send(`http://localhost:${port}/postback/${records.key}?txn=${txn}&amount=5.00&currency=EUR&event=sale`);
  const rename = async (title: string) => {
    await page.getByRole('button', { name: 'Edit entry' }).click();
    await page.getByLabel('Title').fill(title);
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByRole('heading', { name: title }).waitFor();
  };
  await postback('before');
  await untilLive(page);
  await call(server, 'POST', '/seal', {});
  const file = join(freshFolder(), 'backup.tar.gz');
  expect(command('backup', '--data', server.dataDir, '--to', file)).toContain('Its newest seal: ');

  // After the backup: an edit that is live, a postback that is acknowledged, and both are in the browser.
  await rename('Made after the backup');
  await untilLive(page);
  expect((await postback('after')).status).toBe(200);
  await page.getByText('after').first().waitFor();
  // The browser keeps a seal that the restored server cannot have.
  const { seal } = JSON.parse((await call(server, 'POST', '/seal', {})).body) as { seal: { hash: string } };
  await page.goto(`http://localhost:${port}/setup`);
  await page.getByText(seal.hash.slice(0, 16)).waitFor();
  await page.goto(`http://localhost:${port}/links/lnk_saturn`);
  await page.locator('html[data-whole]').waitFor({ state: 'attached' });
  await server.stop();
  // The machine is gone, and the person goes on.
  await rename('Made while there was no server');

  const folder = freshFolder();
  expect(command('restore', '--data', folder, '--from', file)).toMatch(/Put back into .*: \d+ records/);
  const rescued = await startServer({ port, dataDir: folder });
  expect(rescued.key).not.toBe(server.key);
  // Another machine has another key; the address that the server prints at its start brings it.
  await page.goto(`http://localhost:${port}/waiting#key=${rescued.key}`);
  await vi.waitFor(
    async () =>
      expect((await call(rescued, 'GET', '/changes?after=0')).body).toContain(
        'Made while there was no server',
      ),
    { timeout: 15_000 },
  );
  await page.getByText('other lines of the journal, found missing').waitFor();
  await page.getByRole('button', { name: 'Give them back to the server' }).click();
  await page.getByText('found missing').waitFor({ state: 'detached' });
  const kept = (await readJournal(rescued)).flatMap((record) =>
    record.kind === 'postback' ? [new URLSearchParams(record.query).get('txn')] : [],
  );
  expect(kept).toEqual(['before', 'after']);
  // Seals of the time that was lost are no reason for an alarm.
  await page.goto(`http://localhost:${port}/setup`);
  const evidence = page.getByRole('region', { name: 'Evidence' });
  await evidence.getByText('the journal was sealed on').waitFor();
  expect(await evidence.getByRole('alert').count()).toBe(0);
  expect(command('verify', '--data', folder)).toContain('was put back on');

  // Somebody else's browser sees the same.
  const other = await openApp(await freshPerson(browser), rescued, '/links/lnk_saturn');
  await other.getByRole('heading', { name: 'Made while there was no server' }).waitFor();
  await other.context().close();
  await context.close();
  await rescued.stop();
});
