import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import { monthIn } from '#core/hop';
import { compareSamples, placeTitle } from '#core/link-parts';
import { changeOf, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import type { Standins } from '../standins/index.ts';
import { send, startStandins } from '../standins/index.ts';
import type { Description } from '../standins/testing/describedKind.ts';
import { describedKind } from '../standins/testing/describedKind.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { clipboard, openApp, paste, startServer, pick } from './desk.ts';

const folder = join(import.meta.dirname, '../standins/testing/networks');
const descriptions: Description[] = readdirSync(folder).map((name) =>
  JSON.parse(readFileSync(join(folder, name), 'utf8')),
);

/** How long is waited for what takes as long as a busy machine needs. */
const patient = { timeout: 15_000 };

let browser: Browser;
let server: Running;
let standins: Standins;
let standinsPort: number;
beforeAll(async () => {
  browser = await startBrowser();
  server = await startServer({ env: { STANDINS: '0' } });
  standinsPort = await freePort();
  standins = await startStandins(
    standinsPort,
    freshFolder(),
    '127.0.0.1',
    Date.now,
    descriptions.map(describedKind),
  );
  const domain = newDomain('dom_see', 'see.nightledge.localhost', 'Europe/Berlin');
  await sendChanges(server, [changeOf('domain', domain, 1)]);
});
afterAll(async () => {
  await standins.close();
  await server.stop();
  await browser.close();
});

/** What a person at the network sees there: their links, and what its help page says of placeholders. */
const atTheNetwork = async (person: BrowserContext, { host }: Description) => {
  const page = await person.newPage();
  await page.goto(`http://${host}:${standinsPort}/`);
  const links = await page.locator('code').allInnerTexts();
  await page.goto(`http://${host}:${standinsPort}/console`);
  const help = await page.locator('#help').innerText();
  return { page, links, help };
};

/** Registers a network from three pasted links until it waits for its first postback; counts presses and filled fields. */
const register = async (app: Page, description: Description, links: readonly string[], help: string) => {
  const { name, account, offers, slots, currency, zone } = description;
  const count = { presses: 0, fields: 0 };
  const press = async (what: () => Promise<void>) => {
    count.presses += 1;
    await what();
  };
  await app.locator('h1, h2').first().click();
  await press(() => paste(app, links.join('\n')));
  await app.getByText('3 lines').first().waitFor();
  await press(() => app.keyboard.press('Enter'));
  await press(() => app.getByRole('button', { name: 'Register this network' }).click());
  await app.getByRole('heading', { name: 'Register a network' }).waitFor();
  // What is open is asked; a person who knows their account and slots says it, each with one choice.
  for (const { name: part, open, values } of compareSamples(links)) {
    if (!open) continue;
    const role = values.every((value) => value === account)
      ? 'account'
      : values.every((value) => offers.some(({ code }) => code === value))
        ? 'program'
        : slots.some((slot) => slot.name === part)
          ? 'slot'
          : 'other';
    if (role === 'other') continue;
    await press(async () => {
      await pick(
        app.getByLabel(`What ${placeTitle(part)} is for`),
        role === 'slot' ? 'Sub-ID slot' : new RegExp(`^${role}$`, 'i'),
      );
    });
  }
  const choose = async (label: string, typed: string, option: string | RegExp) => {
    count.fields += 1;
    await app.getByRole('combobox', { name: label }).fill(typed);
    await app.getByRole('option', { name: option }).first().click();
  };
  if (currency !== 'EUR') await choose('Pays in', currency, new RegExp(`^${currency}`));
  if (zone !== 'Europe/Berlin') await choose('Counts its days in', zone, zone);
  const [slot] = slots;
  count.fields += 1;
  await app.getByLabel(`${slot?.name ?? ''} keeps at most`).fill(String(slot?.keeps ?? 100));
  expect(await app.getByLabel('Name', { exact: true }).inputValue()).toBe(name);
  await press(() => app.getByRole('button', { name: `Register ${name}` }).click());
  await app.getByRole('heading', { name: `${name}: its postback` }).waitFor();

  // Without the click's placeholder there is nothing to copy unless one says so.
  expect(await app.getByRole('button', { name: 'Copy', exact: true }).count()).toBe(0);
  count.fields += 1;
  await app.getByLabel('Paste what its page says of placeholders').click();
  await paste(app, help);
  await app.getByText(/^Read: /).waitFor();
  await press(() => app.getByRole('button', { name: 'Copy', exact: true }).click());
  await expect.poll(() => clipboard(app), patient).toContain('/postback/');
  const address = await clipboard(app);
  await press(() => app.getByRole('button', { name: 'Send a sample' }).click());
  await app.getByText('Answered 200').waitFor();
  const sample = app.locator('section', { hasText: 'A sample over that address' });
  await sample.getByText('sample', { exact: true }).waitFor();
  expect(await sample.locator('li.bad, li.absent').allInnerTexts()).toEqual([]);
  await app.getByText(`Waiting for the first postback of ${name}.`).waitFor();
  return { count, address };
};

/** Makes the pasted lines short, and gives the address of the one to a page. */
const makeLinks = async (app: Page, page: string): Promise<string> => {
  await app.getByRole('link', { name: 'Back to the 3 pasted lines' }).click();
  await app.getByRole('button', { name: 'Make 3 links' }).click();
  await app.getByText('3 links are made.').waitFor();
  const slug = page.split('/').at(-1) ?? '';
  await expect
    .poll(
      async () => (await send(`http://see.nightledge.localhost:${server.port}/${slug}?test`)).status,
      patient,
    )
    .toBe(307);
  return `http://see.nightledge.localhost:${server.port}/${slug}`;
};

/** A reader follows the link and orders. */
const buy = async (short: string): Promise<void> => {
  const reader = await freshPerson(browser);
  const page = await reader.newPage();
  await page.goto(short);
  await page.getByRole('button', { name: 'Place order' }).click();
  await page.getByText('Thank you.').waitFor();
  await reader.close();
};

/** The first postback is shown value by value; a word for a state that nobody taught is taught with one press. */
const teachState = async (app: Page, description: Description, state: 'pending' | 'approved') => {
  const first = app.locator('section', { hasText: 'What it sends itself' });
  const word = description.states[state];
  await first.getByText(word, { exact: false }).first().waitFor();
  const teaches = first.getByRole('button', { name: state, exact: true });
  await expect
    .poll(
      async () =>
        (await teaches.count()) > 0 || (await first.locator('li.good', { hasText: 'state' }).count()) > 0,
      patient,
    )
    .toBe(true);
  if ((await teaches.count()) > 0) await teaches.click();
  // A word that is ours already needs no meaning.
  await first
    .getByText(word === state ? state : `${word} means ${state}.`, { exact: true })
    .first()
    .waitFor();
  await first.getByText('The click on').waitFor();
  expect(await first.locator('li.bad, li.absent').allInnerTexts()).toEqual([]);
};

/** The network's report through the screens, what is asked or read otherwise set right, until both sides agree. */
const importReport = async (app: Page, { host, account, report }: Description, id: string) => {
  const file = await send(`http://${host}:${standinsPort}/report?account=${account}`);
  await app.goto(`http://localhost:${server.port}/report/${id}`);
  await app.getByText('Drop a report here').waitFor();
  await app.locator('input[type=file]').setInputFiles({
    name: report.file,
    mimeType: 'text/plain',
    buffer: Buffer.from(file.body),
  });
  /** What the screen calls a role, where it has another word. */
  const reportTitles: Readonly<Record<string, string>> = {
    txn: 'transaction',
    click: 'click ID',
    status: 'state',
    amount: 'commission',
    at: 'date',
    nothing: 'left out',
  };
  const roles: Readonly<Record<string, string>> = {
    order: 'txn',
    moment: 'at',
    commission: 'amount',
    state: 'status',
    merchant: 'program',
    event: 'event',
  };
  for (const { heading, value } of report.columns) {
    const field = app.getByLabel(`What ${heading} holds`);
    await field.waitFor();
    const role = value.startsWith('slot ') ? 'click' : (roles[value] ?? 'nothing');
    const title = reportTitles[role] ?? role;
    if ((await field.inputValue()) !== title) await pick(field, title);
  }
  // In the first twelve days of a month nobody can tell day from month, so it asks.
  const dates = app.getByLabel('Dates', { exact: true });
  if ((await dates.inputValue()) === '')
    await pick(dates, report.dates.startsWith('MM') ? 'month, day, year' : 'day, month, year');
  await app.getByRole('button', { name: 'Bring in 1 row' }).click();
  await app.getByText('They are brought in').waitFor();
};

describe('a network nobody registered', () => {
  it('has its programs named as their shops’ own pages say, where these may be read', async () => {
    const withShops = await startServer();
    const person = await freshPerson(browser);
    const app = await openApp(person, withShops, '/programs/new');
    const link = (code: string, shop: string) =>
      `https://go.farrow.example/x?aff=nl-9&oid=${code}&sub1=&u=${encodeURIComponent(`http://${shop}.localhost:${withShops.port + 1}/kits/saturn`)}`;
    await app
      .getByLabel('Two or three of its tracking links')
      .fill([link('9', 'polehouse'), link('12', 'umbrafinch'), link('15', 'nowhere')].join('\n'));
    expect(await app.getByLabel('Program 9').inputValue()).toBe('Polehouse');
    await app.getByRole('button', { name: 'Read the names on the shops’ pages' }).click();
    await expect.poll(() => app.getByLabel('Program 9').inputValue(), patient).toBe('Polehouse Optics');
    await expect.poll(() => app.getByLabel('Program 12').inputValue(), patient).toBe('Umbra & Finch');
    // A shop whose page does not answer keeps the name of its host.
    expect(await app.getByLabel('Program 15').inputValue()).toBe('Nowhere');
    await person.close();
    await withShops.stop();
  });

  it.each(descriptions.map((description) => [description.name, description] as const))(
    '%s: from three copied links to a matched, approved and reconciled sale, by these screens alone',
    async (_name, description) => {
      const person = await freshPerson(browser);
      const app = await openApp(person, server);
      const network = await atTheNetwork(person, description);
      await app.bringToFront();
      const { count, address } = await register(app, description, network.links, network.help);
      process.stdout.write(
        `${description.name}: ${count.presses} presses and ${count.fields} fields until it waits for its first postback\n`,
      );
      expect(count.presses).toBeLessThanOrEqual(12);
      expect(count.fields).toBeLessThanOrEqual(4);
      const first = app.url();
      const id = /programs\/(net_[^/]+)/.exec(first)?.[1] ?? '';

      await network.page.getByLabel('All offers of the account').fill(address);
      await network.page.getByRole('button', { name: 'Set' }).first().click();
      await app.bringToFront();
      const [shop] = description.shops;
      const short = await makeLinks(app, shop?.products[0]?.path ?? '');
      await app.goto(first);
      await app.getByText('Waiting for the first postback').waitFor();
      await buy(short);
      await teachState(app, description, 'pending');
      await network.page.reload();
      await network.page.getByRole('button', { name: 'Approve' }).first().click();
      await teachState(app, description, 'approved');

      await importReport(app, description, id);
      const month = monthIn(description.zone, Date.now());
      await app.goto(`http://localhost:${server.port}/reconcile/${id}/${month}`);
      const row = app.getByRole('row', { name: /^Conversions/ }).getByRole('cell');
      await expect
        .poll(async () => [await row.nth(0).innerText(), await row.nth(1).innerText()], { timeout: 15_000 })
        .toEqual(['1', '1']);
      await app.goto(`http://localhost:${server.port}/ledger/${id}/${month}`);
      await app.getByRole('row', { name: /approved/ }).waitFor();
      await person.close();
    },
    90_000,
  );
});
