import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ChangesPage } from '#core/catalogue';
import { call } from '../server/client.ts';
import { startBrowser } from './browser.ts';
import { pick } from './desk.ts';
import { deskAndOthers } from './deskAndOthers.ts';

const patient = { timeout: 15_000 };
let browser: Browser;
let desk: Awaited<ReturnType<typeof deskAndOthers>>;
beforeAll(async () => {
  browser = await startBrowser();
  desk = await deskAndOthers(browser);
});
afterAll(async () => {
  await desk.server.stop();
  await browser.close();
});

const take = async (page: Page, name: string, lines: readonly string[]) => {
  await desk.goTo('/report/net_harrowmead');
  await page.locator('input[type=file]').setInputFiles({
    name,
    mimeType: 'text/csv',
    buffer: Buffer.from(lines.join('\n')),
  });
};
const header = 'Order ID;Click date;Event date;Order value;Amount;Currency;State';
const sales = [
  header,
  'HM-1;30.09.2026;14.10.2026;100,00;3,00;EUR;approved',
  'HM-2;02.10.2026;15.10.2026;40,50;1,22;EUR;approved',
  'HM-3;03.10.2026;16.10.2026;20,00;0,60;EUR;pending',
];
/** The cells of the table of sums, row by row. */
const sums = (page: Page) => page.locator('table').last().locator('tbody tr').allInnerTexts();

