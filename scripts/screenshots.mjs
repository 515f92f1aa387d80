// Takes the pictures of docs/screenshots from a running demo: node scripts/screenshots.mjs PORT KEY
import { chromium } from 'playwright-core';

const [port = '4600', key = ''] = process.argv.slice(2);
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
await take('dark', '/links/lnk_saturnkit', { dark: true });
await take('phone', '/links/lnk_saturnkit', { phone: true });
await take('edit', '/links/lnk_saturnkit', {
  act: async (page) => {
    await page.getByRole('button', { name: 'Edit hop' }).click();
    await page.getByRole('checkbox').first().click();
  },
});
await take('paste', '/links', {
  act: async (page) => {
    const tracking = `http://t.harrowmead.localhost:${Number(port) + 1}/r?by=nl-4471&deal=2111&ref1=&ref2=&page=http%3A%2F%2Fcindermitt.localhost`;
    await page.keyboard.press('/');
    await page.keyboard.insertText(tracking);
  },
});
await take('journey', '/links/lnk_saturnkit', { act: toJourney });
await take('programs', '/programs/net_harrowmead');
await take('setup', '/setup');
await browser.close();
