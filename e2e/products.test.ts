import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { AxeBuilder } from '@axe-core/playwright';
import type { ChangesPage, Product } from '#core/catalogue';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { call, changeOf, readJournal, sendChanges } from '../server/client.ts';
import { freshFolder } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { startBrowser } from './browser.ts';
import { clipboard, deskWithLink, pick } from './desk.ts';

let browser: Browser;
let desk: Awaited<ReturnType<typeof deskWithLink>>;
const folder = freshFolder();
beforeAll(async () => {
  browser = await startBrowser();
  desk = await deskWithLink(browser);
});
afterAll(async () => {
  await desk.context.close();
  await browser.close();
  await desk.server.stop();
});

/** The products the server has. */
const products = async (): Promise<Product[]> => {
  const { body } = await call(desk.server, 'GET', '/changes?after=0');
  const { changes }: ChangesPage = JSON.parse(body);
  const newest = new Map(
    changes.filter(({ kind }) => kind === 'product').map(({ record, value }) => [record, value]),
  );
  // What is kept under this kind is a product.
  return [...newest.values()].filter((value) => value !== null) as unknown as Product[];
};
const bring = async (page: Page, name: string, content: string | Uint8Array) => {
  const path = join(folder, name);
  writeFileSync(path, content);
  await page.getByRole('link', { name: 'Place', exact: true }).click();
  await page.getByRole('tab', { name: 'Products', exact: true }).click();
  await page.getByRole('link', { name: 'Bring a feed' }).click();
  await page.locator('input[type=file]').setInputFiles(path);
};
const whole = async (page: Page) => {
  await page.getByRole('button', { name: 'Read all of it' }).click();
  await page.getByRole('button', { name: /^Keep it/ }).waitFor();
};
const axe = async (page: Page) => {
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html)])).toEqual([]);
};
const shop = 'https://polehouse.example';
/** In Latin-1, with decimal commas, a row that was cut off within a quote, and one that has a page of no address. */
const feed = (price: string) =>
  Buffer.from(
    [
      'Artikelnummer;Bezeichnung;Preis;Produktlink;Bild',
      `KT-1;"Okular für Saturn; mit Hülle";${price} EUR;${shop}/kits/saturn-2;${shop}/1.png`,
      'KT-2;"Zerrissen',
      `KT-3;Taukappe 8";34,90 EUR;${shop}/heaters/dew;`,
      'KT-4;Ohne Seite;9,00 EUR;keine;',
      ...Array.from({ length: 60 }, (_, i) => `ZZ-${i};Kleinteil ${i};1,0${i % 10} EUR;${shop}/parts/${i};`),
    ].join('\r\n'),
    'latin1',
  );

