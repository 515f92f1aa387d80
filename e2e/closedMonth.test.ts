import { spawnSync } from 'node:child_process';
import { cpSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { monthIn } from '#core/hop';
import type { ReportRow } from '#core/catalogue';
import { fillSeason } from '../demo/fill.ts';
import { builtFile } from '../server/built.ts';
import { changeOf, sendChanges } from '../server/client.ts';
import { readConfig } from '../server/config.ts';
import { openDataset } from '../server/dataFolder.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { balanceOn, openApp, startServer } from './desk.ts';
import { lateReport } from './lateReport.ts';

const network = 'net_osprenet';
const month = '2026-10';
const dataDir = freshFolder();
let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 4000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, `/reconcile/${network}/${month}`);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const run = (name: string, ...more: string[]) =>
  spawnSync(process.execPath, [builtFile(name), '--data', ...more], { encoding: 'utf8' });
const reconcile = () => run('reconcile.js', dataDir, '--network', network, '--month', month).stdout;

/** Two rows of the month that count, as the network's reports have them. */
const twoRows = async (): Promise<ReportRow[]> => {
  const { reconciled, records } = await openDataset(dataDir);
  const keys = new Set(
    reconciled.units.flatMap(({ network: whose, theirs, reported }) =>
      whose === network && reported && theirs?.counts && theirs.month === month && theirs.amount
        ? [reported.key]
        : [],
    ),
  );
  return records.reports
    .filter((report) => report.network === network)
    .flatMap(({ rows }) => rows.filter(({ key }) => keys.has(key)))
    .slice(0, 2);
};

describe('a closed month', () => {
  let shown = '';
  let printed = '';

  it('is closed with what waits only after it was asked, with what that is worth', async () => {
    await page
      .getByRole('row', { name: /^Commission/ })
      .first()
      .waitFor();
    await page.getByLabel('To settle').getByRole('link').first().waitFor();
    shown = await balanceOn(page);
    await page.getByRole('button', { name: 'Close month' }).click();
    const asked = page.getByRole('alertdialog', { name: 'Close with differences open' });
    await asked.getByRole('heading', { name: /^\d+ differences are not settled, .*\d/ }).waitFor();
    await asked.getByRole('button', { name: 'Settle them first' }).click();
    await page.getByRole('button', { name: 'Close month' }).click();
    await asked.getByRole('button', { name: 'Close all the same' }).click();
    await page.getByText('Nothing changed since.').waitFor();
    expect(await balanceOn(page)).toBe(shown);
    printed = reconcile();
    expect(printed).toContain('Nothing changed since.');
  });

  it('shows what it showed after late rows, a moved conversion and another rule, which stand beside it', async () => {
    const [moved, corrected] = await twoRows();
    if (!moved || !corrected) throw new Error('the season has two sales of that month');
    const late = lateReport(network, [
      { ...moved, at: Date.UTC(2026, 10, 2, 12) },
      { ...corrected, amount: (corrected.amount ?? 0) + 100 },
      { ...corrected, key: 'LATE-1|sale', txn: 'LATE-1', click: '', amount: 700, status: 'approved' },
    ]);
    const rules = {
      repeatMinutes: 240,
      burstRequests: 5,
      burstSeconds: 10,
      ownByTest: true,
      robots: ['Firefox'],
    };
    const answer = await sendChanges(server, [
      changeOf('report', late),
      changeOf('settings', { id: 'settings', currency: 'EUR', classification: rules }, 2),
    ]);
    expect(answer.refused).toEqual([]);
    await page.getByRole('note').filter({ hasText: 'Since then 3 changes, ' }).waitFor({ timeout: 15_000 });
    await page.getByRole('button', { name: 'Show what changed' }).click();
    const changes = page.locator('.changes');
    await changes.getByRole('row', { name: /LATE-1 came or was changed/ }).waitFor();
    await changes.getByRole('row', { name: /is of another month now/ }).waitFor();
    await changes
      .getByRole('row', { name: /^Commission/ })
      .first()
      .waitFor();
    // The new rule takes other requests for repeats and machines; the closed month does not.
    await changes.getByRole('row', { name: /^Clicks/ }).waitFor();
    expect(await balanceOn(page)).toBe(shown);

    const now = reconcile();
    const figuresOf = (text: string) => text.slice(0, text.indexOf('Closed on'));
    expect(figuresOf(now)).toBe(figuresOf(printed));
    expect(now).toContain('Now it would be:');
    expect(now).toMatch(/LATE-1: 7(?:00|\.00) \w{3}, counts in \d{4}-\d\d/);
  });

  it('counts what changed since in the month in which it arrived', async () => {
    const { networks } = (await openDataset(dataDir)).records;
    const zone = networks.find(({ id }) => id === network)?.zone ?? '';
    await page.goto(`http://localhost:${server.port}/reconcile/${network}/${monthIn(zone, Date.now())}`);
    const note = page.getByRole('note').filter({ hasText: 'Adjustment of October 2026, closed before: ' });
    await note.filter({ hasText: 'in 3 changes.' }).waitFor();
  });

  it('is checked by a command, which finds a figure that somebody altered, and a seal of another journal', () => {
    const good = run('verify.js', dataDir);
    expect([good.status, good.stdout]).toEqual([0, expect.stringContaining('Closed months: 1 checked.')]);
    const altered = (from: RegExp, to: string) => {
      const copy = freshFolder();
      cpSync(dataDir, copy, { recursive: true });
      const path = join(copy, 'changes.ndjson');
      const text = readFileSync(path, 'utf8');
      expect(text).toMatch(from);
      writeFileSync(path, text.replace(from, to));
      return run('verify.js', copy);
    };
    const figure = altered(/"conversions":\{"ours":\d+,/, '"conversions":{"ours":999,');
    expect([figure.status, figure.stdout]).toEqual([
      1,
      expect.stringContaining(`The month ${month} with Osprenet: its figures do not fit their checksum`),
    ]);
    // A change feed that was damaged hides nothing of the journal.
    const damaged = altered(/^\{/, '#');
    expect([damaged.status, damaged.stdout]).toEqual([
      1,
      expect.stringMatching(/WRONG {2}changes\.ndjson holds a line that is no change[^]*as it was sealed on/),
    ]);
    const seal = altered(/"seal":\{"hash":"[0-9a-f]{8}/, '"seal":{"hash":"00000000');
    expect([seal.status, seal.stdout]).toEqual([1, expect.stringContaining('is not in the chain')]);
  });
});
