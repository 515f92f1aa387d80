import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage } from '#core/catalogue';
import { call } from '../server/client.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, paste, startServer, untilLive, pick } from './desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

describe('an empty server', () => {
  it('is three presses and one name from a live link, at a network nobody registered, that carries the click ID', async () => {
    const server = await startServer();
    const page = await openApp(await freshPerson(browser), server);
    await page.getByText('First, your domain').waitFor();
    await page.locator('h2').click();
    let presses = 0;
    const press = async (key: string) => {
      presses += 1;
      await page.keyboard.press(key);
    };
    await paste(page, 'https://go.farrow.example/x?m=881&who=nl-9&sub1=&end=');
    presses += 1;
    await page.getByText('go.farrow.example, no network of yours').first().waitFor();
    await press('Enter');
    await page.getByText('What you pasted becomes its first short link.').waitFor();
    await page.getByLabel('Domain for short links').pressSequentially('see.nightledge.localhost');
    await press('Enter');
    await untilLive(page);
    expect(presses).toBe(3);
    await page.getByText('Your first short link. What comes next:').waitFor();

    // What is missing is filled in with one press, and said to be that.
    await page.getByText('Networks often take sub-IDs as sub1, and it is empty here.').waitFor();
    await page.getByRole('button', { name: 'Fill sub1' }).click();
    const slug = (await page.getByText('see.nightledge.localhost/').first().innerText()).split('/')[1] ?? '';
    await vi.waitFor(async () => {
      const answer = await send(`http://see.nightledge.localhost:${server.port}/${slug}`);
      expect(answer.headers.location).toMatch(
        /^https:\/\/go\.farrow\.example\/x\?m=881&who=nl-9&sub1=[0-9A-Z]{26}&end=$/,
      );
    });

    // An unfinished brace shows which tokens there are; a pressed one stands where the cursor stood.
    await page.getByRole('button', { name: 'Edit destination' }).click();
    const destination = page.getByRole('textbox', { name: 'Destination' });
    await destination.press('End');
    await destination.pressSequentially('&s={so');
    await page.getByText('Which token?').waitFor();
    await page.getByRole('button', { name: 'Put {source} in' }).click();
    expect(await destination.inputValue()).toMatch(/&end=&s=\{source\}$/);
    await page.getByRole('button', { name: 'Cancel' }).click();

    // What comes next is offered once: from here the network is registered from this very link.
    await page.getByRole('button', { name: 'Register its network' }).first().click();
    expect(await page.getByLabel('Two or three of its tracking links').inputValue()).toContain(
      'go.farrow.example/x?m=881',
    );
    await pick(page.getByLabel('What who is for'), 'Account');
    await page.getByRole('button', { name: 'Register Farrow' }).click();
    await page.getByText('Farrow is registered.').waitFor();
    // Its postback address has no placeholder yet, and says what that means before it is copied.
    await page.getByText('so no sale sent there can ever be matched to its click').waitFor();
    expect(await page.getByRole('button', { name: 'Copy', exact: true }).count()).toBe(0);
    // In one of the usual styles it has the click's placeholder, named after the slot.
    await page.getByText('#name#', { exact: true }).click();
    await page.getByText('sub1=').or(page.getByText('click=#sub1#')).first().waitFor();
    await page.getByRole('button', { name: 'Copy', exact: true }).waitFor();
    // The link that was there before belongs to it from now on.
    await page.goto(`http://localhost:${server.port}/links`);
    await page.getByText(slug, { exact: true }).first().click();
    await page
      .getByText('No postback from Farrow has come yet.')
      .or(page.getByText('postback: not seen'))
      .first()
      .waitFor();
    await vi.waitFor(async () => {
      const { body } = await call(server, 'GET', '/changes?after=0');
      const { changes }: ChangesPage = JSON.parse(body);
      const network = changes.find(({ kind }) => kind === 'network');
      expect(changes.find(({ kind }) => kind === 'link')?.value).toMatchObject({ network: network?.record });
    });
    await server.stop();
  });
});
