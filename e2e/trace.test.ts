import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changeOf, sendChanges } from '../server/client.ts';
import { startBrowser } from './browser.ts';
import { deskWithLink } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

describe('a trace', () => {
  it('goes to the order page, finds a sub-ID that was lost, and can be stopped', async () => {
    const { server, records, context, page } = await deskWithLink(browser);
    await page.getByRole('button', { name: 'More' }).click();
    await page.getByRole('button', { name: 'Trace' }).click();
    await page.getByText('Harrowmead counts this as a click of yours.').waitFor();
    await page.getByRole('button', { name: 'Trace' }).click();
    await page.getByText('by, ref1 arrived at the network.').waitFor();
    await page.getByText('hmclick still there').waitFor();
    expect(await page.locator('ol > li').count()).toBe(4);

    // A forwarder between us and the network loses what it does not know.
    const inner = records.link.destination.replace('ref2={source}', 'ref2=guide');
    const destination = `http://via.larkmoor.localhost:${server.port + 1}/drop?to=${encodeURIComponent(inner).replaceAll('%7B', '{').replaceAll('%7D', '}')}`;
    const through = destination.replace('/drop?to=', '/pass?to=');
    for (const [i, [to, words]] of [
      [through, 'by, ref1, ref2 arrived at the network.'],
      [destination.replace('/drop?to=', '/drop?ref1={click}&to='), undefined],
    ].entries()) {
      await sendChanges(server, [changeOf('link', { ...records.link, destination: to ?? '' }, i + 2)]);
      await page.goto(`http://localhost:${server.port}/trace?link=lnk_saturn`);
      await page.getByRole('button', { name: 'Trace' }).click();
      if (words !== undefined) await page.getByText(words).waitFor();
      else
        await page.getByText(/ref1 was lost at via\.larkmoor\.localhost:\d+, before the network\./).waitFor();
    }

    // What the trace came to stands on the route.
    await page.getByRole('button', { name: /^←/ }).click();
    await page.locator('.pay').getByText('order page').waitFor();
    await context.close();
    await server.stop();
  });

  it('says what is dead, and that a loop is one', async () => {
    const { server, context, page } = await deskWithLink(browser);
    const via = `http://via.larkmoor.localhost:${server.port + 1}`;
    for (const [path, words] of [
      ['/gone', 'says “Sold out”'],
      ['/loop', 'The chain comes back to where it was.'],
      ['/script', 'goes on by script'],
      [`/refresh?to=${encodeURIComponent(`${via}/gone`)}`, 'goes on by refresh'],
    ] as const) {
      await page.goto(`http://localhost:${server.port}/trace?url=${encodeURIComponent(via + path)}`);
      await page.getByRole('button', { name: 'Trace' }).click();
      await page.getByText(words).first().waitFor();
    }
    await context.close();
    await server.stop();
  });
});