describe('a product', () => {
  it('is found in a feed by its code, picked with a link of its own, and its card is copied', async () => {
    const { page, server } = desk;
    await bring(page, 'polehouse.csv', feed('1.299,00'));
    await page.getByText('Okular für Saturn; mit Hülle').waitFor();
    await page.getByText('€1,299.00').waitFor();
    await axe(page);
    expect(await page.getByLabel('Whose products are these?').inputValue()).not.toBe('');
    await whole(page);
    await page.getByText('62 products.').waitFor();
    await page.getByText('2 rows could not be read').waitFor();
    await page.getByText('A cell is opened by a quote and never closed').waitFor();
    await page.getByText('“keine” is no address.').waitFor();
    await page.getByRole('button', { name: /^Keep it/ }).click();
    await page.getByText('62 products can be found.').waitFor();
    // What could not be read is kept beside it.
    const download = page.waitForEvent('download');
    await page.getByText('2 unread rows').click();
    const text = readFileSync(await (await download).path(), 'utf8');
    expect(text).toContain('Zerrissen');
    expect(text).toContain('KT-4;Ohne Seite');

    await page.getByLabel('Find by name or code').fill('kt 1');
    await page.getByText('In feeds, 1 found').waitFor();
    await page.getByLabel('Find by name or code').fill('hulle sat');
    await page.getByText('In feeds, 1 found').waitFor();
    await page.getByRole('button', { name: 'Pick' }).click();
    await page.getByRole('heading', { name: 'Okular für Saturn; mit Hülle' }).waitFor();
    await vi.waitFor(async () => expect(await products()).toHaveLength(1), { timeout: 10_000 });
    const [product] = await products();
    expect(product).toMatchObject({
      name: 'Okular für Saturn; mit Hülle',
      code: 'KT-1',
      page: `${shop}/kits/saturn-2`,
      price: { amount: 129_900, currency: 'EUR' },
    });
    // The link was made in the same step, and leads to the page through the network with our tag.
    await page.getByText('All 2 links live').waitFor();
    const { body } = await call(server, 'GET', '/changes?after=0');
    const { changes }: ChangesPage = JSON.parse(body);
    const link = changes.find(({ record }) => record === product?.link)?.value;
    expect(decodeURIComponent(String(link?.['destination']))).toContain(`${shop}/kits/saturn-2`);

    await page.getByRole('combobox', { name: 'Where it will stand' }).fill('saturn-guide');
    await page.getByRole('combobox', { name: 'Where it will stand' }).press('Tab');
    await axe(page);
    await page.getByRole('button', { name: 'Copy card' }).click();
    await page.getByText('The card is copied.').waitFor();
    const card = await clipboard(page);
    expect(card).toContain(`see.nightledge.localhost:${server.port}/${String(link?.['slug'])}~saturn-guide"`);
    expect(card).toContain('rel="sponsored nofollow noopener"');
    expect(card).toContain('src="kt-1.png"');
    expect(card).not.toContain(`${shop}/1.png`);
    expect(card).toContain('€1,299.00');
    const drawn = page.locator('.preview .fernhop-card');
    expect(await drawn.evaluate((element) => getComputedStyle(element).display)).toBe('flex');
    await vi.waitFor(async () =>
      expect((await products())[0]?.placed).toMatchObject([{ source: 'saturn-guide', amount: 129_900 }]),
    );
  });

  it('has the price of a newer feed, and tells where the old one stands', async () => {
    const { page } = desk;
    await bring(page, 'polehouse-2.csv', feed('1.199,50'));
    await whole(page);
    await page.getByRole('button', { name: 'Keep it in place of the one before' }).click();
    await page.getByText('1 you picked has the feed’s price and day now.').waitFor();
    await page.getByText('1 place shows what is no longer true').waitFor();
    await page.getByRole('link', { name: /Okular für Saturn/ }).click();
    await page.getByText('shows €1,299.00, now €1,199.50').waitFor();
    await page.getByRole('combobox', { name: 'Where it will stand' }).fill('saturn-guide');
    await page.getByRole('combobox', { name: 'Where it will stand' }).press('Tab');
    await page.getByRole('button', { name: 'Copy card' }).click();
    await page.getByText('shows €1,299.00').waitFor({ state: 'detached' });
    expect((await products())[0]?.price).toMatchObject({ amount: 119_950 });
  });

  it('is written by hand, with words and colours that can be read or are refused', async () => {
    const { page } = desk;
    await page.getByLabel('Find by name or code').fill('Thermal flask');
    await page.getByRole('button', { name: 'By hand' }).click();
    await page.getByLabel('Its page at the shop').fill(`${shop}/flasks/night`);
    await page.getByLabel('Price', { exact: true }).fill('12,345');
    await page.getByText('has more decimals than EUR').waitFor();
    await page.getByLabel('Price', { exact: true }).fill('33,00');
    await page.getByLabel('Coupon', { exact: true }).fill('WARM');
    await page.getByLabel('Coupon until').fill('2020-01-31');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('Its coupon WARM ended on 2020-01-31').waitFor();
    await page
      .getByRole('button', { name: 'Make one to its page' })
      .or(page.getByText('Make one to its page'))
      .first()
      .click();
    const card = page.locator('.preview .fernhop-card');
    await card.waitFor();
    expect(await card.innerText()).toContain('€33.00');
    expect(await card.innerText()).not.toContain('WARM');
    await page.getByText('Words and colours of cards').click();
    await page.getByLabel('Behind it').fill('#4c8a6c');
    await page.getByText('The card’s text has a contrast of').waitFor();
    expect(await page.getByRole('button', { name: 'Save for all cards' }).isDisabled()).toBe(true);
    await page.getByLabel('Behind it').fill('#fffbe8');
    await page.getByLabel('Button', { exact: true }).first().fill('Zum Angebot bei {shop}');
    await page.getByRole('button', { name: 'Save for all cards' }).click();
    await page.getByText('Zum Angebot bei').first().waitFor();
    await pick(page.getByLabel('Layout'), 'compact');
    await page.getByRole('button', { name: 'Copy card' }).click();
    await page.getByText('The card is copied.').waitFor();
    expect(await clipboard(page)).toContain('background:#fffbe8');
  });
});

