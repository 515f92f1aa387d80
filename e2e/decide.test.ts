import { AxeBuilder } from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Choice, SourceRecord } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import { fillSeason } from '../demo/fill.ts';
import { costsOf } from '../demo/season/costs.ts';
import { changeOf, sendChanges } from '../server/client.ts';
import { decisionsOf } from '../server/commands/decideTable.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, pick, startServer, untilCounted } from './desk.ts';

const data = freshFolder();
let browser: Browser;
let server: Running;
let page: Page;
/** The whole season, so that what is asked does not go with the day of the test. */
const period = { from: '2026-08-25', to: '2026-11-22' };
const inPeriod = `from=${period.from}&to=${period.to}`;
const end = Date.UTC(2026, 10, 23);
const { rates } = costsOf(end, 90, 6000);
/** A hop as a visitor makes it: status, and the path it leads to. */
const hopTo = async (path: string) => {
  const { status, headers } = await send(`http://see.nightledge.localhost:${server.port}${path}`);
  return { status, to: headers.location === undefined ? '' : new URL(headers.location).pathname };
};
const asked = async (by = 'source') =>
  (await decisionsOf({ data, by, ...period, where: [], now: Date.now() })).pays;

const table = () => page.getByRole('table', { name: 'What pays' });
const rowOf = (name: string) =>
  table()
    .getByRole('row')
    .filter({ has: page.getByRole('button', { name, exact: true }) });
