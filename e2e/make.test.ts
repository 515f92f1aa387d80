import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changeOf, fillFirst, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, paste, startServer, untilLive, pick } from './desk.ts';

let browser: Browser;
let server: Running;
let records: Awaited<ReturnType<typeof fillFirst>>;
let page: Page;

beforeAll(async () => {
  browser = await startBrowser();
  server = await startServer();
  records = await fillFirst(server);
  await sendChanges(server, [
    changeOf('account', { id: 'acc_ines', network: 'net_harrowmead', tag: 'nl-4471', owner: 'Ines' }),
    changeOf('program', {
      ...records.program,
      id: 'prg_umbra',
      name: 'Umbra & Finch',
      code: '77',
      hosts: ['umbrafinch.localhost'],
      state: 'pending',
    }),
  ]);
  page = await openApp(await freshPerson(browser), server, '/links');
  await page.getByText('saturn-kit', { exact: true }).waitFor();
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const shopPage = (path: string) => `http://polehouse.localhost:${server.port + 1}${path}`;
const destination = async () => {
  const { links } = await page.evaluate(async () => {
    const open = indexedDB.open('fernhop');
    const db = await new Promise<IDBDatabase>((resolve) => (open.onsuccess = () => resolve(open.result)));
    const all = db.transaction('records').objectStore('records').getAll();
    const rows = await new Promise<{ kind: string; value: { slug: string; destination: string } | null }[]>(
      (resolve) => (all.onsuccess = () => resolve(all.result)),
    );
    return { links: rows.flatMap((row) => (row.kind === 'link' && row.value ? [row.value] : [])) };
  });
  return (slug: string) => links.find((link) => link.slug === slug)?.destination;
};

describe('twenty links pasted at once', () => {
  it('are read side by side, teach an unknown network, and become links that keep every byte', async () => {
    const unknown = Array.from(
      { length: 12 },
      (_, i) =>
        `https://go.farrow.example/x?m=${i % 2 === 0 ? '881' : '902'}&who=nl-9&c=${i}&sub1=&u=https%3A%2F%2Fshop-${i % 2}.example%2Fitem-${i}&end=`,
    );
    const known = Array.from(
      { length: 8 },
      (_, i) =>
        `https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1=&ref2=&page=https%3A%2F%2Fpolehouse.example%2Flamp-${i}`,
    );
    await page.locator('h1').click();
    await paste(page, [...unknown, ...known].join('\n'));
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Make 20 links' }).waitFor();
    const group = page.locator('section', { hasText: 'go.farrow.example' });
    const role = (name: string) => group.getByLabel(`What ${name} is for`);
    expect(await role('m').inputValue()).toBe('Program');
    expect(await role('who').inputValue()).toBe('Account');
    // It varies from link to link: it may be a creative or a label, and is asked about.
    expect(await role('c').inputValue()).toBe('');
    await pick(role('c'), 'Creative');
    expect(await role('u').inputValue()).toBe('Page');
    await group.getByText('It is nl-9 in all 12 links.').waitFor();

    await group.getByRole('button', { name: 'Register this network' }).click();
    // What was said of a part beside the paste stands here too.
    expect(await page.getByLabel('What c is for').inputValue()).toBe('Creative');
    expect(await page.getByLabel('Program 881').inputValue()).toBe('Shop 0');
    await page.getByRole('button', { name: 'Register Farrow' }).click();
    await page.getByRole('link', { name: 'Back to the 20 pasted lines' }).click();
    const learnt = page
      .locator('section', { hasText: 'link format version 1' })
      .filter({ hasText: 'Farrow' });
    await learnt.waitFor();
    // A correction is one choice, and makes a second version that the others are read by.
    await pick(learnt.getByLabel('What end is for'), 'Creative');
    await page.getByText('Farrow’s link format is now version 2').waitFor();

    await page.getByRole('button', { name: 'Make 20 links' }).click();
    await page.getByText('20 links are made.').waitFor();
    const of = await destination();
    // Apart from the slot for the click ID what is sent is what was pasted, the empty last parameter included.
    expect(of('item-3')).toBe(unknown[3]?.replace('sub1=', 'sub1={click}'));
    expect(of('lamp-7')).toBe(known[7]?.replace('ref1=&ref2=', 'ref1={click}&ref2={source}'));
    await page.keyboard.press('ControlOrMeta+z');
    await page.getByText('The last edit is undone.').waitFor();
    await expect.poll(async () => (await destination())('item-3')).toBeUndefined();
  });
});

describe('a page of a shop', () => {
  it('of a joined program becomes a deep link without the shop’s own parameters', async () => {
    await page.locator('h1').first().click();
    await paste(page, shopPage('/eyepieces/wide-24?utm_source=shop&colour=black&utm_medium=x'));
    await page.getByText('Polehouse Optics at Harrowmead').first().waitFor();
    expect(await page.locator('#paste-choices s').allInnerTexts()).toEqual([
      'utm_source=shop',
      'utm_medium=x',
    ]);
    await page.locator('#paste-choices s').last().click();
    expect(await page.locator('#paste-choices s').allInnerTexts()).toEqual(['utm_source=shop']);
    await page.keyboard.press('Enter');
    await untilLive(page);
    const made = (await destination())('wide-24');
    expect(new URL(made ?? '').searchParams.get('page')).toBe(
      shopPage('/eyepieces/wide-24?colour=black&utm_medium=x'),
    );
    expect(made).toContain('by=nl-4471');
    expect(made).toContain('ref1={click}');
  });

  it('of a program not joined is refused, and says where to go on', async () => {
    await page.getByLabel('Paste bar').fill(`http://umbrafinch.localhost:${server.port + 1}/dob-8`);
    await page.getByText('Umbra & Finch: applied for, not answered yet').first().waitFor();
    await page.keyboard.press('Enter');
    await page.waitForURL(/\/programs\/net_harrowmead#prg_umbra/);
    await page.getByText('Umbra & Finch').first().waitFor();
    expect((await destination())('dob-8')).toBeUndefined();
  });

  it('opens in the paste bar by the bookmarklet, with nothing loaded into the shop and nothing sent by itself', async () => {
    await page.goto(`http://localhost:${server.port}/programs`);
    const script = (await page.getByRole('link', { name: 'Short link' }).getAttribute('href')) ?? '';
    expect(script).toMatch(/^javascript:/);
    const shop = await page.context().newPage();
    const address = shopPage('/filters/moon?utm_source=shop&q=fish%26chips&x=50%25&y=a%20b');
    await shop.goto(address);
    const asked: string[] = [];
    shop.on('request', (request) => asked.push(request.url()));
    const [opened] = await Promise.all([
      page.context().waitForEvent('page'),
      shop.evaluate((code) => {
        // What a browser does with a bookmarklet: it runs the script in the page.
        const anchor = document.createElement('a');
        anchor.href = code;
        document.body.append(anchor);
        anchor.click();
      }, script),
    ]);
    await opened.getByText('Polehouse Optics at Harrowmead').first().waitFor();
    expect(await opened.getByLabel('Paste bar').inputValue()).toBe(address);
    expect(new URL(opened.url()).hash).toBe('');
    expect(asked).toEqual([]);
    expect((await destination())('moon')).toBeUndefined();
    await opened.close();
    await shop.close();
  });
});

describe('an account tag nobody registered', () => {
  it('keeps a link here until one press registers or replaces it', async () => {
    await page.goto(`http://localhost:${server.port}/links`);
    await page.getByText('saturn-kit', { exact: true }).waitFor();
    await page.locator('h1').click();
    await paste(
      page,
      'https://t.harrowmead.example/r?by=nl-4417&deal=2093&ref1=&ref2=&page=https%3A%2F%2Fpolehouse.example%2Ftypo',
    );
    await page.keyboard.press('Enter');
    await page.getByText('The account tag nl-4417 is not in the register of Harrowmead').waitFor();
    await page.waitForTimeout(1000);
    expect(await page.getByText('Saved here, not live.').isVisible()).toBe(true);
    await page.getByRole('button', { name: 'Use nl-4471 (Ines)' }).click();
    await untilLive(page);
    expect((await destination())('typo')).toContain('by=nl-4471');
  });
});

describe('a shop’s page that may be read', () => {
  it('gives the link its title', async () => {
    await sendChanges(server, [changeOf('settings', { id: 'settings', currency: 'EUR', readPages: true })]);
    await page.goto(`http://localhost:${server.port}/setup`);
    await expect
      .poll(() => page.getByLabel(/the server may read its title/).isChecked(), { timeout: 20_000 })
      .toBe(true);
    await page.getByLabel('Paste bar').fill(shopPage('/heaters/dew-band'));
    await page.getByText('Polehouse Optics at Harrowmead').first().waitFor();
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { name: 'Dew heater band' }).waitFor();
    await untilLive(page);
    expect((await destination())('dew-heater-band')).toContain('polehouse.localhost');
  });
});
