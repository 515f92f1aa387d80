import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import AxeBuilder from '@axe-core/playwright';
import { strFromU8, unzipSync } from 'fflate';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readTable } from '#core/formats';
import { fillSeason } from '../demo/fill.ts';
import { call } from '../server/client.ts';
import type { Season } from '../demo/season/index.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, personWithoutJournal, pick, startServer, untilCounted } from './desk.ts';

let browser: Browser;
let server: Running;
let context: BrowserContext;
let page: Page;
let truth: Season['truth'];
const dataDir = freshFolder();
const now = Date.UTC(2026, 10, 23, 15);

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 16_000, now);
  truth = JSON.parse(readFileSync(join(dataDir, 'truth.json'), 'utf8'));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
  context = await freshPerson(browser);
  page = await openApp(context, server, '/reconcile/net_kelvane/2026-10');
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const goTo = (path: string) => page.goto(`http://localhost:${server.port}${path}`);
const row = (name: string) => page.getByRole('row', { name: new RegExp(`^${name}`) });
/** The figures of a row of the balance: ours, theirs. */
const figures = async (name: string) => {
  const cells = row(name).getByRole('cell');
  return [await cells.nth(0).innerText(), await cells.nth(1).innerText()];
};
const totalOf = (network: string, month: string, currency: string) =>
  truth.totals.find((one) => one.network === network && one.month === month && one.currency === currency);
const waits = (name: string) => page.getByLabel('To settle').getByRole('link', { name });

