import { spawnSync } from 'node:child_process';
import { readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage, ClosedMonth } from '#core/catalogue';
import { fillSeason } from '../demo/fill.ts';
import { builtFile } from '../server/built.ts';
import { call } from '../server/client.ts';
import { readConfig } from '../server/config.ts';
import { chainName, inOrder } from '../server/journal/index.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';

const dataDir = freshFolder();
const journal = join(dataDir, 'journal');
let port = 0;
let browser: Browser;
let server: Running;
let context: BrowserContext;
let page: Page;

beforeAll(async () => {
  port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 3000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
  context = await freshPerson(browser);
  page = await openApp(context, server, '/setup');
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const verify = (...args: string[]) => {
  const { status, stdout } = spawnSync(
    process.execPath,
    [builtFile('verify.js'), '--data', dataDir, ...args],
    {
      encoding: 'utf8',
    },
  );
  return { status, stdout };
};
const evidence = () => page.getByRole('region', { name: 'Evidence' });
/** Alters one amount in the middle of the journal, as somebody would who wants to be paid more, or less. */
const forge = (): void => {
  const files = inOrder(readdirSync(journal)).map(({ name }) => join(journal, name));
  const path = files.find((file) => /"kind":"postback".*amount=/.test(readFileSync(file, 'utf8'))) ?? '';
  const text = readFileSync(path, 'utf8');
  const altered = text.replace(
    /("kind":"postback".*?amount=)(\d)/,
    (_, before: string, digit: string) => `${before}${(Number(digit) + 1) % 10}`,
  );
  expect(altered).not.toBe(text);
  writeFileSync(path, altered);
};

describe('seals kept elsewhere', () => {
  it('are kept by the browser and shown, and are the chain’s own', async () => {
    await evidence().getByText('the journal was sealed on').waitFor();
    const shown = (await evidence().locator('code').first().innerText()).trim();
    expect(shown).toMatch(/^[0-9a-f]{16}$/);
    expect(verify('--seal', shown)).toMatchObject({
      status: 0,
      stdout: expect.stringContaining('The seal you gave is in the chain: every record up to ') as string,
    });
  });

  it('stand in a closed month, made at that moment', async () => {
    await page.goto(`http://localhost:${port}/reconcile/net_vennor/2026-10`);
    await page.getByRole('button', { name: 'Close month' }).click();
    const closed = page.getByText('the journal’s seal then');
    const asked = page.getByRole('button', { name: 'Close all the same' });
    await closed.or(asked).first().waitFor();
    // Where differences wait, it is asked first.
    if (await asked.isVisible()) await asked.click();
    await closed.waitFor();
    const month = await vi.waitFor(async () => {
      const { changes } = JSON.parse((await call(server, 'GET', '/changes?after=0')).body) as ChangesPage;
      const sent = changes.find(({ kind }) => kind === 'month');
      expect(sent).toBeDefined();
      return sent?.value as unknown as ClosedMonth;
    });
    const { seq } = JSON.parse((await call(server, 'GET', '/health')).body) as { seq: number };
    expect(month.seal?.hash).toMatch(/^[0-9a-f]{64}$/);
    // Closing it was itself the next record.
    expect(month.seal?.seq).toBeGreaterThanOrEqual(seq - 2);
    expect(verify('--seal', month.seal?.hash ?? '').status).toBe(0);
  });

  it('show in the browser that a file was altered, and that the chain was made anew', async () => {
    await page.goto(`http://localhost:${port}/setup`);
    await evidence().getByText('the journal was sealed on').waitFor();
    await server.stop();
    const chain = readFileSync(join(journal, chainName));
    forge();
    expect(verify()).toMatchObject({
      status: 1,
      stdout: expect.stringContaining('was altered within bytes') as string,
    });

    server = await startServer({ dataDir, port });
    await page.reload();
    await evidence().getByText('of the journal is not what was sealed').waitFor();
    await server.stop();
    expect(readFileSync(join(journal, chainName)).subarray(0, chain.length)).toEqual(chain);

    rmSync(join(journal, chainName));
    server = await startServer({ dataDir, port });
    await page.reload();
    const alert = evidence().getByRole('alert');
    // Every screen says so.
    await page.getByRole('status').getByText('Journal altered: see Setup').waitFor();
    await alert.getByText('is no longer in the server’s chain').waitFor();
    // By its own chain nothing is wrong: what was kept elsewhere tells, and the closed month is of that.
    expect(verify()).toMatchObject({
      status: 1,
      stdout: expect.stringContaining('The month 2026-10 with Vennor Direct: the seal it rests on') as string,
    });
    expect(verify().stdout.match(/^WRONG/gm)).toHaveLength(1);
    const seal = /--seal ([0-9a-f]{16})/.exec(await alert.innerText())?.[1] ?? '';
    expect(verify('--seal', seal)).toMatchObject({
      status: 1,
      stdout: expect.stringContaining('the chain was made anew since that seal was kept') as string,
    });
    // It stays until the person has seen it.
    await page.reload();
    await alert.getByText('is no longer in the server’s chain').waitFor();
    await alert.getByRole('button', { name: 'Keep the seals it has now' }).click();
    await evidence().getByText('the journal was sealed on').waitFor();
    await page.reload();
    await evidence().getByText('the journal was sealed on').waitFor();
    expect(await alert.count()).toBe(0);
  });
});