const pane = (name: string) => page.getByRole('complementary', { name });
const open = async (search: string) => {
  await page.goto(`http://localhost:${server.port}/decide?${search}`);
  await table().waitFor();
  await untilCounted(page);
};
const serious = async (): Promise<string[]> =>
  (await new AxeBuilder({ page }).analyze()).violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target.join(' ')).join()}`);
/** Types a cost where it is asked for, and gives what is said of it. */
const typeCost = async (text: string): Promise<string> => {
  await page.getByLabel('What was paid, for what, and when').fill(text);
  return page.locator('#cost-reading').innerText();
};

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: data, PORT: String(port) }), 6000, end + 15 * 3_600_000);
  server = await startServer({ dataDir: data, port });
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** A form is there to be typed into. */
const untilFocused = (label: string) =>
  expect.poll(() => page.getByLabel(label).evaluate((field) => field === document.activeElement)).toBe(true);
const money = (minor: number) =>
  new Intl.NumberFormat('en-GB', { style: 'currency', currency: 'EUR' }).format(minor / 100);
const sentence = 'What was paid, for what, and when';

describe('what pays', () => {
  it('is one press away, and says that money in other currencies is not known without a rate', async () => {
    await page.getByRole('navigation').getByText('Decide', { exact: true }).click();
    await page.getByRole('heading', { name: /^What pays\? By source, / }).waitFor();
    await open(inPeriod);
    expect(await page.getByRole('note').count()).toBe(0);
    expect(await rowOf('gear-list').innerText()).toMatch(/Earns, costs nothing/);
    const without = rates.map((one) => ({ ...changeOf('rate', one, 2), value: null }));
    expect((await sendChanges(server, without)).refused).toEqual([]);
    await page.getByRole('note').filter({ hasText: 'No rate of USD up to ' }).waitFor();
    expect(await rowOf('gear-list').innerText()).toMatch(/\?\s+No rate/);
    const again = rates.map((one) => changeOf('rate', one, 3));
    expect((await sendChanges(server, again)).refused).toEqual([]);
    await expect.poll(() => page.getByRole('note').count(), { timeout: 15_000 }).toBe(0);
    expect(await rowOf('gear-list').innerText()).toMatch(/Earns, costs nothing/);
  });

  it('is told a cost in a sentence, says what it understood, and asks where it is not sure', async () => {
    await page.getByRole('button', { name: 'Add a cost' }).click();
    const save = page.getByRole('button', { name: 'Note this cost' });
    expect(await typeCost('€310 for newslettter on 14 Oct 2026')).toMatch(
      /^No source and no link is called newslettter\./,
    );
    expect(await save.isDisabled()).toBe(true);
    expect(await typeCost('-€310 for newsletter on 14 Oct 2026')).toMatch(/is below nothing/);
    expect(await typeCost('€1,200 for newsletter on 14 Oct 2026')).toMatch(/^Is 1,200 the number 1200/);
    expect(await typeCost('€20 a day for moon-guide since 25 Aug 2026: the writer')).toMatch(
      /20 EUR a day for moon-guide, since 25 Aug: the writer/,
    );
    expect(await serious()).toEqual([]);
    await save.click();
    await page.getByText('The cost is noted.').waitFor();
    await expect.poll(() => rowOf('moon-guide').innerText(), { timeout: 15_000 }).toMatch(/Cut/);
    // By keys alone.
    await page.getByRole('button', { name: 'Add a cost' }).focus();
    await page.keyboard.press('Enter');
    await untilFocused(sentence);
    await page.keyboard.type('0.02 USD a click for archive since 2026-09-01, all clicks billed');
    await page.keyboard.press('Enter');
    await expect.poll(() => rowOf('archive').innerText(), { timeout: 15_000 }).not.toMatch(/—/);
  });

  it('shows what the command says, what loses most a week first', async () => {
    // What was typed last has reached the server.
    const spent = page.locator('.sums div').filter({ hasText: 'spent' }).locator('dd');
    const shown = await spent.innerText();
    await expect.poll(async () => money((await asked()).whole.cost), { timeout: 15_000 }).toBe(shown);
    const { lines } = await asked();
    const names = await table().locator('tbody tr td:first-child').allInnerTexts();
    expect(names.map((name) => name.trim())).toEqual(lines.map(({ value }) => value || 'no source'));
    expect(names[0]).toContain('moon-guide');
    for (const { value, cost, visitors, conversions, approved, worth } of lines.slice(0, 6)) {
      const cells = await rowOf(value || 'no source')
        .locator('td')
        .allInnerTexts();
      expect(cells.slice(1, 5).map((cell) => cell.trim())).toEqual([
        cost === 0 ? '—' : money(cost),
        visitors.toLocaleString('en-GB'),
        conversions.toLocaleString('en-GB'),
        money(approved + worth),
      ]);
    }
  });

  it('says of a row what can be said to another, what it cost, how it came about, and what would change it', async () => {
    await rowOf('moon-guide').getByRole('button').click();
    const shown = pane('moon-guide');
    await shown.getByText(/^Cut:/).waitFor();
    expect(await shown.locator('.said').innerText()).toMatch(
      /at best it loses [\d.]+ a visitor\. [\d,]+ people cost €[\d.,]+; \d+ sales came of them\./,
    );
    await shown.getByText('since 25 Aug, 20 EUR a day').waitFor();
    await shown.locator('svg.apexcharts-svg .apexcharts-series path').first().waitFor();
    expect(await serious()).toEqual([]);
    // For nothing it would earn; the verdict moves while the cost is moved.
    const cost = shown.getByRole('slider', { name: 'At a cost a visitor of' });
    await cost.focus();
    for (let i = 0; i < 19; i++) await page.keyboard.press('ArrowLeft');
    await expect
      .poll(() => shown.getByRole('status').filter({ hasText: 'It would be' }).innerText())
      .toMatch(/It would be (?:Scale|Keep testing)/);
    await shown.getByRole('button', { name: 'As it is' }).click();
    await expect
      .poll(() => shown.getByRole('status').filter({ hasText: 'It would be' }).innerText())
      .toMatch(/It would be Cut/);
    // The whole of the question stands in the address.
    expect(new URL(page.url()).searchParams.get('at')).toBe('moon-guide');
    await shown.getByRole('link', { name: 'Visits and conversions behind it' }).click();
    await page
      .getByRole('complementary', { name: 'moon-guide' })
      .getByText(/^Newest conversions/)
      .waitFor();
    expect(new URL(page.url()).pathname).toBe('/traffic');
    await page.goBack();
    await shown.waitFor();
  });

  it('is decided: the links of a source are left to others, its visitors are sent elsewhere, and it is noted', async () => {
    // A slip of its name counts as it.
    const slip: SourceRecord = {
      id: sameId('src', 'moon-giude'),
      ...{ source: 'moon-giude', as: 'moon-guide', title: '', channel: '', note: '' },
    };
    expect((await sendChanges(server, [changeOf('source', slip)])).refused).toEqual([]);
    const shown = pane('moon-guide');
    await shown.getByRole('button', { name: 'Decide', exact: true }).click();
    const form = page.getByRole('form', { name: 'Decide' });
    await form.getByLabel('Why, for later').fill('its writer asks too much');
    await form.getByLabel(/^Its \d+ links$/).waitFor();
    // The form has stopped moving.
    await form.getByRole('button', { name: 'Note it' }).hover();
    await pick(form.getByLabel(/^Its \d+ links$/), 'Pause: they answer “gone”');
    // Others came by these links too, so none is chosen.
    await form.getByText('Choose at least one link.').waitFor();
    await form.getByLabel('saturn-kit', { exact: true }).check();
    await form.getByRole('note').filter({ hasText: 'came by these links from elsewhere' }).waitFor();
    expect(await serious()).toEqual([]);
    await form.getByLabel('saturn-kit', { exact: true }).uncheck();
    await pick(form.getByLabel(/^Its \d+ links$/), 'Send visitors of moon-guide to another link');
    await pick(form.getByLabel('They go to', { exact: true }), /^mailing-list/);
    for (const box of await form.getByRole('checkbox').all()) await box.uncheck();
    await form.getByLabel('saturn-kit', { exact: true }).check();
    await form.getByRole('button', { name: 'Note it and change the links' }).click();
    await page.getByText(/^Noted\. 1 link now goes to mailing-list\./).waitFor();
    const choices = page.getByRole('region', { name: 'What you decided' });
    expect(await choices.innerText()).toMatch(
      /you cut moon-guide: its writer asks too much\s+What becomes of it is told from tomorrow on\./,
    );
    // The hop itself, of this source and of another.
    const to = async (path: string) => (await hopTo(path)).to;
    await expect.poll(() => to('/saturn-kit~moon-guide'), { timeout: 15_000 }).toBe('/newsletter');
    expect(await to('/saturn-kit~moon-giude')).toBe('/newsletter');
    expect(await to('/saturn-kit~video-12')).not.toBe('/newsletter');
    // One step back takes both away again.
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => to('/saturn-kit~moon-guide'), { timeout: 15_000 }).not.toBe('/newsletter');
    await expect.poll(() => choices.count()).toBe(0);
  });

  it('pauses a link by keys alone, from what did I spend on', async () => {
    await open(`by=link&${inPeriod}`);
    await rowOf('dew-band').getByRole('button').focus();
    await page.keyboard.press('Enter');
    await pane('dew-band').getByRole('button', { name: 'Decide', exact: true }).focus();
    await page.keyboard.press('Enter');
    const form = page.getByRole('form', { name: 'Decide' });
    await form.getByLabel('Its link').waitFor();
    // The dialog takes the focus once it stands; a field that had it before would lose it.
    await expect
      .poll(() => page.evaluate(() => document.activeElement?.closest('[role=dialog]') !== null))
      .toBe(true);
    await form.getByLabel('Its link').focus();
    await page.keyboard.press('Enter');
    const pause = page.getByRole('option', { name: /^Pause/ });
    await expect
      .poll(async () => {
        await page.keyboard.press('End');
        return pause.evaluate((option) => option === document.activeElement);
      })
      .toBe(true);
    await page.keyboard.press('Enter');
    await expect.poll(() => form.getByRole('checkbox').isChecked()).toBe(true);
    await form.getByRole('button', { name: 'Note it and change the links' }).focus();
    await page.keyboard.press('Enter');
    await page.getByText('Noted. 1 link paused.').waitFor();
    await expect.poll(async () => (await hopTo('/dew-band')).status, { timeout: 15_000 }).toBe(410);
  });

  it('comes back to what was decided when its outcome is known', async () => {
    const { lines } = await asked();
    const podcast = lines.find(({ value }) => value === 'podcast');
    if (!podcast) throw new Error('no podcast');
    const choice: Choice = {
      ...{
        id: 'chc_podcast',
        day: '2026-10-12',
        made: 'cut',
        by: 'source',
        value: 'podcast',
        name: 'podcast',
      },
      ...{ where: [], from: '2026-08-25', to: '2026-10-12', currency: 'EUR', visitors: podcast.visitors },
      ...{ cost: podcast.cost, profit: podcast.profit, note: '' },
    };
    expect((await sendChanges(server, [changeOf('choice', choice)])).refused).toEqual([]);
    const said = page.getByRole('region', { name: 'What you decided' }).getByRole('listitem');
    await expect
      .poll(() => said.filter({ hasText: 'podcast' }).innerText(), { timeout: 15_000 })
      .toMatch(
        /12 Oct, you cut podcast\s+At its rate then it would have (?:lost another|left something from) .*€\d+ to .*€\d+ since\. [\d,]+ people came since and left [−+]?€[\d.,]+\./,
      );
  });

  it('is told costs by a seller’s file with title lines, and by the same file again nothing', async () => {
    await page.goto(`http://localhost:${server.port}/decide/costs`);
    const costs = page.getByRole('table', { name: 'Costs', exact: true });
    // The page is whole once it shows what was typed before.
    await costs.getByRole('row').filter({ hasText: '20 EUR a day' }).waitFor();
    const many = await costs.locator('tbody tr').count();
    const bring = async (text: string, name = 'seller.csv') => {
      await page.getByRole('button', { name: 'Bring in a file' }).click();
      await page
        .getByLabel('From a seller’s file', { exact: true })
        .setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });
    };
    const file = [
      'What you spent with us',
      'Customer;Nightledge',
      '',
      'Datum;Aktion;Klicks;Ausgaben (USD)',
      '14.10.2026;Herbst am Saturn;120;103,40',
      '15.10.2026;Herbst am Saturn;98;1.206,60',
      '16.10.2026;Herbst am Saturn;2;-4,00',
      'Gesamt;;220;1.306,00',
    ].join('\n');
    await bring(file);
    const dialog = page.getByRole('dialog', { name: 'Costs from a file' });
    const ofSource = async (name: string) => {
      // Typed, since the form grows while it is asked.
      await dialog.getByLabel('Of which source is it?', { exact: true }).fill(name);
      await page.getByRole('option', { name, exact: true }).dispatchEvent('click');
    };
    // No column names a source that is known, so it is asked.
    await ofSource('gear-list');
    await dialog.getByRole('note').filter({ hasText: 'Line 7: -4 is below nothing.' }).waitFor();
    await dialog
      .getByText('Line 8 says what all come to, and the rows above come to something else.')
      .waitFor();
    expect(await serious()).toEqual([]);
    await dialog.getByRole('button', { name: 'Note 2 costs' }).click();
    await page.getByText('2 costs are noted.').waitFor();
    await expect.poll(() => costs.locator('tbody tr').count()).toBe(many + 2);
    const row = costs.getByRole('row').filter({ hasText: '1206.6 USD in all' });
    expect(await row.innerText()).toMatch(
      /^gear-list\s+15 Oct\s+1206\.6 USD in all\s+€1,037\.68; [\d,]+ visits/,
    );
    await bring(file);
    await ofSource('gear-list');
    await dialog.getByText('2 rows of costs, 2 noted already').waitFor();
    expect(await dialog.getByRole('button', { name: 'Nothing new in it' }).isDisabled()).toBe(true);
    await page.keyboard.press('Escape');
    await dialog.waitFor({ state: 'hidden' });
    await bring('not a table at all', 'letter.txt');
    await dialog.getByRole('alert').waitFor();
    await page.keyboard.press('Escape');
    await dialog.waitFor({ state: 'hidden' });
    // One step takes all of it away.
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => costs.locator('tbody tr').count()).toBe(many);
  });

  it('lists what was paid, tells what lies over each other, ends one and takes one away', async () => {
    await open(inPeriod);
    await page.getByRole('button', { name: 'Add a cost' }).click();
    await typeCost('€60 for moon-guide from 1 to 30 Sep 2026');
    await page.getByRole('button', { name: 'Note this cost' }).click();
    await page.getByRole('note').filter({ hasText: '1 pair of costs lies over each other' }).waitFor();
    await page.getByRole('link', { name: 'Look at them' }).click();
    await page.getByText('Two costs of moon-guide lie over each other, 1 Sept to 30 Sept').waitFor();
    const costs = page.getByRole('table', { name: 'Costs' });
    const paid = costs.getByRole('row').filter({ hasText: '60 EUR in all' });
    await expect.poll(() => paid.innerText()).toMatch(/€60\.00; [\d,]+ visits/);
    expect(await serious()).toEqual([]);
    const many = await costs.locator('tbody tr').count();
    expect(many).toBe(10);
    await costs.getByRole('button', { name: 'Take away 60 EUR in all for moon-guide' }).click();
    await expect.poll(() => costs.locator('tbody tr').count()).toBe(many - 1);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(() => costs.locator('tbody tr').count()).toBe(many);
    await costs.getByRole('button', { name: 'End today 20 EUR a day for moon-guide' }).click();
    await expect
      .poll(() => costs.getByRole('row').filter({ hasText: '20 EUR a day' }).innerText())
      .toMatch(/25 Aug to /);
    // One for days on which nobody came stands by itself.
    await page.getByRole('button', { name: 'Add a cost' }).click();
    await typeCost('€25 for moon-guide on 1 Mar 2026');
    await page.getByRole('button', { name: 'Note this cost' }).click();
    const idle = costs.getByRole('row').filter({ hasText: '25 EUR in all' });
    await expect.poll(() => idle.innerText()).toMatch(/€25\.00; no visit came/);
  });
});
