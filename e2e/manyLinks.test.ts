import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Link } from '#core/catalogue';
import { changeOf, sendChanges } from '../server/client.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer, pick } from './desk.ts';
import { deskAndOthers } from './deskAndOthers.ts';

const patient = { timeout: 15_000 };
let browser: Browser;
let desk: Awaited<ReturnType<typeof deskAndOthers>>;
const slugs = ['lamp', 'map', 'chair'];

beforeAll(async () => {
  browser = await startBrowser();
  desk = await deskAndOthers(browser);
  const { server, records } = desk;
  const second = { ...records.domain, id: 'dom_go', host: 'go.nightledge.localhost' };
  const links = slugs.map((slug) => ({
    ...records.link,
    id: `lnk_${slug}`,
    domain: slug === 'chair' ? second.id : records.domain.id,
    slug,
    aliases: [],
    title: slug,
    destination: `https://shop.example/${slug}`,
  }));
  const { refused } = await sendChanges(server, [
    changeOf('domain', second),
    ...links.map((link) => changeOf('link', link)),
  ]);
  expect(refused).toEqual([]);
  await desk.page.locator('table.list tbody tr', { hasText: 'chair' }).waitFor();
});
afterAll(async () => {
  await desk.server.stop();
  await browser.close();
});

const hop = async (slug: string, more: Record<string, string> = {}) => {
  const host = slug === 'chair' ? 'go' : 'see';
  const { status, headers } = await send(`http://${host}.nightledge.localhost:${desk.server.port}/${slug}`, {
    headers: more,
  });
  return `${status} ${headers.location ?? ''}`.trim();
};
const stored = async (slug: string): Promise<Partial<Link>> =>
  ((await desk.stored(`lnk_${slug}`))?.value ?? {}) as Partial<Link>; // a link's record holds one
const german = { 'accept-language': 'de-DE' };
const reload = async () => {
  await desk.page.reload();
  await desk.page.getByText('All 4 links live').waitFor();
  await desk.page.locator('h2').first().click();
};
const choose = async (label: string, option: string | RegExp) => {
  const { page } = desk;
  await page.getByRole('combobox', { name: label, exact: true }).click({ force: true });
  // The list of options is still moving into its place: the press is given to the option itself.
  await page.getByRole('option', { name: option }).dispatchEvent('click');
};

