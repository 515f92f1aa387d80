import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ChangesPage, Payment, Report } from '#core/catalogue';
import { fillSeason } from '../demo/fill.ts';
import { call, changeOf, sendChanges } from '../server/client.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';
import { lateReport } from './lateReport.ts';

const network = 'net_harrowmead';
const dataDir = freshFolder();
let browser: Browser;
let server: Running;
let page: Page;

const goTo = (path: string) => page.goto(`http://localhost:${server.port}${path}`);
const payments = async (): Promise<Payment[]> => {
  const { body } = await call(server, 'GET', '/changes?after=0');
  const all: ChangesPage = JSON.parse(body);
  const byId = new Map(all.changes.map((change) => [change.record, change]));
  return [...byId.values()].flatMap(({ kind, value }) =>
    kind === 'payment' && value !== null ? [value as unknown as Payment] : [],
  );
};

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 4000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir, port });
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, `/reconcile/${network}/2026-09`);
  for (const month of ['2026-09', '2026-10']) {
    await goTo(`/reconcile/${network}/${month}`);
    await page.getByRole('button', { name: 'Close month' }).click();
    await page.getByRole('button', { name: 'Close all the same' }).click();
    await page.getByText('Nothing changed since.').waitFor();
  }
  await goTo(`/payments/${network}`);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** The cells of a month: approved, paid, owed, due. */
const cells = (name: string) => page.getByRole('row', { name: new RegExp(`^${name}`) }).getByRole('cell');
const minor = (text: string | undefined) =>
  Math.round(Number((text ?? '').replace(/[^\d.\u2212-]/g, '').replace('\u2212', '-')) * 100);
const figures = async (name: string) => {
  const [, approved, paid, owed] = await cells(name).allInnerTexts();
  return { approved: minor(approved), paid: minor(paid), owed: minor(owed) };
};
const text = (sum: number) => (sum / 100).toFixed(2);

