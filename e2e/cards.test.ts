import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CardProduct } from '#core/placing';
import { cardClip, cardLayouts, cardLookOf, comparisonClip } from '#core/placing';
import { freshPerson, startBrowser } from './browser.ts';

/** Pages whose own rules are in the way of everything that stands in them. */
const hostilePages: Readonly<Record<string, string>> = {
  'everything important':
    '* { color: red !important; font: 30px/3 fantasy !important; margin: 9px !important; padding: 7px !important; border: 2px dashed lime !important; float: right !important; background: yellow !important; box-shadow: 0 0 9px red !important }',
  'rules that weigh much':
    '#content#content#content div, #content#content#content a, #content#content#content img, #content#content#content li, #content#content#content span { display: none !important; position: absolute !important; width: 1px !important; height: 1px !important; transform: rotate(9deg) !important; opacity: 0.1 !important }',
  'things put in before and behind':
    '#content a[target]::after { content: " ↗ new window" !important } #content *::before { content: "§" !important; display: block !important } #content div::first-letter { font-size: 4em !important; float: left !important; color: red !important } #content a::first-line { text-transform: uppercase; color: red }',
  'layers of importance':
    '@layer base { * { letter-spacing: 0.3em !important; text-transform: uppercase !important; line-height: 4 !important; background: lime !important; border-radius: 50% !important; aspect-ratio: 1 !important } }',
  'what is inherited, and what moves':
    'main { font: italic 40px/3 cursive; color: pink; text-align: right; word-spacing: 20px; text-shadow: 0 0 9px red; white-space: pre; letter-spacing: 9px; text-indent: 90px; font-variant: small-caps; list-style: square inside } @keyframes turn { from, to { transform: rotate(90deg); opacity: 0.2; color: red } } main * { transition: all 10s; animation: turn 5s infinite }',
  'a dark page with a look of its own':
    'body { background: #000; color: #fff } img { filter: invert(1) !important; border-radius: 50% !important; max-width: 40px !important; object-fit: cover !important } a:link, a:visited { color: #0ff !important; text-decoration: none !important } ul, li { list-style: square !important; padding-left: 40px !important; max-width: 50px !important } li::marker { content: "✱ " !important } s { text-decoration: none !important } s::after { content: "!" }',
};
const picture =
  'data:image/svg+xml,%3Csvg xmlns="http://www.w3.org/2000/svg" width="120" height="90"%3E%3Crect width="120" height="90" fill="navy"/%3E%3Ccircle cx="60" cy="45" r="30" fill="wheat"/%3E%3C/svg%3E';
const card: CardProduct = {
  product: {
    name: 'Saturn eyepiece kit',
    about: 'Two eyepieces and a Barlow lens, the cheapest way past 150×.',
    price: { amount: 17_290, currency: 'EUR', day: '2026-11-12', list: 18_900 },
    coupon: { code: 'NIGHT10' },
  },
  shop: 'Polehouse Optics',
  link: {
    address: 'https://see.nightledge.example/saturn-kit',
    text: 'Saturn eyepiece kit',
    marks: { rel: ['sponsored'], newTab: true, title: '' },
    referrer: 'page',
  },
  picture,
};
const look = cardLookOf({});
const today = '2026-11-20';
const kinds = {
  ...Object.fromEntries(cardLayouts.map((layout) => [layout, cardClip(card, layout, look, today).html])),
  comparison: comparisonClip([card, card, card], look, today).html,
};

let browser: Browser;
let page: Page;
beforeAll(async () => {
  browser = await startBrowser();
  page = await (await freshPerson(browser, { viewport: { width: 900, height: 900 } })).newPage();
});
afterAll(() => browser.close());

const article = '<h1>Seeing the rings</h1><p>Saturn is small, <a href="/x" target="_blank">they say</a>.</p>';
/** Behind its round corners a card shows the page, so that is the same everywhere. */
const ground =
  'position: absolute; left: 40px; top: 40px; display: block; width: 640px; background: #fff; float: none; margin: 20px; padding: 10px; border: 0; box-shadow: none; border-radius: 0; aspect-ratio: auto'
    .split('; ')
    .map((rule) => `${rule} !important`)
    .join('; ');
/** A page of a style with something in it, as a picture of a part of it. */
const drawn = async (style: string, inside: string, part: string): Promise<Buffer> => {
  await page.setContent(
    `<!doctype html><style>html, body { margin: 0 }</style><style>${style}</style><main id="content" style="${ground}">${inside}</main>`,
  );
  const clip = await page
    .locator(part)
    .first()
    .evaluate((element) => {
      const { x, y, width, height } = element.getBoundingClientRect();
      return { x, y, width, height };
    });
  // What is not shown has no picture.
  return clip.width > 0 && clip.height > 0 ? page.screenshot({ clip }) : Buffer.alloc(0);
};

describe('a card on a page of somebody else', () => {
  for (const [name, style] of Object.entries(hostilePages))
    it(`looks as it does everywhere: ${name}`, async () => {
      for (const [kind, html] of Object.entries(kinds)) {
        const plain = await drawn('', html, '.fernhop-card');
        const hostile = await drawn(style, html, '.fernhop-card');
        expect(hostile.equals(plain), kind).toBe(true);
      }
    });

  it('changes nothing of the page', async () => {
    for (const style of ['', ...Object.values(hostilePages)]) {
      // What moves is drawn anew each time, so it is left still here.
      const still = style.replace('transition: all 10s; animation: turn 5s infinite', '');
      const before = await drawn(still, article, '#content');
      const guard = /<style>.*?<\/style>/s.exec(kinds.comparison)?.[0] ?? '';
      expect(guard).not.toBe('');
      const after = await drawn(still, article + guard, '#content');
      expect(after.equals(before)).toBe(true);
    }
  });

  it('would be upset without what guards it', async () => {
    const { 'picture left': html = '' } = kinds as Record<string, string>;
    const plain = await drawn('', html, '.fernhop-card');
    for (const [name, style] of Object.entries(hostilePages)) {
      const bare = html.replace(/<style>.*?<\/style>/s, '').replaceAll('!important', '');
      const upset = await drawn(style, bare, '.fernhop-card');
      expect(upset.equals(plain), name).toBe(false);
    }
  });

  it('shows where the keyboard is, and fits a phone', async () => {
    const { 'picture left': html = '', comparison } = kinds as Record<string, string>;
    const plain = await drawn('', html, '.fernhop-card');
    await page.keyboard.press('Tab');
    expect((await page.locator('.fernhop-card').screenshot()).equals(plain)).toBe(false);
    await page.setViewportSize({ width: 390, height: 800 });
    for (const each of [html, comparison ?? '']) {
      await page.setContent(
        `<!doctype html><meta name="viewport" content="width=device-width"><body>${each}</body>`,
      );
      expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
    }
    await page.setViewportSize({ width: 900, height: 900 });
  });
});