describe('many links', () => {
  it('of one domain get a branch, hours and marks, seen before, undone and done again as one, also after a reload', async () => {
    const { page } = desk;
    await pick(page.getByLabel('Domain', { exact: true }), 'see.nightledge.localhost');
    await page.getByRole('button', { name: 'Change many' }).click();
    const pane = page.getByRole('complementary', { name: 'Change many' });
    await pane.getByText('Nothing picked yet').waitFor();
    expect(await pane.getByRole('button', { name: 'Change 0 links' }).isDisabled()).toBe(true);
    await page.locator('table.list tbody tr', { hasText: 'lamp' }).click();
    await pane.getByText('1 picked').waitFor();
    await pane.getByRole('button', { name: 'Pick none' }).click();
    await pane.getByRole('button', { name: 'Pick all 3 shown' }).click();
    await pane.getByText('3 picked').waitFor();
    await choose('What to do', 'Send some visitors elsewhere');
    await pick(pane.getByLabel('Add a condition'), 'Language');
    await pane.getByRole('button', { name: 'Take country away' }).click();
    await pane.getByRole('textbox', { name: 'Go to' }).fill('https://shop.example/de');
    await pane.getByText('branch reads de added, to https://shop.example/de').first().waitFor();
    await page.getByRole('button', { name: 'Change 3 links' }).click();
    await expect.poll(() => hop('lamp', german), patient).toBe('307 https://shop.example/de');
    expect([await hop('lamp'), await hop('chair', german)]).toEqual([
      '307 https://shop.example/lamp',
      '307 https://shop.example/chair',
    ]);
    await reload();
    await page.keyboard.press('ControlOrMeta+z');
    await expect.poll(() => hop('lamp', german), patient).toBe('307 https://shop.example/lamp');
    expect(await hop('map', german)).toBe('307 https://shop.example/map');
    await reload();
    await page.keyboard.press('ControlOrMeta+Shift+z');
    await page.getByText('It is done again.').waitFor();
    await expect.poll(() => hop('map', german), patient).toBe('307 https://shop.example/de');
    expect(await hop('lamp', german)).toBe('307 https://shop.example/de');
  });

  it('get hours and marks together, each with what it was and becomes', async () => {
    const { page } = desk;
    await pick(page.getByLabel('Domain', { exact: true }), 'go.nightledge.localhost');
    await page.getByRole('button', { name: 'Change many' }).click();
    await page.getByRole('button', { name: 'Pick all 1 shown' }).click();
    await choose('What to do', 'Set opening hours');
    await page.getByLabel('Open until').fill('2026-01-05T20:00');
    await page.getByLabel('Zone of these times').fill('America/New_York');
    await page.getByText(/closes set to .*20:00 \(America\/New_York\)/).waitFor();
    await page.getByRole('button', { name: 'Change 1 link', exact: true }).click();
    await expect.poll(() => hop('chair'), patient).toBe('200');
    await page.getByRole('button', { name: 'Change many' }).click();
    await page.getByRole('button', { name: 'Pick all 1 shown' }).click();
    await choose('What to do', 'Set marks');
    await choose('New tab', 'Set to');
    await page.getByLabel('Opens a new tab').uncheck();
    await page.getByText('new tab from yes (as its domain) to no').waitFor();
    await page.getByRole('button', { name: 'Change 1 link', exact: true }).click();
    await expect.poll(async () => (await stored('chair')).marks, patient).toEqual({ newTab: false });
    await page.getByRole('button', { name: 'Change many' }).click();
    await page.getByRole('button', { name: 'Pick all 1 shown' }).click();
    await choose('What to do', 'Let them follow their domain');
    await page.getByText('new tab from no to yes (as its domain)').waitFor();
    await page.getByRole('button', { name: 'Cancel' }).click();
    await pick(page.getByLabel('Domain', { exact: true }), 'Domain: any');
  });

  it('that were imported are undone, and nothing that was done since', async () => {
    const { page } = desk;
    await desk.goTo('/links/lnk_lamp');
    await page.getByText('All 4 links live').waitFor();
    await page.getByRole('button', { name: 'Import, export' }).click();
    await page.getByLabel(/Drop files/).setInputFiles({
      name: 'links.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(
        'Kurzname,Ziel\nmoon,https://shop.example/moon\nsun,https://shop.example/sun\nmap,https://other.example/map\n',
      ),
    });
    await pick(page.getByLabel('What Kurzname holds'), 'slug');
    await choose('A slug that is taken', 'change the link that has it');
    await page.getByText('2 new on see.nightledge.localhost, 1 changed').waitFor();
    await page.getByRole('button', { name: 'Bring in 3 links' }).click();
    await expect.poll(() => hop('moon'), patient).toBe('307 https://shop.example/moon');
    expect(await hop('map')).toBe('307 https://other.example/map');
    // What is done while the notice still stands is nothing of the import's.
    await page.locator('table.list tbody tr', { hasText: 'lamp' }).click();
    await desk.editEntry('Title', 'Red lamp');
    await desk.save();
    await desk.heading('Red lamp');
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await page.getByText('It is undone.').waitFor();
    await expect.poll(() => hop('moon'), patient).toMatch(/^404/);
    await expect.poll(() => hop('map'), patient).toBe('307 https://shop.example/map');
    await desk.heading('Red lamp');
    await expect.poll(async () => (await stored('lamp')).title, patient).toBe('Red lamp');
    // How its columns were read is still known.
    await page.getByRole('button', { name: 'Import, export' }).click();
    await page.getByLabel(/Drop files/).setInputFiles({
      name: 'more.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from('Kurzname,Ziel\nmars,https://shop.example/mars\n'),
    });
    expect(await page.getByLabel('What Kurzname holds').inputValue()).toBe('slug');
    await page.getByRole('button', { name: 'Bring in 1 link', exact: true }).waitFor();
  });

  it('answer as one of the others once they are archived, chosen by its first letters', async () => {
    const { page } = desk;
    await desk.goTo('/links/lnk_map');
    await page.getByRole('button', { name: 'More' }).click();
    await page.getByRole('button', { name: 'Archive', exact: true }).click();
    const answer = page.getByRole('combobox', { name: 'Its addresses then answer' });
    await answer.fill('as la');
    await page.getByRole('option', { name: /as lamp/ }).dispatchEvent('click');
    await page.locator('form').getByRole('button', { name: 'Archive' }).click();
    await page.getByText('map is archived and answers as lamp.').waitFor();
    await expect.poll(() => hop('map'), patient).toBe('307 https://shop.example/lamp');
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect.poll(() => hop('map'), patient).toBe('307 https://shop.example/map');
    await page.getByRole('button', { name: 'Do it again' }).click();
    await expect.poll(() => hop('map'), patient).toBe('307 https://shop.example/lamp');
    await page.keyboard.press('ControlOrMeta+z');
    await expect.poll(() => hop('map'), patient).toBe('307 https://shop.example/map');
    await page.getByRole('button', { name: 'Import, export' }).click();
  });

  it('with the same wrong word in 333 rows are mended once for all', async () => {
    const { page } = desk;
    const rows = Array.from(
      { length: 333 },
      (_, i) => `star-${i},https://shop.example/${i}?s={subid},vorübergehend`,
    );
    await page.getByLabel(/Drop files/).setInputFiles({
      name: 'stars.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(
        `slug,destination,redirect type\n${rows.join('\n')}\nodd one,https://shop.example/,302\n`,
      ),
    });
    await page.getByText('334 rows are not good').waitFor();
    const word = page.getByRole('textbox', { name: 'redirect type, in 333 rows' });
    expect(await word.inputValue()).toBe('vorübergehend');
    await word.fill('302');
    await page.getByRole('button', { name: 'Mend all 333' }).first().click();
    // What was hidden behind the first fault is shown, and mended in the same way.
    const token = page.getByRole('textbox', { name: 'destination, in 333 rows' });
    await token.fill('{source}');
    await page.getByRole('button', { name: 'Mend all 333' }).click();
    await page.getByText('333 rows are good').waitFor();
    await page.getByText('1 row is not good').waitFor();
    await page.getByRole('button', { name: 'Bring in 333 links' }).click();
    await expect.poll(() => hop('star-332~flyer'), patient).toBe('302 https://shop.example/332?s=flyer');
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await expect.poll(() => hop('star-332'), patient).toMatch(/^404/);
  });

  it('go out as a file with the settings, which come in only when asked for', async () => {
    const { page, server } = desk;
    const settings = { id: 'settings', currency: 'USD', filters: [{ name: 'Lamps', query: 'words=lamp' }] };
    const { refused } = await sendChanges(server, [
      changeOf('settings', settings, ((await desk.stored('settings'))?.revision ?? 0) + 1),
    ]);
    expect(refused).toEqual([]);
    await page.getByText('USD', { exact: true }).waitFor();
    await desk.goTo('/import');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Everything as JSON, without secrets' }).click(),
    ]);
    const file = await download.path();
    const other = await startServer();
    const context = await freshPerson(browser);
    const there = await openApp(context, other, '/import');
    await there.getByLabel(/Drop files/).setInputFiles(file);
    await there.getByText('records that are not here yet, 0 that are').waitFor();
    await there.getByRole('checkbox', { name: /Take its settings too.*currency USD, 1 filter / }).waitFor();
    await there.getByRole('button', { name: 'Bring in what is not here' }).click();
    await there.getByText('All 4 links live').waitFor();
    await there.getByText('EUR', { exact: true }).waitFor();
    await there.getByRole('button', { name: 'Import, export' }).click();
    await there.getByLabel(/Drop files/).setInputFiles(file);
    await there.getByText('0 records that are not here yet').waitFor();
    await there.getByRole('checkbox', { name: /Take its settings too/ }).check();
    await there.getByRole('button', { name: 'Bring in what is not here' }).click();
    await there.getByText('USD', { exact: true }).waitFor();
    const answer = await send(`http://see.nightledge.localhost:${other.port}/lamp`);
    expect(answer.headers.location).toBe('https://shop.example/lamp');
    await other.stop();
    await context.close();
  });
});
