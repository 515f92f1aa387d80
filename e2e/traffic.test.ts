import { readFileSync } from 'node:fs';
import { AxeBuilder } from '@axe-core/playwright';
import { parquetMetadata } from 'hyparquet';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readTable } from '#core/formats';
import { fillSeason } from '../demo/fill.ts';
import { trafficOf } from '../server/commands/trafficTable.ts';
import { changeOf, readJournal, sendChanges } from '../server/client.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer, untilCounted } from './desk.ts';

const data = freshFolder();
let browser: Browser;
let server: Running;
let page: Page;
/** Thirty days of the season, so that what is asked does not go with the day of the test. */
const period = { from: '2026-10-24', to: '2026-11-22' };
const inPeriod = `from=${period.from}&to=${period.to}`;
const asked = async (more: Partial<Parameters<typeof trafficOf>[0]> = {}) =>
  (await trafficOf({ data, by: 'source', ...period, where: [], now: Date.now(), ...more })).traffic;

const table = () => page.getByRole('table', { name: 'Traffic' });
/** What the table shows under a heading, by the first cell of each row. */
const column = async (name: string): Promise<Record<string, string>> => {
  await table().waitFor();
  const heads = await table().locator('thead th').allInnerTexts();
  const place = heads.findIndex((head) => head.trim() === name);
  const rows = await table().locator('tbody tr').all();
  const cells = await Promise.all(rows.map((row) => row.locator('td').allInnerTexts()));
  return Object.fromEntries(cells.map((row) => [row[0]?.trim() ?? '', row[place]?.trim() ?? '']));
};
const written = (n: number) => n.toLocaleString('en-GB');
const visitorsOf = (lines: Awaited<ReturnType<typeof asked>>['lines'], none: string) =>
  Object.fromEntries(lines.map(({ value, visitors }) => [value || none, written(visitors)]));
const query = () => Object.fromEntries(new URL(page.url()).searchParams);
const open = async (search: string) => {
  await page.goto(`http://localhost:${server.port}/traffic?${search}`);
  await table().waitFor();
  await untilCounted(page);
};

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: data, PORT: String(port) }), 6000, Date.UTC(2026, 10, 23, 15));
  server = await startServer({ dataDir: data, port });
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser, { acceptDownloads: true }), server);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