describe('a report', () => {
  it('with an order value beside an amount asks which is the commission, and shows the sums before it is brought in', async () => {
    const { page } = desk;
    await take(page, 'october.csv', sales);
    await page.getByRole('combobox', { name: 'Which column is your commission?' }).waitFor();
    expect(await page.getByRole('button', { name: /^Bring in/ }).count()).toBe(0);
    // Of two dates the sale's own is taken.
    expect(await page.getByLabel('What Event date holds').inputValue()).toBe('date');
    await page.getByText('date of something else').waitFor();
    await page.getByRole('combobox', { name: 'Which column is your commission?' }).click({ force: true });
    await page.getByRole('option', { name: 'Amount', exact: true }).dispatchEvent('click');
    await page.getByText('3 rows are good').waitFor();
    expect((await sums(page)).map((row) => row.replaceAll('\t', ' '))).toEqual([
      'pending 1 €0.60',
      'approved 2 €4.22',
    ]);
    await page.getByRole('button', { name: 'Bring in 3 rows' }).click();
    await page.getByText('They are brought in.').waitFor();
    const stored = async () => {
      const network = await desk.stored('net_harrowmead');
      return network?.value?.['report'];
    };
    await expect
      .poll(stored, patient)
      .toMatchObject({ columns: { Amount: 'amount', 'Order value': 'nothing', 'Event date': 'at' } });
  });

  it('of the same shape is brought in with one press, and a wrong choice is taken back with all it brought', async () => {
    const { page } = desk;
    await take(page, 'november.csv', [header, 'HM-4;03.11.2026;16.11.2026;50,00;1,50;EUR;approved']);
    await page.getByText('1 row is good').waitFor();
    expect((await sums(page)).map((row) => row.replaceAll('\t', ' '))).toEqual(['approved 1 €1.50']);
    // The person chooses wrongly, brings it in, and takes it back.
    await pick(page.getByLabel('What Order value holds'), 'commission');
    await expect
      .poll(async () => (await sums(page)).map((row) => row.replaceAll('\t', ' ')), patient)
      .toEqual(['approved 1 €50.00']);
    await page.getByRole('button', { name: 'Bring in 1 row' }).click();
    await page.getByText('They are brought in.').waitFor();
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await page.getByText('It is undone.').waitFor();
    await expect
      .poll(async () => (await desk.stored('net_harrowmead'))?.value?.['report'], patient)
      .toMatchObject({ columns: { Amount: 'amount', 'Order value': 'nothing' } });
    await take(page, 'november.csv', [header, 'HM-4;03.11.2026;16.11.2026;50,00;1,50;EUR;approved']);
    await page.getByText('1 new, 0 changed').waitFor();
    expect((await sums(page)).map((row) => row.replaceAll('\t', ' '))).toEqual(['approved 1 €1.50']);
  });

  it('in a currency that there is not is refused row by row', async () => {
    const { page } = desk;
    await take(page, 'odd.csv', [header, 'HM-5;03.11.2026;16.11.2026;50,00;1,50;XQZ;approved']);
    await page.getByText('“XQZ” is no currency of ISO 4217').waitFor();
    expect(await page.getByRole('button', { name: /^Bring in|^Keep that/ }).isDisabled()).toBe(true);
  });

  it('under title lines, with a total, is read as it stands, and its heading can be pointed at', async () => {
    const { page } = desk;
    const lines = [
      'sep=;',
      'Conversions of nl-4471;October',
      '',
      header,
      'HM-7;01.10.2026;20.10.2026;50,00;1,50;EUR;approved',
      'HM-8;01.10.2026;21.10.2026;60,00;1,80;EUR;approved',
      'HM-9;01.10.2026;22.10.2026;10,00;0,30;EUR;approved',
      'Total;;22.10.2026;120,00;3,60;;',
    ];
    await take(page, 'titled.csv', lines);
    await page.getByText('3 rows are good').waitFor();
    await page.getByText('2: Conversions of nl-4471 · October').waitFor();
    await page.getByText('Line 8 is a total and left out').waitFor();
    expect((await sums(page)).map((row) => row.replaceAll('\t', ' '))).toEqual(['approved 3 €3.60']);
    const heading = page.getByLabel('Heading on line');
    expect(await heading.inputValue()).toBe('4');
    await heading.fill('5');
    await heading.press('Enter');
    await page.getByLabel('What HM-7 holds').waitFor();
    await heading.fill('4');
    await heading.press('Enter');
    await page.getByText('3 rows are good').waitFor();
  });

  it('with a title, an order value, items, a refund and states of its own takes three choices, and none again', async () => {
    const { page } = desk;
    const head = 'Order No;Item;Basket value;Value;Currency;State;Event date;Sub ID';
    const lines = [
      'Nightledge account nl-4471',
      'Transactions December 2026',
      '',
      head,
      'HM-21;Lamp;100,00;3,00;EUR;passed;02.12.2026;',
      'HM-21;Shade;150,00;4,50;EUR;passed;02.12.2026;',
      'HM-22;Tripod;20,00;0,60;EUR;in the queue;16.12.2026;',
      'HM-22;Tripod;-10,00;-0,30;EUR;in the queue;20.12.2026;',
      'HM-23;Lamp;1.220,00;36,60;EUR;in the queue;28.12.2026;',
      'Total;;1.480,00;44,40;;;;',
    ];
    await take(page, 'december.csv', lines);
    const choose = async (label: string, option: string) => {
      await page.getByRole('combobox', { name: label }).click({ force: true });
      const list = page.getByRole('listbox', { name: label });
      await list.getByRole('option', { name: option, exact: true }).dispatchEvent('click');
    };
    await choose('Which column is your commission?', 'Value');
    await choose('What does “passed” mean? (2 rows)', 'approved');
    expect(await page.getByRole('button', { name: /^Bring in/ }).count()).toBe(0);
    await choose('What does “in the queue” mean? (3 rows)', 'pending');
    await page.getByText('4 rows are good, those of one order added up').waitFor();
    expect((await sums(page)).map((row) => row.replaceAll('\t', ' '))).toEqual([
      'pending 2 €37.20',
      'approved 2 €7.50',
      'refunds 1 -€0.30',
    ]);
    await page.getByRole('button', { name: 'Bring in 4 rows' }).click();
    await page.getByText('They are brought in.').waitFor();
    const network = async () => (await desk.stored('net_harrowmead'))?.value;
    const taught = async () => (await network())?.['postback'];
    await expect
      .poll(taught, patient)
      .toMatchObject({ statuses: { passed: 'approved', 'in the queue': 'pending' } });

    // The same again, and another of its shape: nothing is asked.
    await take(page, 'december.csv', lines);
    await page.getByText('0 new, 0 changed since they were last reported, 4 known already.').waitFor();
    await page.getByRole('button', { name: 'Keep that it covers these days' }).waitFor();
    await take(page, 'more.csv', [
      ...lines.slice(0, -1),
      'HM-24;Lamp;10,00;0,30;EUR;passed;29.12.2026;',
      'HM-24;Shade;20,00;0,60;EUR;passed;29.12.2026;',
    ]);
    await page.getByText('1 new, 0 changed since they were last reported, 4 known already.').waitFor();
    expect((await sums(page)).map((row) => row.replaceAll('\t', ' '))).toEqual([
      'pending 2 €37.20 €37.20',
      'approved 4 €8.40 €7.50',
      'refunds 1 -€0.30 -€0.30',
    ]);
    await page.getByText('It lists everything we know of these days.').waitFor();
    await page.getByRole('button', { name: 'Bring in 1 row' }).click();
    await page.getByText('They are brought in.').waitFor();

    // What was taught goes with the import when that is taken back.
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await page.getByText('It is undone.').waitFor();
    await take(page, 'more.csv', [head, 'HM-24;Lamp;10,00;0,30;EUR;passed;29.12.2026;']);
    await page.getByText('1 new, 0 changed').waitFor();
  });

  it('that lists less than is known asks whether it is a part; what a whole one lacks is a case', async () => {
    const { page } = desk;
    const head = 'Order No;Item;Basket value;Value;Currency;State;Event date;Sub ID';
    await take(page, 'one.csv', [head, 'HM-22;Tripod;20,00;0,60;EUR;passed;16.12.2026;']);
    await page.getByText('0 new, 1 changed').waitFor();
    const from = page.getByLabel('First day it covers');
    await from.fill('2026-12-01');
    await page.getByLabel('Last day it covers').fill('2026-12-31');
    await page.getByText('It lacks 3 rows of earlier reports.').waitFor();
    const bring = page.getByRole('button', { name: 'Bring in 1 row' });
    expect(await bring.isDisabled()).toBe(true);
    await page.getByLabel('It lists a part of them').check({ force: true });
    await bring.click();
    await page.getByText('They are brought in.').waitFor();
    await desk.goTo('/reconcile/net_harrowmead/2026-12');
    await page.getByText('In report, no postback').first().waitFor();
    await page.getByText('Refund in report').waitFor();
    expect(await page.getByText('No longer in report').count()).toBe(0);

    await take(page, 'whole.csv', [
      head,
      'HM-21;Lamp;100,00;3,00;EUR;passed;02.12.2026;',
      'HM-21;Shade;150,00;4,50;EUR;passed;02.12.2026;',
      'HM-22;Tripod;20,00;0,60;EUR;passed;16.12.2026;',
      'HM-22;Tripod;-10,00;-0,30;EUR;in the queue;20.12.2026;',
    ]);
    await page.getByText('0 new, 0 changed').waitFor();
    await page.getByLabel('Last day it covers').fill('2026-12-31');
    await page.getByText('It lacks 1 row of earlier reports.').waitFor();
    await page.getByLabel('It lists all of these days').check({ force: true });
    await page.getByRole('button', { name: 'Keep that it covers these days' }).click();
    await page.getByText('They are brought in.').waitFor();
    await page.getByText('No longer in report').first().waitFor();
  });

  it('of clicks says nothing of the conversions of its days', async () => {
    const { page, server } = desk;
    await take(page, 'clicks.csv', ['Day;Clicks', '02.12.2026;40', '16.12.2026;35']);
    await page.getByText('Clicks of 2 days and labels.').waitFor();
    await page.getByRole('button', { name: 'Bring in the clicks' }).click();
    await page.getByText('They are brought in.').waitFor();
    const reports = async () => {
      const { body } = await call(server, 'GET', '/changes?after=0');
      const all: ChangesPage = JSON.parse(body);
      return all.changes.flatMap(({ value }) => (value?.['file'] === 'clicks.csv' ? [value] : []));
    };
    await expect.poll(async () => (await reports()).length, patient).toBe(1);
    const [kept] = await reports();
    expect(kept).toMatchObject({ rows: [], clicks: [{ clicks: 40 }, { clicks: 35 }] });
    expect(kept).not.toHaveProperty('gone');
  });

  it('with coupon codes ties a sale without a click to the link that hands the code out, by coupon', async () => {
    const { page } = desk;
    const stored = async () => {
      const value = (await desk.stored('lnk_saturn'))?.value;
      return value?.['coupons'];
    };
    await desk.goTo('/links/lnk_saturn');
    await page.getByRole('button', { name: 'Edit entry' }).click();
    await page.getByLabel('Coupon codes handed out with it').fill('FERN10');
    await page.keyboard.press('Enter');
    await page.getByLabel('Where they are handed out (source)').fill('letter');
    await desk.save();
    await expect.poll(stored, patient).toEqual({ codes: ['FERN10'], source: 'letter' });
    await page.getByText('Hands out FERN10 at letter.').waitFor();
    await take(page, 'coupons.csv', [
      'Order ID;Event date;Amount;Currency;State;Voucher code',
      'HM-31;14.01.2027;3,00;EUR;approved;fern10',
    ]);
    await page.getByText('1 row is good').waitFor();
    expect(await page.getByLabel('What Voucher code holds').inputValue()).toBe('coupon code');
    await page.getByRole('button', { name: 'Bring in 1 row' }).click();
    await page.getByText('They are brought in.').waitFor();
    await desk.goTo('/ledger/net_harrowmead/2027-01');
    await page.getByText('by coupon').waitFor();
  });
});
