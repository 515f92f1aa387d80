import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { readJournal } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { deskWithLink, untilLive, pick } from './desk.ts';

let browser: Browser;
let server: Running;
let page: Page;

beforeAll(async () => {
  browser = await startBrowser();
  ({ server, page } = await deskWithLink(browser));
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const edit = (section: string) => page.getByRole('button', { name: `Edit ${section}` }).click();
const save = async () => {
  await page.getByRole('button', { name: 'Save' }).click();
  await page.getByRole('button', { name: 'Save' }).waitFor({ state: 'hidden' });
  await untilLive(page);
};
const hop = (query = '', headers: Record<string, string> = {}) =>
  send(`http://see.nightledge.localhost:${server.port}/saturn-kit${query}`, {
    headers: { 'User-Agent': 'Mozilla/5.0 (X11; Linux x86_64) Firefox/140.0', ...headers },
  });

describe('a split', () => {
  it('is made on the stem, ordered by keyboard and by hand, and explained branch by branch', async () => {
    await edit('split');
    for (const [i, kind] of ['Source', 'Device'].entries()) {
      await page.getByRole('button', { name: 'Add a branch' }).click();
      const branch = page.locator('ol.branches > li').nth(i);
      await pick(branch.getByLabel('Add a condition'), kind);
      await branch
        .getByLabel('Destination of the branch')
        .fill(`https://polehouse.example/${kind.toLowerCase()}s?c={click}`);
    }
    await page.locator('ol.branches > li').first().getByLabel('Source', { exact: true }).fill('flyer');
    const order = () =>
      page
        .locator('ol.branches textarea')
        .evaluateAll((list) => list.map((area) => (area as HTMLTextAreaElement).value));
    await page.getByRole('button', { name: 'Branch 1: drag' }).press('ArrowDown');
    expect((await order())[0]).toContain('/devices');
    await page
      .getByRole('button', { name: 'Branch 1: drag' })
      .dragTo(page.locator('ol.branches > li').nth(1));
    await expect.poll(async () => (await order())[0]).toContain('/sources');
    await page.getByText('of 100,000 simulated visitors, made up, since few came yet.').waitFor();
    await save();

    const visitor = page.getByLabel('As a visitor', { exact: true });
    await pick(visitor.getByLabel('Device'), 'desktop');
    await visitor.getByLabel('Source').fill('newsletter');
    await visitor.getByRole('button', { name: 'whole response' }).click();
    await visitor
      .getByText('Not this one: it is for the source flyer, and the source is newsletter.')
      .waitFor();
    await visitor.getByText('Not this one: it is for phone, and this is a desktop.').waitFor();
    await visitor.getByText('No other branch fits.').waitFor();

    // The server answers as the screen explained.
    expect((await hop('~flyer')).headers.location).toContain('polehouse.example/sources');
    expect((await hop('', { 'Sec-CH-UA-Mobile': '?1' })).headers.location).toContain(
      'polehouse.example/devices',
    );
    expect((await hop()).headers.location).toContain('t.harrowmead.localhost');
    await page.getByLabel('Split', { exact: true }).getByText('33 %').first().waitFor();
    await visitor.getByRole('button', { name: 'less' }).click();
  });
});

describe('a section', () => {
  it('stays open for whoever goes on to it while another one is still being kept', async () => {
    await edit('marks');
    await page.evaluate(() => {
      const press = (words: string) => document.querySelector<HTMLElement>(words)?.click();
      press('.route-section form button[type="submit"]');
      press('.route-section button[aria-label="Edit hop"]');
    });
    await page.getByRole('combobox', { name: 'How it sends on' }).waitFor();
    await untilLive(page);
    await page.getByRole('button', { name: 'Edit marks' }).waitFor();
    expect(await page.getByRole('combobox', { name: 'How it sends on' }).count()).toBe(1);
    await page.getByRole('button', { name: 'Cancel' }).click();
  });
});

describe('the way a link hops', () => {
  it('is another in two presses, each with what it means, and undone in one', async () => {
    const before = (await hop('~newsletter')).status;
    expect(before).toBe(307);
    await page.getByRole('button', { name: 'another way' }).click();
    const ways = page.getByRole('list', { name: 'How it sends on' });
    await ways.getByText(/^What see\.nightledge\.localhost.* does\./).waitFor();
    const permanent = ways.getByRole('listitem').filter({ hasText: '301' });
    expect(await permanent.innerText()).toContain('browsers still ask each time');
    await permanent.click();
    await untilLive(page);
    await expect.poll(async () => (await hop('~newsletter')).status, { timeout: 15_000 }).toBe(301);
    // And again: what stands now is what is changed, whatever stood when a form was open last.
    await page.getByRole('button', { name: 'another way' }).click();
    await ways.getByRole('listitem').filter({ hasText: '302' }).click();
    await expect.poll(async () => (await hop('~newsletter')).status, { timeout: 15_000 }).toBe(302);
    for (const status of [301, 307]) {
      await page.keyboard.press('ControlOrMeta+z');
      await expect.poll(async () => (await hop('~newsletter')).status, { timeout: 15_000 }).toBe(status);
    }
    // A page that waits, and a referrer that is hidden, are as near.
    const other = async (title: string) => {
      await page.getByRole('button', { name: 'another way' }).click();
      await ways.getByRole('listitem').filter({ hasText: title }).click();
    };
    await other('A page of yours that waits 5 s');
    await expect
      .poll(async () => (await hop('~newsletter')).body, { timeout: 15_000 })
      .toContain('content="5;url=');
    await other('307 temporary');
    await expect.poll(async () => (await hop('~newsletter')).status, { timeout: 15_000 }).toBe(307);
    const policy = async () => (await hop('~newsletter')).headers['referrer-policy'];
    expect(await policy()).toBe('strict-origin');
    await other('Hide where the visitor came from');
    await expect.poll(policy, { timeout: 15_000 }).toBe('no-referrer');
    await other('Let the network learn the site again');
    await expect.poll(policy, { timeout: 15_000 }).toBe('strict-origin');
    // By keys: the menu opens with Enter, arrows move in it, and Escape gives the focus back.
    await page.getByRole('button', { name: 'another way' }).press('Enter');
    await ways.waitFor();
    await page.keyboard.press('Escape');
    await ways.waitFor({ state: 'hidden' });
    await untilLive(page);
  });
});

describe('a frame', () => {
  it('is refused with the reason where the destination forbids it', async () => {
    await edit('destination');
    const field = page.getByRole('textbox', { name: 'Destination' });
    const before = await field.inputValue();
    await field.fill(`http://via.larkmoor.localhost:${server.port + 1}/framed?ref1={click}`);
    await save();
    await edit('hop');
    await page.getByRole('combobox', { name: 'How it sends on' }).click({ force: true });
    await page.getByRole('option', { name: 'The shop in a frame under your address' }).click();
    await page.getByText('Browsers usually refuse the network’s cookie in a frame').waitFor();
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('forbids being framed. It says “X-Frame-Options: SAMEORIGIN”').waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await edit('destination');
    await field.fill(before);
    await save();
  });

  it('keeps the own address in the address bar where it is allowed, with its own title', async () => {
    await edit('hop');
    await page.getByRole('combobox', { name: 'How it sends on' }).click({ force: true });
    await page.getByRole('option', { name: 'The shop in a frame under your address' }).click();
    await page.getByLabel('Title of the page around the frame').fill('Kits & rings');
    await save();
    const visitor = await (await freshPerson(browser)).newPage();
    await visitor.goto(`http://see.nightledge.localhost:${server.port}/saturn-kit`);
    await visitor.frameLocator('iframe').getByText('Place order').waitFor();
    expect(visitor.url()).toBe(`http://see.nightledge.localhost:${server.port}/saturn-kit`);
    expect(await visitor.title()).toBe('Kits & rings');
    await visitor.context().close();
    await edit('hop');
    await save();
  });
});

describe('opening hours', () => {
  it('in another zone, past midnight, decide on the screen and at the hop alike', async () => {
    await edit('entry');
    await page.getByLabel('Open from').fill('2026-10-24T23:30');
    await page.getByLabel('Open until').fill('2026-10-25T02:30');
    await page.getByLabel('Zone of these times').fill('Europe/Berlin');
    await page.getByRole('combobox', { name: 'After it closed' }).click({ force: true });
    await page.getByRole('option', { name: 'A page with words of yours' }).click();
    await page.getByLabel('After it closed: words').fill('The star night is over.');
    await page.getByLabel('Ask for a mail address').click();
    await page.getByLabel('What they agree to').fill('Write me before the next one.');
    await save();

    const visitor = page.getByLabel('As a visitor', { exact: true });
    /** Says what a visitor gets at a time; each time asked for answers otherwise than the one before. */
    const at = async (time: string, answer: string) => {
      await visitor.getByLabel(/^Day and time/).fill(time);
      await visitor.locator('.hop').filter({ hasText: answer }).waitFor();
    };
    await at('2026-10-24T23:29', 'a page of yours');
    await at('2026-10-24T23:30', 'harrowmead');
    // On 25 October 2026 the clock in Berlin shows 02:30 twice; it closes at the first.
    await at('2026-10-25T02:30', 'a page of yours');
    await at('2026-10-25T02:29', 'harrowmead');

    // It closed long ago by now: the visitor reads the words and leaves an address.
    const person = await (await freshPerson(browser)).newPage();
    await person.goto(`http://see.nightledge.localhost:${server.port}/saturn-kit`);
    await person.getByText('The star night is over.').waitFor();
    await person.getByLabel('Your mail address').fill('anna@mail.example');
    await person.getByLabel('Write me before the next one.').check();
    await person.getByRole('button', { name: 'Tell me' }).click();
    await person.getByText('Thank you. We will write.').waitFor();
    await person.context().close();
    const journal = JSON.stringify(await readJournal(server));
    expect(journal).not.toContain('anna@mail.example');
    await vi.waitFor(async () =>
      expect((await readJournal(server)).findLast((r) => r.kind === 'hop')).toMatchObject({
        status: 200,
        branch: 'after',
      }),
    );

    await page.goto(`http://localhost:${server.port}/setup`);
    await page.getByText('1 left on pages of closed links.').waitFor();
    const [file] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save and erase' }).click(),
    ]);
    expect(file.suggestedFilename()).toMatch(/^mail-addresses-.*\.csv$/);
    await page.getByText('1 addresses are erased').waitFor();
  });
});