describe('a payment', () => {
  it('for two months, in part, with a fee taken off, is laid on what it pays', async () => {
    await cells('October 2026').first().waitFor();
    const [september, october] = [await figures('September 2026'), await figures('October 2026')];
    expect(september.approved).toBeGreaterThan(1000);
    expect(october.approved).toBeGreaterThan(1000);
    const arrived = september.approved + 500;
    await page.getByRole('button', { name: 'Months, fee, rate' }).click();
    await page.getByRole('combobox', { name: 'Months it is for' }).click({ force: true });
    for (const month of ['September 2026', 'October 2026'])
      await page.getByRole('option', { name: month }).dispatchEvent('click');
    await page.keyboard.press('Escape');
    await page.getByLabel('Taken off on the way').fill('2.50');
    await page.getByLabel('Amount').fill(text(arrived - 250));
    await page.getByText('on what is owed.').waitFor();
    await page.getByRole('button', { name: 'Note it', exact: true }).click();
    await page.getByText('is noted.').waitFor();
    await expect
      .poll(() => figures('October 2026'))
      .toMatchObject({ paid: 500, owed: october.approved - 500 });
    expect(await figures('September 2026')).toEqual({ ...september, paid: september.approved, owed: 0 });
    const received = page.getByRole('region', { name: 'Payments received' });
    expect(await received.getByRole('listitem').innerText()).toMatch(
      /2\.50 taken off, .* on September 2026, €5\.00 on October 2026/,
    );
  });

  it('is held against the frozen sums; what was reversed since counts where it arrived', async () => {
    const before = await figures('October 2026');
    // The month it is where the network counts.
    const arrived = new Intl.DateTimeFormat('en', {
      month: 'long',
      year: 'numeric',
      timeZone: 'Europe/Berlin',
    }).format();
    const earlier = (await cells(arrived).count()) === 0 ? 0 : (await figures(arrived)).approved;
    const { body } = await call(server, 'GET', '/changes?after=0');
    const all: ChangesPage = JSON.parse(body);
    const rows = all.changes.flatMap(({ kind, value }) =>
      kind === 'report' && value?.['network'] === network ? (value as unknown as Report).rows : [],
    );
    const row = rows.find(
      (one) =>
        one.status === 'approved' &&
        (one.amount ?? 0) > earlier &&
        new Date(one.at).toISOString().startsWith('2026-10-1'),
    );
    if (!row) throw new Error('the season has an approved sale in the middle of October');
    const late = lateReport(network, [{ ...row, status: 'reversed' }]);
    expect((await sendChanges(server, [changeOf('report', late)])).refused).toEqual([]);
    await expect
      .poll(async () => (await figures(arrived)).approved, { timeout: 15_000 })
      .toBe(earlier - (row.amount ?? 0));
    const now = await figures('October 2026');
    expect(now.approved).toBe(before.approved);
    // What it took back beyond what it approved of that month it keeps from the oldest that it owes.
    const rowsShown = await page.getByRole('table').first().getByRole('row').all();
    const taken = await Promise.all(
      rowsShown.slice(1).map((one) => one.getByRole('cell').nth(3).innerText()),
    );
    const deducted = taken.map(minor).reduce((sum, part) => sum + Math.max(0, part), 0);
    expect(deducted).toBe((row.amount ?? 0) - earlier);
    expect(deducted).toBeGreaterThan(0);
  });

  it('is late by the network’s own terms, and the balance reminds of it', async () => {
    await page.getByRole('button', { name: 'Terms of payment' }).click();
    await page.getByLabel('Days after the month’s end').fill('5');
    await page.getByLabel('Least it pays').fill('10.00');
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('It pays 5 days after a month’s end, once €10.00 are owed.').waitFor();
    await page.getByText(/^\d+ days late$/).waitFor();
    await goTo('/reconcile/net_kelvane/2026-10');
    await page.getByRole('note').filter({ hasText: 'Late: Harrowmead €' }).waitFor();
    await goTo(`/payments/${network}`);
  });

  it('comes from a bank’s file, once, with the network whose name stands there and the day’s rate', async () => {
    const file = {
      name: 'umsatz.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(
        [
          '"Buchungstag";"Valuta";"Verwendungszweck";"Zahlungspflichtiger";"Betrag";"Währung"',
          '"20.11.26";"21.11.26";"PROVISION 10/2026";"HARROWMEAD GMBH";"3,21";"EUR"',
          '"20.11.26";"21.11.26";"PAYOUT";"Kelvane";"2,10";"EUR"',
          '"21.11.26";"21.11.26";"Strom";"Stadtwerke";"-80,15";"EUR"',
          '"22.11.26";"22.11.26";"Erstattung";"Laden";"19,90";"EUR"',
        ].join('\r\n'),
        'latin1',
      ),
    };
    const before = await payments();
    await page.locator('input[type=file]').setInputFiles(file);
    await page.getByText('3 rows of money that arrived, 1 of money that left.').waitFor();
    // Kelvane pays in dollars, and no rate of the euro was given.
    await page.getByText('no rate of EUR in USD up to that day is given').waitFor();
    await page.getByRole('button', { name: 'Note 1 payment' }).click();
    await expect.poll(async () => (await payments()).length).toBe(before.length + 1);
    const rate = {
      id: 'rat_a',
      from: 'EUR',
      to: 'USD',
      day: '2026-11-19',
      rate: '1.1',
      source: 'the day’s paper',
    };
    expect((await sendChanges(server, [changeOf('rate', rate)])).refused).toEqual([]);
    await page.locator('input[type=file]').setInputFiles(file);
    await page.getByText('noted already').waitFor();
    await page.getByRole('button', { name: 'Note 1 payment' }).click();
    await expect.poll(async () => (await payments()).length).toBe(before.length + 2);
    expect((await payments()).filter(({ bankRow }) => bankRow !== undefined)).toMatchObject([
      { network, day: '2026-11-20', amount: 321, currency: 'EUR' },
      { network: 'net_kelvane', amount: 210, currency: 'EUR', settles: { currency: 'USD', rate: '1.1' } },
    ]);
    await goTo('/payments/net_kelvane');
    await page.getByText('at 1.1 USD: $2.31,').waitFor();
  });
});