describe('who writes, and what a merchant asks for', () => {
  /** What the server has of a record now. */
  const newest = async (record: string): Promise<Record<string, unknown>> => {
    const { body } = await call(desk.server, 'GET', '/changes?after=0');
    const { changes }: ChangesPage = JSON.parse(body);
    return changes.findLast((change) => change.record === record)?.value ?? {};
  };

  it('gets the tag of the writer into a link that is made for a product', async () => {
    const { page, server } = desk;
    const accounts = [
      { id: 'acc_1', network: 'net_harrowmead', tag: 'nl-4471', owner: 'Ines' },
      { id: 'acc_2', network: 'net_harrowmead', tag: 'nl-5520', owner: 'Maren' },
    ];
    const { refused } = await sendChanges(
      server,
      accounts.map((account) => changeOf('account', account)),
    );
    expect(refused).toEqual([]);
    await page.getByRole('link', { name: 'Setup' }).click();
    await page.getByLabel('Your name, written beside your changes').fill('Maren');
    await page.getByRole('link', { name: 'Programs' }).click();
    await page.getByText('Maren').first().waitFor();
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByRole('tab', { name: 'Products', exact: true }).click();
    await page.getByLabel('Find by name or code').fill('KT-3');
    await page.getByRole('button', { name: 'Pick' }).click();
    await page.getByRole('button', { name: 'Copy card' }).waitFor();
    await vi.waitFor(async () => {
      const product = (await products()).find(({ code }) => code === 'KT-3');
      const { destination } = await newest(product?.link ?? '');
      expect(destination).toMatch(/by=nl-5520&/);
    });
  });

  it('places the tracking link itself where a merchant forbids cloaking, with its name, and refuses a post', async () => {
    const { page, server } = desk;
    const { records } = desk;
    const rules = {
      cloak: false,
      name: 'Polehouse',
      ownLinks: false,
      mail: true,
      social: false,
      disclosure: 'Werbung.',
    };
    const { refused } = await sendChanges(server, [changeOf('program', { ...records.program, rules }, 2)]);
    expect(refused).toEqual([]);
    await page
      .locator('.preview')
      .getByText(/, Polehouse$/)
      .first()
      .waitFor();
    await page.getByRole('button', { name: 'Copy card' }).click();
    await page.getByText('The card is copied.').waitFor();
    const card = await clipboard(page);
    expect(card).toContain('by=nl-5520');
    expect(card).not.toContain('see.nightledge');
    expect(card).toContain('data-fernhop="lnk_');
    await page.getByRole('tab', { name: 'Kits', exact: true }).click();
    await page.getByRole('combobox', { name: 'New kit for a link' }).fill('saturn-kit');
    await page.getByRole('option', { name: /saturn-kit/ }).click();
    await page.getByText('does not allow its links on social pages').waitFor();
    expect(await page.getByLabel('Why the link is there').inputValue()).toBe('(Paid link) Werbung.');
    expect(await page.getByRole('button', { name: 'Copy the post' }).isDisabled()).toBe(true);
    await sendChanges(server, [changeOf('program', { ...records.program }, 3)]);
    await page.getByText('does not allow its links on social pages').waitFor({ state: 'detached' });
  });
});

