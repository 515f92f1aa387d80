import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Network } from '#core/catalogue';
import { monthIn } from '#core/hop';
import { send } from '../standins/index.ts';
import type { Running } from '../server/testing/process.ts';
import { startBrowser } from './browser.ts';
import { deskWithLink } from './desk.ts';

let browser: Browser;
let server: Running;
let page: Page;
let network: Network;

beforeAll(async () => {
  browser = await startBrowser();
  const desk = await deskWithLink(browser);
  ({ server, page } = desk);
  ({ network } = desk.records);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** A postback as the network sends it. */
const heard = async (fields: Record<string, string>) => {
  const { postback } = network;
  const named = Object.entries(fields).map(([field, value]) => [
    postback.fields[field as keyof typeof postback.fields] ?? field, // a field without a name of its own has ours
    value,
  ]);
  const query = new URLSearchParams(named).toString();
  expect((await send(`http://localhost:${server.port}/postback/${postback.key}?${query}`)).status).toBe(200);
};
const waits = (name: string) => page.getByLabel('To settle').getByRole('link', { name });
const conversions = async () =>
  (
    await page
      .getByRole('row', { name: /^Conversions/ })
      .getByRole('cell')
      .first()
      .innerText()
  ).trim();

describe('postbacks that cannot be read', () => {
  it('are settled by teaching their network, and the past is read anew', async () => {
    await heard({ txn: 'A1', amount: '12,34', status: 'open' });
    await heard({ txn: 'A2', amount: '1.234,56', status: 'open' });
    await heard({ txn: 'A3', amount: '9.00', status: 'in clearing' });
    await heard({ txn: 'A4', amount: '9.00', status: 'open', currency: 'XQZ' });
    await page.goto(
      `http://localhost:${server.port}/reconcile/${network.id}/${monthIn(network.zone, Date.now())}`,
    );

    // What nobody knows the worth of stands first.
    await waits('Amount not read').click();
    await page.getByText('"12,34" is no amount').waitFor();
    await page.getByText('txn=A1').first().waitFor();
    expect(await conversions()).toBe('0');
    await page.getByRole('button', { name: '€12.34' }).click();
    await expect.poll(() => waits('Amount not read').count()).toBe(0);
    await expect.poll(conversions).toBe('2');
    await page
      .getByRole('row', { name: /^Commission/ })
      .getByText('€1,246.90')
      .waitFor();

    await waits('State not read').click();
    await page.getByRole('combobox', { name: 'in clearing means' }).click({ force: true });
    await page
      .getByRole('listbox', { name: 'in clearing means' })
      .getByRole('option', { name: 'pending', exact: true })
      .dispatchEvent('click');
    await page.getByRole('button', { name: 'Teach it' }).click();
    await expect.poll(conversions).toBe('3');

    await waits('Currency not read').click();
    await page.getByRole('combobox', { name: 'XQZ means' }).waitFor();
    await page.getByRole('button', { name: 'Teach it' }).click();
    await expect.poll(conversions).toBe('4');
    await page
      .getByRole('row', { name: /^Commission/ })
      .getByText('€1,264.90')
      .waitFor();

    // Taken back, it is a riddle again.
    await page.getByRole('button', { name: 'Undo' }).click();
    await waits('Currency not read').waitFor();
    await expect.poll(conversions).toBe('3');
  });

  it('count without what cannot be read where a person says so', async () => {
    await heard({ txn: 'A5', amount: 'twelve', status: 'open' });
    await waits('Amount not read').click();
    await page.getByText('No way of writing amounts makes a number of it.').waitFor();
    await page.getByRole('button', { name: 'Count it without an amount' }).click();
    await expect.poll(conversions).toBe('4');
  });

  it('are not read of a refund that may be the same: one answer takes it, the other does not', async () => {
    await heard({ txn: 'B1', amount: '35.00', status: 'open', at: '2026-11-02T10:00:00Z' });
    for (const day of ['03', '04'])
      await heard({ txn: 'B1', amount: '-5.00', status: 'open', at: `2026-11-${day}T10:00:00Z` });
    await page.goto(`http://localhost:${server.port}/reconcile/${network.id}/2026-11`);
    await waits('Two ways to read it').click();
    await page.getByText('a second refund, or the same sent again').waitFor();
    await page.getByRole('button', { name: 'It is the same refund' }).click();
    await expect.poll(() => waits('Two ways to read it').count()).toBe(0);
    await page.getByRole('button', { name: 'Undo' }).click();
    await waits('Two ways to read it').click();
    await page.getByRole('button', { name: 'Take it as 25.00 EUR' }).click();
    await expect.poll(() => waits('Two ways to read it').count()).toBe(0);
    await page.goto(`http://localhost:${server.port}/ledger/${network.id}/2026-11`);
    await page.getByRole('row', { name: /B1/ }).getByText('€25.00').waitFor();
  });
});