describe('a month with awkward networks', () => {
  it('shows ours, theirs and the difference, to the cent of what truly happened', async () => {
    for (const [network, currency, sign] of [
      ['net_kelvane', 'USD', '$'],
      ['net_harrowmead', 'EUR', '€'],
      ['net_vennor', 'GBP', '£'],
    ] as const) {
      await goTo(`/reconcile/${network}/2026-10`);
      const [count, money] = [totalOf(network, '2026-10', ''), totalOf(network, '2026-10', currency)];
      const write = (minor: number) =>
        sign + (minor / 100).toLocaleString('en-GB', { minimumFractionDigits: 2 });
      await row('Conversions').waitFor();
      await expect
        .poll(() => figures('Conversions'), { timeout: 20_000 })
        .toEqual([String(count?.ours), String(count?.theirs)]);
      expect(await figures('Commission')).toEqual([write(money?.ours ?? 0), write(money?.theirs ?? 0)]);
    }
  });

  it('is neither summed, closed nor claimed before the journal is whole', async () => {
    const slow = await personWithoutJournal(browser);
    const early = await slow.context.newPage();
    await early.goto(`http://localhost:${server.port}/reconcile/net_kelvane/2026-10#key=${server.key}`);
    await early.getByText('The journal is still arriving: 0 of').waitFor();
    const close = early.getByRole('button', { name: 'Close month' });
    expect(await close.isDisabled()).toBe(true);
    expect(await early.getByRole('row').count()).toBe(0);
    await early.getByRole('link', { name: 'Ledger' }).click();
    expect(await early.getByRole('button', { name: 'Save as CSV' }).isDisabled()).toBe(true);
    await early.goBack();
    await early.getByRole('link', { name: 'Claim', exact: true }).click();
    await early.getByRole('heading', { name: 'Claim to Kelvane' }).waitFor();
    await early.getByText('The journal is still arriving: 0 of').waitFor();
    expect(await early.getByRole('button', { name: 'Save claim file' }).count()).toBe(0);
    await early.goBack();
    slow.letGo();
    await early.getByRole('row', { name: /^Conversions/ }).waitFor();
    await expect.poll(() => close.isEnabled()).toBe(true);
    await slow.context.close();
  });

  it('is neither when half of the journal is here and the server is away', async () => {
    const half = await freshPerson(browser);
    await half.route('**/api/journal?**', async (route) => {
      const response = await route.fetch();
      const lines = (await response.text()).split('\n');
      await route.fulfill({ response, body: `${lines.slice(0, lines.length / 2).join('\n')}\n` });
    });
    const early = await half.newPage();
    const path = `http://localhost:${server.port}/reconcile/net_kelvane/2026-10`;
    await early.goto(`${path}#key=${server.key}`);
    await early.getByText(/still arriving: [1-9][\d,]+ of/).waitFor();
    await half.route('**/api/**', (route) => route.abort());
    await early.goto(path);
    await early.getByText(/still arriving: [1-9][\d,]+ of/).waitFor();
    expect(await early.getByRole('button', { name: 'Close month' }).isDisabled()).toBe(true);
    await half.close();
  });

  it('settles what is safe in one press, takes it back as one, and settles one by keyboard', async () => {
    await goTo('/reconcile/net_harrowmead/2026-10');
    const cut = waits('Click ID cut short');
    await cut.waitFor();
    await cut.click();
    await page.getByRole('button', { name: /^Accept all/ }).click();
    await page.getByText(/differences are accepted/).waitFor();
    await expect.poll(() => cut.count(), { timeout: 10_000 }).toBe(0);
    await page.getByRole('button', { name: 'Undo' }).click();
    await cut.waitFor();
    // By keyboard: to the queue, to the reason, and Enter.
    const before = await cut.innerText();
    await cut.focus();
    await page.keyboard.press('Enter');
    await page.getByLabel('Reason').focus();
    await page.keyboard.type('looked at it');
    await page.keyboard.press('Enter');
    await page.getByText('One difference is accepted.').waitFor();
    await expect.poll(() => cut.innerText(), { timeout: 10_000 }).not.toBe(before);
  });

  it('lets another click be chosen, and what is claimed leaves as a zip', async () => {
    await goTo('/reconcile/net_kelvane');
    const strangers = truth.faults.find((fault) => fault.kind === 'not one of ours');
    const stranger = strangers?.key ?? '';
    for (const month of ['2026-09', '2026-10']) {
      await goTo(`/reconcile/net_kelvane/${month}?kind=not+one+of+ours`);
      await row('Conversions').waitFor();
      const choose = page.getByRole('button', { name: 'Choose another click' });
      if (
        !(await choose.waitFor({ timeout: 4000 }).then(
          () => true,
          () => false,
        ))
      )
        continue;
      await choose.click();
      await page.locator('.candidates button').first().waitFor();
      // What arrives meanwhile closes nothing.
      await send(`http://see.nightledge.localhost:${server.port}/saturn-kit~while-choosing`);
      await page.getByText('~while-choosing').first().waitFor();
      await page.waitForTimeout(500);
      await page.locator('.candidates button').first().click();
      await page.getByText('given the chosen click').waitFor();
      break;
    }
    expect(stranger).not.toBe('');
    const missing = truth.faults.find((fault) => fault.kind === 'not in report');
    for (const month of ['2026-08', '2026-09', '2026-10']) {
      await goTo(`/reconcile/net_kelvane/${month}`);
      await row('Conversions').waitFor();
      if (
        await waits('Not in report')
          .waitFor({ timeout: 4000 })
          .then(
            () => true,
            () => false,
          )
      )
        break;
    }
    await page.getByRole('link', { name: 'Claim', exact: true }).click();
    const save = page.getByRole('button', { name: /^Save claim file and mark \d+ as asked$/ });
    await save.waitFor();
    const [download] = await Promise.all([page.waitForEvent('download'), save.click()]);
    const files = unzipSync(new Uint8Array(readFileSync(await download.path())));
    const letter = strFromU8(files['letter.txt'] ?? new Uint8Array());
    expect(letter).toContain('- not in report: ');
    // It names a seal of the journal, which the server's chain holds.
    const seal = /SHA-256 ([0-9a-f]{64})/.exec(letter)?.[1] ?? '';
    expect(JSON.parse((await call(server, 'GET', `/seal?hash=${seal}`)).body)).toEqual({ known: true });
    expect(Object.keys(files).some((name) => name.startsWith('evidence/'))).toBe(true);
    expect(strFromU8(files['rows.csv'] ?? new Uint8Array())).toMatch(/KV4\d+/);
    expect(missing).toBeDefined();
  });

  it('reads a claim as a page, and notes what the network answers on its rows', async () => {
    // What was asked waits for nobody any more.
    const asked = page.getByRole('button', { name: 'Note answer' });
    await asked.first().waitFor();
    const many = await asked.count();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save claim file', exact: true }).click(),
    ]);
    const files = unzipSync(new Uint8Array(readFileSync(await download.path())));
    const text = (name: string) => strFromU8(files[name] ?? new Uint8Array());
    const sheet = await page.context().newPage();
    await sheet.setContent(text('claim.html'));
    await sheet.getByRole('heading', { name: /^Kelvane, 2026-/ }).waitFor();
    expect(await sheet.getByText('Times in America/Los_Angeles.').count()).toBe(1);
    expect(await sheet.locator('tbody tr').count()).toBeGreaterThan(many);
    await sheet.close();

    // The network fills the last columns, with a semicolon between cells as its spreadsheet writes.
    const { header, rows } = readTable(text('rows.csv'));
    const at = (name: string) => header.indexOf(name);
    const [first] = rows;
    if (!first) throw new Error('the claim has a row');
    const filled = [header, ...rows].map((row) =>
      row
        .map((cell, i) => {
          if (row === first && i === at('your answer')) return 'Refused';
          return row === first && i === at('your reason') ? 'returned by the customer' : cell;
        })
        .map((cell) => `"${cell.replaceAll('"', '""')}"`)
        .join(';'),
    );
    await page.locator('input[type=file]').setInputFiles({
      name: 'rows answered.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(filled.join('\r\n')),
    });
    await page.getByText('1 answer is noted.').waitFor();
    await page.getByRole('cell', { name: 'refused, “returned by the customer”' }).waitFor();
    expect(await asked.count()).toBe(many - 1);
    // It is settled with their reason.
    await page.getByRole('button', { name: 'Write off' }).click();
    await page.getByText('One difference is written off.').waitFor();
    await page
      .getByRole('cell', { name: 'refused, “returned by the customer”' })
      .waitFor({ state: 'detached' });
  });

  it('reads the report of each network as it is, mends a bad row, and knows a file it has seen', async () => {
    const report = (name: string) => join(dataDir, 'reports', name);
    const take = async (network: string, file: string) => {
      await goTo(`/report/${network}`);
      await page.locator('input[type=file]').setInputFiles(file);
    };
    const lines = readFileSync(report('kelvane-leads-2026-11.csv'), 'utf8').split('\r\n');
    const broken = [...lines];
    broken[2] = (lines[2] ?? '').replace(/"\d\d\/\d\d\/\d{4}"/, '"sometime"');
    writeFileSync(report('broken.csv'), broken.join('\r\n'));
    await take('net_kelvane', report('broken.csv'));
    await page.getByText('1 row is not good').waitFor();
    await page.getByText('“sometime').waitFor();
    const day = /"(\d\d\/\d\d\/\d{4})"/.exec(lines[2] ?? '')?.[1] ?? '';
    await page.getByLabel('Line 3, Date').fill(day);
    await page.getByRole('button', { name: 'Mend' }).click();
    await page.getByText('not good').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: /^Bring in \d+ rows/ }).click();
    await page.getByText('They are brought in').waitFor();
    const total = totalOf('net_kelvane', '2026-11', '');
    await expect
      .poll(() => figures('Conversions'), { timeout: 20_000 })
      .toEqual([String(total?.ours), String(total?.theirs)]);
    // The same file again changes nothing.
    await take('net_kelvane', report('kelvane-leads-2026-11.csv'));
    await page.getByText(/0 new, 0 changed since they were last reported/).waitFor();

    for (const [network, file] of [
      ['net_harrowmead', 'harrowmead-orders-2026-11.csv'],
      ['net_osprenet', 'osprenet-rewards-2026-11.tsv'],
      ['net_vennor', 'vennor-friends-2026-11.csv'],
    ] as const) {
      await take(network, report(file));
      await page.getByText(/rows are good/).waitFor();
      expect(await page.getByText('not good').count()).toBe(0);
    }
  });

  it('says plainly what is wrong with a file, and loses nothing', async () => {
    await goTo('/report/net_harrowmead');
    const input = page.locator('input[type=file]');
    const give = (name: string, content: string | Buffer) =>
      input.setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(content) });
    await give('page.csv', '<html>log in</html>');
    await page.getByText('This is a web page without a table of rows').waitFor();
    await give('cut.xlsx', Buffer.from('PK\u0003\u0004 and then nothing'));
    await page.getByText(/This workbook cannot be read/).waitFor();
    await give('empty.csv', '');
    await page.getByText('The file is empty').waitFor();
    // Every date could be read in two ways: it is asked.
    await give('twice.csv', 'Lead,On,Payout\nA1,03/04/2026,1.00\nA2,05/06/2026,2.00\n');
    await page.getByText('These headings are not those of the last report of Harrowmead').waitFor();
    await pick(page.getByLabel('Network', { exact: true }), 'Vennor Direct');
    await give('formula.csv', 'Order,When,Payout\n"=1+1",2026-11-03 10:00,1.00\n');
    await page.getByText('1 row is good').waitFor();
  });

  it('closes the month, and notes what was paid', async () => {
    await goTo('/reconcile/net_vennor/2026-10');
    await row('Conversions').waitFor();
    await page.getByRole('button', { name: 'Close month' }).click();
    await page.getByRole('button', { name: 'Close all the same' }).click();
    await page.getByText('Nothing changed since.').waitFor();
    await page.getByRole('link', { name: 'Payments' }).click();
    await page.getByLabel('Amount').fill('60.00');
    await page.keyboard.press('Enter');
    await page.getByRole('listitem').filter({ hasText: '£60.00' }).waitFor();
    await page.reload();
    await page.getByRole('listitem').filter({ hasText: '£60.00' }).waitFor();
  });

  it.each(['light', 'dark'] as const)('has nothing serious for axe in the %s theme', async (colorScheme) => {
    const person = await freshPerson(browser, { colorScheme });
    const view = await openApp(person, server, '/reconcile/net_kelvane/2026-10');
    await untilCounted(view);
    for (const path of [
      '/reconcile/net_kelvane/2026-09',
      '/reconcile/net_osprenet/2026-10',
      '/ledger/net_kelvane/2026-09',
      '/payments/net_harrowmead',
      '/report/net_kelvane',
    ]) {
      await view.goto(`http://localhost:${server.port}${path}`);
      await view.locator('h1').waitFor();
      await untilCounted(view);
      await view.waitForTimeout(500);
      const { violations } = await new AxeBuilder({ page: view }).analyze();
      const found = violations
        .filter(({ impact }) => impact === 'serious' || impact === 'critical')
        .map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target.join(' ')).join(', ')}`);
      expect([path, found]).toEqual([path, []]);
    }
    await person.close();
  });

  it('shows the same to a second window', async () => {
    const other = await openApp(context, server, '/reconcile/net_vennor/2026-10');
    await other.getByText('Nothing changed since.').waitFor();
    await other.close();
  });
});