describe('a kit', () => {
  it('is written, measured for a place, copied with its link last, and its preview is asked for as a robot does', async () => {
    const { page, server } = desk;
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByRole('tab', { name: 'Products', exact: true }).click();
    await page.getByRole('tab', { name: 'Kits', exact: true }).click();
    await page.getByRole('combobox', { name: 'New kit for a link' }).fill('saturn-kit');
    await page.getByRole('option', { name: /saturn-kit/ }).click();
    await page.getByLabel('Text', { exact: true }).fill('x'.repeat(240));
    await page.getByText('too many').waitFor();
    expect(await page.getByRole('button', { name: 'Copy the post' }).isDisabled()).toBe(true);
    await page.getByLabel('Text', { exact: true }).fill('Saturn tonight 🔭');
    await page.getByRole('textbox', { name: 'What to do' }).fill('Look before Thursday');
    await page.getByLabel('Source', { exact: true }).fill('opposition-post');
    const picture = join(folder, 'mine.png');
    writeFileSync(picture, await page.screenshot());
    await page.locator('input[type=file]').setInputFiles(picture);
    await page.getByText('The picture is kept with the kit.').waitFor();
    await page.getByLabel('What the picture shows').fill('Saturn over a roof');
    // A line that is still coming is paler than it will be.
    const lines = page.locator('.v-snackbar__content:visible');
    await vi.waitFor(async () => expect(await lines.count()).toBe(0), { timeout: 20_000 });
    await axe(page);
    await page.getByRole('button', { name: 'Keep the kit' }).click();
    const address = `http://see.nightledge.localhost:${server.port}/saturn-kit~opposition-post`;
    await page.getByRole('button', { name: 'Copy the post' }).click();
    await page.getByText('The post is copied').waitFor();
    expect(await clipboard(page)).toBe(
      `Saturn tonight 🔭\n\nLook before Thursday\n\n(Paid link)\n\n${address}`,
    );
    const saved = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save the picture' }).click();
    const bytes = readFileSync(await (await saved).path());
    expect([bytes[0], bytes[1], bytes.length > 2000]).toEqual([0xff, 0xd8, true]);
    await pick(page.getByLabel('For a', { exact: true }), 'text message');
    await page.getByText(/sent as 2 messages/).waitFor();

    await page.getByText('What a preview of this link shows').click();
    await page.getByLabel('Preview').getByRole('status').waitFor();
    await vi.waitFor(async () => {
      const hops = (await readJournal(server)).filter((record) => record.kind === 'hop');
      expect(hops.at(-1)).toMatchObject({
        source: 'opposition-post',
        test: true,
        ua: 'Mozilla/5.0 (compatible; link preview bot)',
      });
    });
  });
});

describe('sources', () => {
  it('gather what arrived, and a slip is merged for the past and parted again', async () => {
    const { page, server } = desk;
    const agent = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
    for (let i = 0; i < 12; i++)
      await send(
        `http://see.nightledge.localhost:${server.port}/saturn-kit~${i === 11 ? 'newsleter' : 'newsletter'}`,
        {
          headers: { 'User-Agent': `${agent} ${i}` },
        },
      );
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByRole('tab', { name: 'Products', exact: true }).click();
    await page.getByRole('tab', { name: 'Sources' }).click();
    const row = (name: string) =>
      page
        .getByRole('table', { name: 'Sources' })
        .getByRole('row')
        .filter({ has: page.getByText(name, { exact: true }) });
    await row('newsletter').getByText('11', { exact: true }).waitFor();
    await page.getByText('1 visit against 11').waitFor();
    await axe(page);
    await page.getByRole('button', { name: 'Count it as newsletter' }).click();
    await row('newsletter').getByText('12', { exact: true }).waitFor();
    await page.getByText('part', { exact: true }).click();
    await row('newsleter').getByText('1', { exact: true }).first().waitFor();
    await row('newsletter').getByText('11', { exact: true }).waitFor();
    // Somebody said that it is one of its own, so it is not offered again.
    expect(await page.getByRole('button', { name: 'Count it as newsletter' }).count()).toBe(0);
    await page.getByRole('button', { name: 'newsletter', exact: true }).click();
    await page.getByLabel('What it is').fill('The Thursday newsletter');
    await page.getByLabel('Channel').fill('mail');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('newsletter is described.').waitFor();
    await page.getByText('The Thursday newsletter').waitFor();
    // Who they were is one press away.
    await row('newsletter').getByRole('link', { name: '11', exact: true }).click();
    await expect.poll(() => new URL(page.url()).searchParams.get('with')).toBe('source:newsletter');
    await page
      .getByRole('list', { name: 'What became of all requests' })
      .getByText('11', { exact: true })
      .waitFor();
  });
});