describe('traffic on the screen', () => {
  it('is one press away, and says what the command says', async () => {
    await page.getByRole('navigation').getByText('Traffic', { exact: true }).click();
    await page.getByRole('heading', { name: /^Visitors by/ }).waitFor();
    await open(inPeriod);
    const { lines, whole } = await asked();
    expect(lines.length).toBeGreaterThan(5);
    await expect.poll(() => column('Visitors')).toEqual(visitorsOf(lines, 'no source'));
    const bar = page.getByRole('list', { name: 'What became of all requests' });
    await bar.getByText(written(whole.visitors), { exact: true }).waitFor();
    await bar.getByText(written(whole.requests.bot), { exact: true }).waitFor();
  });

  it('is told apart by another word of the sentence, narrowed, and kept in the address', async () => {
    const sentence = page.getByRole('heading', { name: /^Visitors by/ });
    await sentence.getByRole('button', { name: 'source', exact: true }).click();
    await page.getByText('country', { exact: true }).click();
    await expect.poll(query).toMatchObject({ by: 'country', ...period });
    await page.getByRole('button', { name: 'Narrow' }).click();
    await page.getByRole('checkbox', { name: /^phones/ }).click();
    await page.keyboard.press('Escape');
    await page.getByRole('heading', { name: 'Visitors by country, device phones,' }).waitFor();
    await expect.poll(query).toMatchObject({ by: 'country', with: 'device:phone' });
    const { lines } = await asked({ by: 'country', where: ['device=phone'] });
    const countries = new Intl.DisplayNames('en-GB', { type: 'region' });
    const expected = Object.fromEntries(
      lines.map(({ value, visitors }) => [
        value === '' ? 'country not known' : countries.of(value),
        written(visitors),
      ]),
    );
    await expect.poll(() => column('Visitors')).toEqual(expected);
    // What was asked is what the address says: sent to somebody, it asks the same.
    await page.reload();
    await expect.poll(() => column('Visitors')).toEqual(expected);
    await page.goBack();
    await expect.poll(query).not.toHaveProperty('with');
  });

  it('is narrowed to a row, and to all but it', async () => {
    await open(inPeriod);
    await table().getByRole('button', { name: 'newsletter', exact: true }).click();
    const pane = page.getByRole('complementary', { name: 'newsletter' });
    await pane.getByRole('table', { name: 'Visits by weekday and hour' }).waitFor();
    await pane.getByRole('button', { name: 'All but this' }).click();
    await expect.poll(query).toMatchObject({ without: 'source:newsletter' });
    const { whole } = await asked({ where: ['source!=newsletter'] });
    await page
      .getByRole('list', { name: 'What became of all requests' })
      .getByText(written(whole.visitors), { exact: true })
      .waitFor();
    await expect.poll(async () => Object.keys(await column('Visitors'))).not.toContain('newsletter');
  });

  it('shows what does not count by itself', async () => {
    await open(inPeriod);
    const bar = page.getByRole('list', { name: 'What became of all requests' });
    await bar.getByRole('button', { name: /^Bots/ }).click();
    await page.getByRole('heading', { name: /^Bots by/ }).waitFor();
    const { lines } = await asked();
    const expected = Object.fromEntries(
      lines.map(({ value, requests }) => [value || 'no source', written(requests.bot)]),
    );
    await expect.poll(() => column('Bots')).toEqual(expected);
    await bar.getByRole('button', { name: /^Bots/ }).click();
    await page.getByRole('heading', { name: /^Visitors by/ }).waitFor();
  });

  it('goes to the days before by a key, and to those that are drawn over', async () => {
    await open(inPeriod);
    await page.keyboard.press('[');
    await expect.poll(query).toMatchObject({ from: '2026-09-24', to: '2026-10-23' });
    await page.keyboard.press(']');
    await expect.poll(query).toMatchObject(period);
    await page.getByRole('button', { name: 'Days', exact: true }).click();
    const bars = page.locator('.apexcharts-series').first().locator('path');
    await bars.nth(29).waitFor({ state: 'attached' });
    const box = async (n: number) => {
      const found = await bars.nth(n).boundingBox();
      if (!found) throw new Error(`day ${n} is not drawn`);
      return { x: found.x + found.width / 2, y: found.y + found.height / 2 };
    };
    const [first, last] = [await box(3), await box(9)];
    await page.mouse.move(first.x - 4, 330);
    await page.mouse.down();
    await page.mouse.move((first.x + last.x) / 2, 332, { steps: 5 });
    await page.mouse.move(last.x + 4, 330, { steps: 5 });
    await page.mouse.up();
    await expect.poll(query).toMatchObject({ from: '2026-10-27', to: '2026-11-02', chart: 'outcomes' });
    await page.getByRole('button', { name: 'Against the days before' }).click();
    await page.getByText('As many days before', { exact: true }).waitFor();
    await page.goBack();
    await page.goBack();
    await expect.poll(query).toMatchObject(period);
  });

  it('leads from a number to the journeys behind it', async () => {
    await open(`${inPeriod}&at=newsletter`);
    const pane = page.getByRole('complementary', { name: 'newsletter' });
    await pane.getByText('Newest visits').waitFor();
    await pane.locator('a[href*="/click/"]').first().click();
    await page.getByText('Journey of a click').waitFor();
    await page.getByText('~newsletter').first().waitFor();
    // And to that of a conversion.
    await open(`${inPeriod}&at=newsletter`);
    const sold = pane.locator('h3', { hasText: 'Newest conversions' }).locator('+ ul a[href*="/click/"]');
    await sold.first().click();
    await page.getByText('Journey of a click').waitFor();
    await page.getByText('~newsletter').first().waitFor();
    await page
      .getByRole('heading', { name: /^Conversion / })
      .first()
      .waitFor();
  });

  it('is one press away from a link, with the question asked of it, and says as many as the link does', async () => {
    const all = page.getByRole('list', { name: 'What became of all requests' });
    const inBar = async (name: string) =>
      Number((await all.getByRole('button', { name }).locator('b').innerText()).replaceAll(',', ''));
    const parts = [
      { words: /^([\d,]+) visits?$/, show: undefined, inTraffic: ['Visitors', 'Came again'] },
      { words: /^([\d,]+) repeated$/, show: 'repeat', inTraffic: ['Repeats'] },
      { words: /^([\d,]+) by bots$/, show: 'bot', inTraffic: ['Bots'] },
    ];
    for (const { words, show, inTraffic } of parts) {
      await page.goto(`http://localhost:${server.port}/links/lnk_saturnkit`);
      await untilCounted(page);
      const number = page.getByLabel('Return').getByRole('link', { name: words });
      const said = Number((words.exec((await number.innerText()).trim())?.[1] ?? '').replaceAll(',', ''));
      expect(said).toBeGreaterThan(0);
      await number.click();
      await all.waitFor();
      expect(query()).toEqual({ by: 'source', with: 'link:lnk_saturnkit', ...(show && { show }) });
      const numbers = await Promise.all(inTraffic.map(inBar));
      expect(numbers.reduce((sum, n) => sum + n, 0)).toBe(said);
    }
  });

  it.each(['outcomes', 'compared'])(
    'has its days (%s) as a picture that needs no page around it',
    async (chart) => {
      await open(`${inPeriod}&with=device:phone&chart=${chart}`);
      await page.locator('.apexcharts-series path').first().waitFor({ state: 'attached' });
      const saved = async (what: string) => {
        await page.getByRole('button', { name: 'Export' }).click();
        const [download] = await Promise.all([
          page.waitForEvent('download'),
          page.getByText(what, { exact: true }).click(),
        ]);
        return { name: download.suggestedFilename(), bytes: readFileSync(await download.path()) };
      };
      const svg = await saved('The days as SVG');
      expect(svg.name).toBe(`days-${period.from}-${period.to}.svg`);
      // Drawn as a picture a browser takes nothing from the page, and nothing that is not well-formed.
      const drawn = await page.evaluate(async (text) => {
        const parsed = new DOMParser().parseFromString(text, 'image/svg+xml');
        const image = new Image();
        image.src = URL.createObjectURL(new Blob([text], { type: 'image/svg+xml' }));
        await image.decode();
        return {
          broken: parsed.querySelectorAll('parsererror').length,
          html: parsed.querySelectorAll('foreignObject').length,
          title: parsed.querySelector('title')?.textContent,
          bars: parsed.querySelector('.apexcharts-series')?.querySelectorAll('path').length,
          legend: [...parsed.querySelectorAll('svg > text')].map((text) => text.textContent),
          size: [image.width, image.height],
        };
      }, svg.bytes.toString('utf8'));
      expect(drawn).toMatchObject({ broken: 0, html: 0, title: drawn.legend[0] });
      expect(drawn.title).toMatch(/^Visits by day, 24 Oct to 22 Nov 2026; device: phones$/);
      if (chart === 'outcomes') {
        expect(drawn.bars).toBe(30);
        expect(drawn.legend.slice(1, 4)).toEqual(['Visits', 'Repeats', 'Bots']);
      } else expect(drawn.legend.slice(1)).toEqual(['These days', 'As many days before']);
      const png = await saved('The days as PNG');
      expect(png.name).toBe(`days-${period.from}-${period.to}.png`);
      expect(png.bytes.subarray(1, 4).toString()).toBe('PNG');
      expect([png.bytes.readUInt32BE(16), png.bytes.readUInt32BE(20)]).toEqual(drawn.size.map((n) => n * 2));
    },
  );

  it('is saved as it is shown', async () => {
    await open(`${inPeriod}&by=device`);
    const saved = async (what: string) => {
      await page.getByRole('button', { name: 'Export' }).click();
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        page.getByText(what, { exact: true }).click(),
      ]);
      return download;
    };
    const download = await saved('These rows as CSV');
    expect(download.suggestedFilename()).toBe(`traffic-by-device-${period.from}-${period.to}.csv`);
    const { header, rows } = readTable(readFileSync(await download.path(), 'utf8'));
    expect(header.slice(0, 3)).toEqual(['Device', 'Visits by day', 'Visitors']);
    const { lines: expected, whole } = await asked({ by: 'device' });
    const words: Record<string, string> = { phone: 'phones', tablet: 'tablets', desktop: 'desktops' };
    expect(rows.map((cells) => cells.slice(0, 3))).toEqual(
      expected.map(({ value, days, visitors }) => [words[value], days.join(' '), String(visitors)]),
    );
    const lines = readFileSync(await (await saved('The requests as NDJSON')).path(), 'utf8')
      .trimEnd()
      .split('\n');
    const all = Object.values(whole.requests).reduce((sum, n) => sum + n, 0);
    expect(lines.length).toBe(all);
    const parquet = await saved('The requests as Parquet');
    expect(parquet.suggestedFilename()).toBe(`requests-${period.from}-${period.to}.parquet`);
    const bytes = readFileSync(await parquet.path());
    const { num_rows: rowsThere } = parquetMetadata(new Uint8Array(bytes).buffer);
    expect(Number(rowsThere)).toBe(all);
  });

  it('rises with who comes, in every window that is open', async () => {
    const other = await page.context().newPage();
    await other.goto(`http://localhost:${server.port}/traffic?with=source:flyer-live`);
    await page.goto(`http://localhost:${server.port}/traffic?with=source:flyer-live`);
    for (const window of [other, page])
      await window.getByText('Nothing came in these days that fits').waitFor();
    const person = await freshPerson(browser);
    const visitor = await person.newPage();
    const begun = Date.now();
    await visitor
      .goto(`http://see.nightledge.localhost:${server.port}/saturn-kit~flyer-live`)
      .catch(() => undefined);
    for (const window of [other, page])
      await window
        .getByRole('table', { name: 'Traffic' })
        .getByRole('button', { name: 'flyer-live', exact: true })
        .waitFor();
    // The page of the shop is loaded meanwhile, and so are both windows.
    expect(Date.now() - begun).toBeLessThan(10_000);
    await person.close();
    await other.close();
  });

  it('says on its days what was done that they may come from', async () => {
    const links = (await readJournal(server)).flatMap((record) =>
      record.kind === 'change' && record.value?.['slug'] === 'saturn-kit' ? [record] : [],
    );
    const link = links.at(-1);
    if (!link?.value) throw new Error('The demo has a link saturn-kit.');
    const value = { ...link.value, id: link.record, destination: 'https://polehouse.example/other-kit' };
    await page.goto(`http://localhost:${server.port}/traffic?chart=outcomes`);
    await page.locator('.apexcharts-series').first().waitFor({ state: 'attached' });
    const { refused } = await sendChanges(server, [changeOf('link', value, link.revision + 1)]);
    expect(refused).toEqual([]);
    await page.getByText('saturn-kit destination changed').waitFor();
    // It says nothing of links that are not asked for.
    await page.goto(`http://localhost:${server.port}/traffic?chart=outcomes&without=link:${link.record}`);
    await page.locator('.apexcharts-series').first().waitFor({ state: 'attached' });
    await page.waitForTimeout(500);
    expect(await page.getByText('destination changed').count()).toBe(0);
  });

  it('says what it is asked in an old or a broken address, and nothing serious is found by axe', async () => {
    await open(`${inPeriod}&by=colour&with=colour:red&show=everything&chart=outcomes`);
    await page.getByRole('heading', { name: /^Visitors by source/ }).waitFor();
    await page.locator('.apexcharts-series').first().waitFor({ state: 'attached' });
    const { violations } = await new AxeBuilder({ page }).analyze();
    const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
    expect(serious.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html).join()}`)).toEqual([]);
  });
});
