import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changeOf, sendChanges } from '../server/client.ts';
import { send } from '../standins/index.ts';
import { startBrowser } from './browser.ts';
import { clipboard, pick } from './desk.ts';
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

/** What the wire answers at a path. */
const hop = async (path: string) => {
  const { status, headers } = await send(`http://see.nightledge.localhost:${desk.server.port}/${path}`);
  return { status, to: headers.location ?? '' };
};

describe('a link', () => {
  it('that is renamed, and the rename undone, answers at both addresses', async () => {
    const { page } = desk;
    await desk.editEntry('Slug', 'rings');
    await desk.save();
    await expect.poll(async () => (await hop('rings')).status, patient).toBe(307);
    await page.locator('h2').first().click();
    await page.keyboard.press('ControlOrMeta+z');
    await page.getByText('The last edit is undone.').waitFor();
    await page.getByText('see.nightledge.localhost/saturn-kit').first().waitFor();
    await page.getByText('The link is live').waitFor();
    // Placed while it was live, the newer address goes on answering too.
    for (const path of ['saturn-kit', 'rings', 'saturn'])
      expect([path, (await hop(path)).status]).toEqual([path, 307]);
    await page.getByText('/rings', { exact: true }).waitFor();
  });

  it('is made, changed, copied and taken back by keyboard alone, with at most fourteen presses', async () => {
    const { page } = desk;
    let presses = 0;
    const press = async (key: string) => {
      presses += 1;
      await page.keyboard.press(key);
    };
    await page.locator('h2').first().click();
    await page.evaluate(() => navigator.clipboard.writeText('https://a.example/quick-lamp'));
    await press('ControlOrMeta+v');
    await page.getByText('no network of yours').first().waitFor();
    await press('Enter');
    await page.getByRole('heading', { name: 'Quick lamp', level: 2 }).waitFor();
    // The focus is on the link that was made: from here each section is one key away.
    await expect
      .poll(
        () => page.evaluate(() => document.activeElement?.closest('aside')?.getAttribute('aria-label')),
        patient,
      )
      .toBe('Route');
    await press('h');
    await page.getByRole('combobox', { name: 'How it sends on' }).waitFor();
    await expect
      .poll(() => page.evaluate(() => document.activeElement?.closest('form') !== null), patient)
      .toBe(true);
    await press('ArrowDown');
    await page.getByRole('option', { name: /^302/ }).waitFor();
    // The next press belongs to the list once it has the focus.
    await expect
      .poll(() => page.evaluate(() => document.activeElement?.getAttribute('role')), patient)
      .toBe('option');
    await press('ArrowDown');
    await press('Enter');
    await page.getByText('302 temporary').first().waitFor();
    await page.getByRole('option', { name: /^302/ }).waitFor({ state: 'hidden' });
    await press('ControlOrMeta+Enter');
    await page.getByRole('button', { name: 'Edit hop' }).waitFor();
    await expect.poll(async () => (await hop('quick-lamp')).status, patient).toBe(302);
    await press('ControlOrMeta+c');
    await expect.poll(() => clipboard(page), patient).toContain('/quick-lamp');
    await press('ControlOrMeta+z');
    await expect.poll(async () => (await hop('quick-lamp')).status, patient).toBe(307);
    process.stdout.write(`made, changed, copied and taken back with ${presses} presses\n`);
    expect(presses).toBeLessThanOrEqual(14);
    await press('ControlOrMeta+z');
    await expect.poll(async () => (await hop('quick-lamp')).status, patient).toBe(404);
    await desk.goTo('/links/lnk_saturn');
    await page.getByText('The link is live').waitFor();
  });

  it('is one Tab away from its row, and copied anywhere on the way', async () => {
    const { page } = desk;
    const placeOf = () =>
      page.evaluate(() => document.activeElement?.closest('aside')?.getAttribute('aria-label') ?? 'list');
    await page.locator('table.list tbody tr.chosen').focus();
    expect(await placeOf()).toBe('list');
    for (const place of ['list', 'Route']) {
      await page.evaluate(() => navigator.clipboard.writeText(''));
      await page.keyboard.press('ControlOrMeta+c');
      await expect.poll(() => clipboard(page), patient).toContain('/saturn');
      expect(await placeOf()).toBe(place);
      await page.keyboard.press('Tab');
    }
    // A field that is typed in keeps the key for itself.
    await page.keyboard.press('e');
    const slug = page.getByRole('textbox', { name: 'Slug' });
    await slug.selectText();
    await page.keyboard.press('ControlOrMeta+c');
    await expect.poll(() => clipboard(page), patient).toBe('saturn-kit');
    await page.keyboard.press('Escape');
  });

  it('overrides one choice and follows its domain in the rest, with one press back', async () => {
    const { page, server, records } = desk;
    await page.getByRole('button', { name: 'Edit hop' }).click();
    await page.getByRole('combobox', { name: 'How it sends on' }).click({ force: true });
    await page.getByRole('option', { name: /^302/ }).click();
    await desk.save();
    await expect.poll(async () => (await hop('saturn-kit')).status, patient).toBe(302);
    // Somebody changes another default of the domain: the link goes with it.
    const domain = { ...records.domain, hop: { ...records.domain.hop, hideReferrer: true } };
    const before = await desk.stored('dom_see');
    const { refused } = await sendChanges(server, [changeOf('domain', domain, (before?.revision ?? 0) + 1)]);
    expect(refused).toEqual([]);
    const answer = await send(`http://see.nightledge.localhost:${server.port}/saturn-kit`);
    expect([answer.status, answer.headers['referrer-policy']]).toEqual([302, 'no-referrer']);
    await page.getByRole('button', { name: /^redirect type: back to what/ }).click();
    await expect.poll(async () => (await hop('saturn-kit')).status, patient).toBe(307);
    expect(await page.getByRole('button', { name: /: back to what/ }).count()).toBe(0);
  });

  it('says where it is entered that a country is none, and that nobody reaches a branch', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: 'Edit split' }).click();
    const add = async (n: number, kind: string) => {
      await page.getByRole('button', { name: 'Add a branch' }).click();
      await pick(page.locator('ol.branches > li').nth(n).getByLabel('Add a condition'), kind);
    };
    await add(0, 'Country');
    const country = page.locator('ol.branches > li').first().getByLabel('Country', { exact: true });
    const name = async (code: string) => {
      await country.fill(code);
      await country.press('Tab');
    };
    await name('UK');
    await page.getByText('“UK” is no country code; GB is the one for United Kingdom.').waitFor();
    await name('EU');
    await page.getByText('is no country code').waitFor({ state: 'detached' });
    await add(1, 'Country');
    await page.getByText('Nobody comes here: branch 1 takes all of its visitors before.').waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
  });

  it('shows its hours by the clock they were entered in, marks it in the list and is found by it', async () => {
    const { page } = desk;
    const soon = new Date(Date.now() + 3 * 86_400_000).toISOString().slice(0, 10);
    await desk.elsewhere({ hours: { zone: 'America/New_York', until: `${soon}T20:00` } });
    const entry = page.getByRole('region', { name: 'Entry' });
    await entry.getByText(/Closes .*20:00 \(America\/New_York\)/).waitFor();
    await page
      .locator('table.list')
      .getByText(/closes .*20:00 \(America\/New_York\)/)
      .waitFor();
    await pick(page.getByLabel('State', { exact: true }), 'closing within a week');
    await page.getByText('1 of 1').waitFor();
    await pick(page.getByLabel('State', { exact: true }), 'closed');
    await page.getByText('0 of 1').waitFor();
    await pick(page.getByLabel('State', { exact: true }), 'State: any');
    await desk.elsewhere({ hours: {} });
    await entry.getByText(/Closes/).waitFor({ state: 'detached' });
  });

  it('keeps a tag with a comma as one', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: 'Edit entry' }).click();
    await page.getByLabel('Tags').fill('gift, large');
    await page.keyboard.press('Enter');
    // What was typed and not ended is a tag as well.
    await page.getByLabel('Tags').fill('autumn');
    await desk.save();
    const entry = page.getByRole('region', { name: 'Entry' });
    await entry.getByText('gift, large', { exact: true }).waitFor();
    await entry.getByText('autumn', { exact: true }).waitFor();
  });

  it('says what it answers since it was archived, and the wire does that', async () => {
    const { page, server, records } = desk;
    const other = { ...records.link, id: 'lnk_lamp', slug: 'lamp', aliases: [], title: 'Lamp' };
    const { refused } = await sendChanges(server, [
      changeOf('link', { ...other, destination: 'https://lamp.example/?c={click}' }),
    ]);
    expect(refused).toEqual([]);
    await page.getByText('lamp', { exact: true }).first().waitFor();
    await desk.elsewhere({ archived: { at: Date.now(), to: 'lnk_lamp' } });
    await page.getByText('Its address answers as').waitFor();
    await page.getByText('Destination, not used while archived').waitFor();
    const visitor = page.getByLabel('As a visitor', { exact: true });
    await visitor.getByText('It answers as lamp.').waitFor();
    await visitor.getByText('307 → lamp.example').waitFor();
    expect(await hop('saturn-kit')).toMatchObject({
      status: 307,
      to: expect.stringContaining('//lamp.example/?c='),
    });
    // The other one goes too: then visitors are told that it is gone.
    await sendChanges(server, [
      changeOf('link', { ...other, destination: 'https://lamp.example/', archived: { at: Date.now() } }, 2),
    ]);
    await page.getByText('It was to answer as another link, which does not answer any more').waitFor();
    await visitor.getByText('410').first().waitFor();
    expect((await hop('saturn-kit')).status).toBe(410);
    await page.getByRole('button', { name: 'Bring back' }).first().click();
    await expect.poll(async () => (await hop('saturn-kit')).status, patient).toBe(307);
  });

  it('of a merchant who allows only short links of its own is not copied as a tracking link', async () => {
    const { page, server, records } = desk;
    const before = await desk.stored('prg_polehouse');
    const rules = { cloak: true, name: '', ownLinks: true, mail: true, social: true };
    const program = { ...records.program, rules };
    const { refused } = await sendChanges(server, [
      changeOf('program', program, (before?.revision ?? 0) + 1),
    ]);
    expect(refused).toEqual([]);
    await page.getByText('allows only short links of its own').first().waitFor();
    await page.evaluate(() => navigator.clipboard.writeText('what was there'));
    await page.getByRole('button', { name: 'Copy', exact: true }).click();
    await page.getByText('Nothing is copied.').waitFor();
    await page.getByRole('button', { name: 'Copy as HTML' }).click();
    expect(await clipboard(page)).toBe('what was there');
    // Its own short link is recognised by its host, so what the merchant asks for holds there too.
    await desk.goTo('/programs/net_harrowmead');
    await page.getByRole('button', { name: 'Edit Polehouse Optics' }).click();
    await page.getByLabel(/Hosts of its own short links/).fill('https://pole.example/');
    await page.getByLabel('May stand in mail').uncheck();
    await desk.save();
    await page.getByRole('button', { name: 'Edit Polehouse Optics' }).waitFor();
    await desk.goTo('/links/lnk_saturn');
    await page.getByRole('button', { name: 'Edit destination' }).click();
    await page.getByRole('textbox', { name: 'Destination' }).fill('https://pole.example/x7');
    await desk.save();
    await expect.poll(async () => (await hop('saturn-kit')).to, patient).toBe('https://pole.example/x7');
    await page.getByText('Polehouse Optics does not allow its links in mail.').first().waitFor();
    await page.getByRole('button', { name: 'Copy', exact: true }).click();
    await expect.poll(() => clipboard(page), patient).toBe('https://pole.example/x7');
  });
});
