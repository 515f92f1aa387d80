// Takes the pictures of docs/screenshots from a running demo: node scripts/screenshots.mjs PORT KEY DATA_DIR
import { chromium } from 'playwright-core';

const [port = '4600', key = '', folder = './data'] = process.argv.slice(2);
const flags =
  '--no-sandbox --disable-gpu --disable-quic --disable-background-networking --disable-component-update --disable-sync --no-first-run';
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: flags.split(' ') });

/** Opens a view as a person with the key, does what is asked, and takes its picture. */
const take = async (name, path, { dark = false, phone = false, act = async () => undefined } = {}) => {
  const context = await browser.newContext({
    viewport: phone ? { width: 390, height: 844 } : { width: 1280, height: 800 },
    colorScheme: dark ? 'dark' : 'light',
    locale: 'en-GB',
    timezoneId: 'Europe/Berlin',
    reducedMotion: 'reduce',
  });
  const page = await context.newPage();
  await page.goto(`http://localhost:${port}${path}#key=${key}`);
  await page.getByText(/All \d+ links live/).waitFor();
  await page.waitForTimeout(800);
  // The pictures are of a journal that is whole.
  await page
    .getByLabel('Live events, newest first')
    .getByText('now', { exact: true })
    .waitFor({ timeout: 60_000 });
  await act(page);
  await page.waitForTimeout(500);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
  await context.close();
};

const toJourney = async (page) => {
  await page.getByRole('list', { name: 'Newest conversions' }).getByRole('link').nth(3).click();
  await page.getByText('Journey of a click').waitFor();
};
await take('links', '/links/lnk_saturnkit');
await take('phone', '/links/lnk_saturnkit', { phone: true, dark: true });
await take('paste', '/links', {
  act: async (page) => {
    const tracking = `http://t.harrowmead.localhost:${Number(port) + 1}/r?by=nl-4471&deal=2111&ref1=&ref2=&page=http%3A%2F%2Fcindermitt.localhost`;
    await page.keyboard.press('/');
    await page.keyboard.insertText(tracking);
  },
});
const toTable = (name) => (page) => page.getByRole('table', { name }).waitFor();
await take('branches', '/links/lnk_firstscope', { act: toTable('Which branch') });
await take('promotion', '/decide/promotions/prm_starnights', { act: toTable('By source') });
await take('writers', '/decide/writers?month=2026-10&writer=Maren', { act: toTable('By link') });
await take('pages', '/place/pages', {
  act: async (page) => {
    await page.getByText('Everything we carry into the dark').waitFor();
    const row = page
      .getByRole('row')
      .filter({ hasText: `:${Number(port) + 1}/saturn-guide` })
      .first();
    await row.getByRole('button').click();
  },
});
await take('articles', '/place/articles', {
  act: async (page) => {
    await page
      .locator('input[type=file][accept*=html]')
      .first()
      .setInputFiles(`${folder}/articles/saturn-guide.html`);
    await page.getByRole('region', { name: 'Finds' }).waitFor();
    await page.frameLocator('iframe[title="The article as it reads"]').locator('p').first().waitFor();
  },
});
await take('traffic', '/traffic?at=newsletter&chart=outcomes', {
  act: (page) => page.getByText('Newest visits').waitFor({ state: 'attached' }),
});
await take('products', '/place/products/pro_saturnkit');
await take('sources', '/place/sources', {
  act: async (page) => {
    await page.getByRole('button', { name: 'bought-b', exact: true }).click();
    await page.getByText('Read them so').waitFor();
  },
});
await take('journey', '/links/lnk_saturnkit', { act: toJourney });
await take('reconcile', '/reconcile/net_kelvane/2026-09', {
  act: (page) => page.getByRole('link', { name: /^Sent twice/ }).click(),
});
await take('ledger', '/ledger/net_kelvane/2026-09');
await take('payments', '/payments/net_harrowmead', {
  act: async (page) => {
    await page.getByLabel('Amount').fill('1250.00');
    await page.getByRole('button', { name: 'Note it' }).click();
  },
});
await take('report', '/report/net_harrowmead', {
  act: (page) =>
    page.locator('input[type=file]').setInputFiles({
      name: 'transactions-december.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(
        [
          'Nightledge account nl-4471',
          'Transactions December 2026',
          '',
          'Order No;Item;Click date;Event date;Basket value;Value;Currency;State;Sub ID',
          'HM-90021;Lamp;30.11.2026;02.12.2026;100,00;3,00;EUR;passed;shop|01M6EN89WRDFK37TE6HTZK5RD8',
          'HM-90021;Shade;30.11.2026;02.12.2026;150,00;4,50;EUR;passed;shop|01M6EN89WRDFK37TE6HTZK5RD8',
          'HM-90022;Tripod;01.12.2026;16.12.2026;20,00;0,60;EUR;open;shop|01M6H1PM9VY3YXAA81SEDTQ1MA',
          'HM-90022;Tripod;01.12.2026;20.12.2026;-10,00;-0,30;EUR;open;shop|01M6H1PM9VY3YXAA81SEDTQ1MA',
          'Total;;;;260,00;7,80;;;',
        ].join('\n'),
      ),
    }),
});
await take('programs', '/programs/net_harrowmead');
await take('decide', '/decide?at=podcast', {
  act: (page) => page.locator('svg.apexcharts-svg .apexcharts-series path').first().waitFor(),
});
await take('setup', '/setup', {
  // What is kept, of the server and what can be proved: the lower half.
  act: (page) => page.locator('#h-evidence').scrollIntoViewIfNeeded(),
});
await browser.close();
