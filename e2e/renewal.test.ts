import { appendFileSync, cpSync, readdirSync, rmSync, symlinkSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { expect, it } from 'vitest';
import { builtFile } from '../server/built.ts';
import { fillFirst } from '../server/client.ts';
import { freshFolder, startProcess } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, untilLive } from './desk.ts';

/** A built Fernhop of its own, whose application can be replaced by a newer one while its server runs. */
const startOwnBuild = async () => {
  const folder = freshFolder();
  const dist = dirname(dirname(builtFile('main.js')));
  cpSync(dist, join(folder, 'dist'), { recursive: true });
  symlinkSync(resolve(dist, '../node_modules'), join(folder, 'node_modules'));
  const app = join(folder, 'dist/app');
  // The one that is replaced stands there as it is alone.
  for (const name of readdirSync(app)) if (/^sw\.js\./.test(name)) rmSync(join(app, name));
  const main = join(folder, 'dist/server/main.js');
  const server = await startProcess({ command: ['/bin/sh', '-c', `exec ${process.execPath} ${main}`] });
  return { server, release: () => appendFileSync(join(app, 'sw.js'), '\n// newer\n') };
};

it('a newer version waits until it is let in, and an open form stays as it is', async () => {
  const browser = await startBrowser();
  const { server, release } = await startOwnBuild();
  await fillFirst(server);
  const context = await freshPerson(browser, { serviceWorkers: 'allow' });
  const page = await openApp(context, server, '/links/lnk_saturn');
  await untilLive(page);
  await page.evaluate(() => navigator.serviceWorker.ready);
  const title = page.getByLabel('Title', { exact: true });
  await page.getByRole('button', { name: 'Edit entry' }).click();
  await title.fill('Half typed');
  await page.evaluate(() => Object.assign(window, { isSamePage: true }));
  const isSamePage = () => page.evaluate(() => 'isSamePage' in window);
  /** What a browser does by itself with the next visit, or after a day. */
  const look = () =>
    page.evaluate(async () => (await navigator.serviceWorker.getRegistration())?.update().then(() => true));

  release();
  await look();
  await page.getByText('A newer Fernhop is here.').waitFor();
  expect(await title.inputValue()).toBe('Half typed');
  await page.getByRole('button', { name: 'Later' }).click();
  await page.getByText('A newer Fernhop is here.').waitFor({ state: 'detached' });
  expect([await title.inputValue(), await isSamePage()]).toEqual(['Half typed', true]);
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await untilLive(page);

  // The next start uses it without asking; the one after it is let in at once.
  await page.reload();
  await untilLive(page);
  await page.waitForFunction(async () => (await navigator.serviceWorker.getRegistration())?.waiting === null);
  await page.evaluate(() => Object.assign(window, { isSamePage: true }));
  release();
  await look();
  await page.getByRole('button', { name: 'Load it now' }).click();
  await page.waitForFunction(() => !('isSamePage' in window));
  await page.getByRole('heading', { name: 'Half typed', exact: true }).waitFor();
  await page.waitForFunction(async () => (await navigator.serviceWorker.getRegistration())?.waiting === null);
  await browser.close();
  await server.stop();
});
