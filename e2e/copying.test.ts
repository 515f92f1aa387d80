import { readFileSync } from 'node:fs';
import { AxeBuilder } from '@axe-core/playwright';
import type { ChangesPage } from '#core/catalogue';
import jsQR from 'jsqr';
import MarkdownIt from 'markdown-it';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { call, changeOf, readJournal, sendChanges } from '../server/client.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { clipboard, deskWithLink, pick } from './desk.ts';
import { article } from './testing/article.ts';

let browser: Browser;
let desk: Awaited<ReturnType<typeof deskWithLink>>;
beforeAll(async () => {
  browser = await startBrowser();
  desk = await deskWithLink(browser);
});
afterAll(async () => {
  await desk.context.close();
  await browser.close();
  await desk.server.stop();
});

/** Opens the menu of what the link can be copied as. */
const openMenu = async (page: Page, slug = 'saturn-kit') => {
  await page.getByRole('button', { name: 'Copy as', exact: true }).click();
  const menu = page.getByRole('dialog', { name: `Copy ${slug} as` });
  await menu.waitFor();
  return menu;
};
const copyAs = async (page: Page, form: string) => {
  const menu = await openMenu(page);
  await menu.getByText(form, { exact: true }).click();
  await page.getByText('copied').first().waitFor();
  await menu.waitFor({ state: 'hidden' });
};
/** Both kinds that lie on the clipboard. */
const kinds = (page: Page) =>
  page.evaluate(async () => {
    const [item] = await navigator.clipboard.read();
    return Object.fromEntries(
      await Promise.all(
        (item?.types ?? []).map(async (type) => [type, await (await item?.getType(type))?.text()]),
      ),
    ) as Record<string, string>;
  });
/** Changes a record elsewhere, on top of what the server has. */
const elsewhere = async (kind: 'link' | 'program', id: string, more: object) => {
  const { body } = await call(desk.server, 'GET', '/changes?after=0');
  const { changes }: ChangesPage = JSON.parse(body);
  const newest = changes.find(({ record }) => record === id);
  const { refused } = await sendChanges(desk.server, [
    changeOf(kind, { ...newest?.value, id, ...more }, (newest?.revision ?? 0) + 1),
  ]);
  expect(refused).toEqual([]);
};
const address = () => `http://see.nightledge.localhost:${desk.server.port}/saturn-kit`;

describe('a link', () => {
  it('is pasted as a link into a rich editor, and as its address into a text field, from one copying', async () => {
    const { page, context } = desk;
    await copyAs(page, 'Link');
    expect(await kinds(page)).toMatchObject({ 'text/plain': address() });
    const editor = await context.newPage();
    await editor.goto(`http://localhost:${desk.server.port}/mark.svg`);
    await editor.goto('about:blank');
    await editor.setContent('<div contenteditable id="rich"></div><textarea></textarea>');
    await editor.locator('#rich').focus();
    await editor.keyboard.press('ControlOrMeta+v');
    const link = editor.locator('#rich a');
    expect(await link.getAttribute('href')).toBe(address());
    expect(await link.innerText()).toBe('Saturn eyepiece kit');
    expect(await link.getAttribute('rel')).toBe('sponsored nofollow noopener');
    expect(await link.getAttribute('referrerpolicy')).toBe('no-referrer-when-downgrade');
    await editor.locator('textarea').focus();
    await editor.keyboard.press('ControlOrMeta+v');
    expect(await editor.locator('textarea').inputValue()).toBe(address());
    await editor.close();
    await page.bringToFront();
  });

  it('is copied as every code, with a source that nobody registered', async () => {
    const { page } = desk;
    const menu = await openMenu(page);
    await menu.getByLabel('Source').fill('spring flyer');
    await menu.getByText('A source is letters and digits').first().waitFor();
    await menu.getByLabel('Source').fill('flyer-2026');
    await menu.getByText(`${address()}~flyer-2026`, { exact: true }).waitFor();
    const found = await new AxeBuilder({ page }).include('.copying').analyze();
    expect(found.violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
    await menu.getByText('Markdown', { exact: true }).click();
    await vi.waitFor(async () => expect(await clipboard(page)).toMatch(/^\[/));
    const markdown = await clipboard(page);
    // Pasted into a Markdown editor, and drawn as such editors draw it.
    expect(new MarkdownIt().render(markdown)).toBe(
      `<p><a href="${address()}~flyer-2026">Saturn eyepiece kit</a></p>\n`,
    );
    await copyAs(page, 'Forum code');
    expect(await clipboard(page)).toBe(`[url=${address()}~flyer-2026]Saturn eyepiece kit[/url]`);
    await copyAs(page, 'Button');
    expect(await clipboard(page)).toContain('style="display:inline-block;');
    await copyAs(page, 'Text for a post');
    expect(await clipboard(page)).toBe(
      `Saturn eyepiece kit\n\nThis link pays me if you buy. You pay the same.\n\n${address()}~flyer-2026`,
    );
  });

  it('in an article tells the hop which page it stands on, and the network only which site', async () => {
    const { page, server } = desk;
    await copyAs(page, 'HTML');
    const site = await article(await clipboard(page));
    const reader = await freshPerson(browser);
    const headers: (string | undefined)[] = [];
    reader.on('request', (request) => {
      if (request.url().includes('t.harrowmead')) headers.push(request.headers().referer);
    });
    const reading = await reader.newPage();
    await reading.goto(site.url);
    const [shop] = await Promise.all([reader.waitForEvent('page'), reading.locator('a').click()]);
    await shop.getByRole('button', { name: 'Place order' }).waitFor();
    await vi.waitFor(async () => {
      const hops = (await readJournal(server)).filter(({ kind }) => kind === 'hop');
      expect(hops.at(-1)).toMatchObject({ source: 'flyer-2026', from: site.url });
    });
    expect(headers[0]).not.toContain('saturn-guide');
    await reader.close();
    site.close();
  });

  it('that is linked is a picture beside the article, and shown from elsewhere only when that is asked for', async () => {
    const { page } = desk;
    await elsewhere('link', 'lnk_saturn', { picture: 'https://polehouse.example/kit.webp' });
    const menu = await openMenu(page);
    await menu.getByText('Picture', { exact: true }).click();
    await menu.getByText('Save the picture').waitFor();
    await menu.getByLabel('What it shows').fill('');
    expect(await menu.getByRole('button', { name: 'Copy the picture' }).isDisabled()).toBe(true);
    await menu.getByLabel('What it shows').fill('The "kit" <on a table>');
    await menu.getByLabel('Width').fill('320');
    await pick(menu.getByRole('combobox', { name: 'Side' }), 'left, text beside it');
    await menu.getByRole('button', { name: 'Copy the picture' }).click();
    await vi.waitFor(async () => expect(await clipboard(page)).toContain('<img'));
    const copied = await clipboard(page);
    await page.evaluate((html) => {
      const box = document.createElement('div');
      box.id = 'pasted';
      box.innerHTML = html.replace('src=', 'data-src=');
      document.body.append(box);
    }, copied);
    const picture = page.locator('#pasted a > img');
    expect(await picture.getAttribute('data-src')).toBe('saturn-kit.webp');
    expect(await picture.getAttribute('alt')).toBe('The "kit" <on a table>');
    expect(await picture.getAttribute('width')).toBe('320');
    expect(await page.locator('#pasted a').getAttribute('rel')).toBe('sponsored nofollow noopener');
    await openMenu(page);
    await menu.getByText('Picture', { exact: true }).click();
    await menu.getByLabel(/Show it from polehouse\.example/).check();
    await menu.getByRole('button', { name: 'Copy the picture' }).click();
    await vi.waitFor(async () =>
      expect(await clipboard(page)).toContain('src="https://polehouse.example/kit.webp"'),
    );
  });

  it('is copied by keyboard alone, and the keyboard is back where it was', async () => {
    const { page } = desk;
    await page.evaluate(() => navigator.clipboard.writeText('what was there'));
    const button = page.getByRole('button', { name: 'Copy as', exact: true });
    await button.focus();
    await page.keyboard.press('Enter');
    const menu = page.getByRole('dialog', { name: 'Copy saturn-kit as' });
    await menu.getByRole('menuitem').first().and(page.locator(':focus')).waitFor();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Enter');
    await vi.waitFor(async () => expect(await clipboard(page)).toMatch(/^<a /));
    await page.keyboard.press('Enter');
    await menu.waitFor();
    await page.keyboard.press('Escape');
    await menu.waitFor({ state: 'hidden' });
    await button.and(page.locator(':focus')).waitFor();
  });

  it('keeps a shorter text of its own where the title is too long for a sentence', async () => {
    const { page } = desk;
    const menu = await openMenu(page);
    await menu
      .getByLabel('Linked text')
      .fill('The eyepiece kit for Saturn that we have recommended for eleven years');
    await menu.getByText('letters are long for a link in a sentence').waitFor();
    await menu.getByLabel('Linked text').fill('our eyepiece kit');
    await menu.getByText('Keep this text for the link').click();
    await page.getByText('“our eyepiece kit” is what saturn-kit is linked by.').waitFor();
    await page.keyboard.press('Escape');
    await menu.waitFor({ state: 'hidden' });
    await page.getByRole('button', { name: 'Copy', exact: true }).click();
    await vi.waitFor(async () => expect((await kinds(page))['text/html']).toContain('>our eyepiece kit</a>'));
  });
});

describe('a QR code', () => {
  it('of the link with its source is read back after scaling, blur and rotation, as PNG and as SVG', async () => {
    const { page } = desk;
    const menu = await openMenu(page);
    await menu.getByLabel('Source').fill('flyer-2026');
    await menu.getByText('QR code').click();
    const dialog = page.getByRole('dialog', { name: 'QR code' });
    await dialog.getByLabel('Width in millimetres').fill('60');
    await dialog.getByLabel('Dark').fill('#2c6a4c');
    const saved = async (button: string) => {
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        dialog.getByRole('button', { name: button }).click(),
      ]);
      return { name: download.suggestedFilename(), bytes: readFileSync(await download.path()) };
    };
    const png = await saved('Save PNG, 300 dpi');
    const svg = await saved('Save SVG');
    expect([png.name, svg.name]).toEqual(['saturn-kit-flyer-2026.png', 'saturn-kit-flyer-2026.svg']);
    expect(png.bytes.subarray(37, 41).toString()).toBe('pHYs');
    const inches = png.bytes.readUInt32BE(16) / (png.bytes.readUInt32BE(41) * 0.0254);
    expect(inches * 25.4).toBeGreaterThan(56);
    expect(inches * 25.4).toBeLessThanOrEqual(60);
    expect(svg.bytes.toString()).toContain('width="60mm"');
    const pictures = {
      png: `data:image/png;base64,${png.bytes.toString('base64')}`,
      svg: `data:image/svg+xml;base64,${svg.bytes.toString('base64')}`,
    };
    for (const [kind, picture] of Object.entries(pictures))
      for (const [scale, blur, degrees] of [
        [1, 0, 0],
        [0.35, 1, 0],
        [0.5, 1.5, 11],
        [0.8, 2, 45],
        [0.5, 1, 187],
      ] as const) {
        const seen = await page.evaluate(
          async (how) => {
            const image = new Image();
            image.src = how.picture;
            await image.decode();
            const side = Math.ceil(Math.hypot(image.width, image.height) * how.scale);
            const canvas = document.createElement('canvas');
            canvas.width = canvas.height = side;
            const context = canvas.getContext('2d');
            if (!context) throw new Error('nothing is drawn');
            context.fillStyle = '#d8d4c8';
            context.fillRect(0, 0, side, side);
            context.filter = `blur(${how.blur}px)`;
            context.translate(side / 2, side / 2);
            context.rotate((how.degrees * Math.PI) / 180);
            context.scale(how.scale, how.scale);
            context.drawImage(image, -image.width / 2, -image.height / 2);
            // One grey a dot, as text: a list of numbers takes a minute to hand over.
            const { data } = context.getImageData(0, 0, side, side);
            let greys = '';
            for (let at = 0; at < data.length; at += 4)
              greys += String.fromCharCode(
                Math.round(((data[at] ?? 0) + (data[at + 1] ?? 0) + (data[at + 2] ?? 0)) / 3),
              );
            return { side, greys: btoa(greys) };
          },
          { picture, scale: kind === 'svg' ? scale * 3 : scale, blur, degrees },
        );
        const greys = Buffer.from(seen.greys, 'base64');
        const pixels = new Uint8ClampedArray(greys.length * 4);
        greys.forEach((grey, at) => pixels.set([grey, grey, grey, 255], at * 4));
        expect(jsQR(pixels, seen.side, seen.side)?.data, `${kind} at ${scale}, ${blur} px, ${degrees}°`).toBe(
          `${address()}~flyer-2026`,
        );
      }
    await dialog.getByLabel('Dark').fill('#a8d8b8');
    await dialog.getByText('It is read from 4 on.').waitFor();
    expect(await dialog.getByRole('button', { name: 'Save SVG' }).isDisabled()).toBe(true);
    const found = await new AxeBuilder({ page }).include('.qr').analyze();
    expect(found.violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
    await dialog.getByRole('button', { name: 'Close' }).click();
    await dialog.waitFor({ state: 'hidden' });
  });
});

describe('what a merchant asks', () => {
  it('is held to: its name in the text, nothing on social pages, the tracking link as it is', async () => {
    const { page } = desk;
    const rules = { cloak: false, name: 'Polehouse', ownLinks: false, mail: true, social: false };
    await elsewhere('program', 'prg_polehouse', { rules });
    await page.getByText('forbids cloaking').first().waitFor();
    const menu = await openMenu(page);
    // Its usual words have the name; others are refused without it.
    expect(await menu.getByLabel('Linked text').inputValue()).toBe('our eyepiece kit, Polehouse');
    await menu.getByLabel('Linked text').fill('our kit');
    await menu.getByText('wants “Polehouse” to be read in the linked text.').first().waitFor();
    expect(await menu.getByRole('menuitem').filter({ hasText: 'HTML' }).getAttribute('aria-disabled')).toBe(
      'true',
    );
    await menu.getByText('Polehouse Optics does not allow its links on social pages.').waitFor();
    await menu.getByRole('button', { name: 'Add “Polehouse”' }).click();
    await menu.getByText('HTML', { exact: true }).click();
    await vi.waitFor(async () => expect(await clipboard(page)).toContain('>our kit, Polehouse</a>'));
    const html = await clipboard(page);
    expect(html).toContain('href="http://t.harrowmead.localhost');
    expect(html).toContain('ref2=flyer-2026');
    expect(html).toContain('data-fernhop="lnk_saturn" data-click="ref1"');
    // A network is not told the page.
    expect(html).not.toContain('referrerpolicy');
  });
});

describe('several links', () => {
  it('are copied as a table, those that may not stand there left out and said', async () => {
    const { page, server, records } = desk;
    const { program: _, ...free } = records.link;
    const rules = { cloak: true, name: '', ownLinks: true, mail: true, social: true };
    await elsewhere('program', 'prg_polehouse', { rules });
    await page.getByText('allows only short links of its own').first().waitFor();
    await sendChanges(server, [
      changeOf('link', { ...free, id: 'lnk_lamp', slug: 'red-lamp', aliases: [], title: 'Red | lamp' }),
    ]);
    await page.getByText('red-lamp').first().waitFor();
    await page.getByRole('button', { name: 'Change many' }).click();
    await page.getByRole('button', { name: 'Pick all 2 shown' }).click();
    await page.getByRole('button', { name: 'Markdown table' }).click();
    await page.getByText('1 link is copied. saturn-kit is left out:').waitFor();
    const table = new MarkdownIt().render(await clipboard(page));
    expect(table).toContain(`/red-lamp">Red | lamp</a></td>`);
    expect((await kinds(page))['text/html']).toContain('<table>');
  });
});

describe('while something is written elsewhere', () => {
  it('a bookmarklet opens a small search, and Enter leaves the link on the clipboard', async () => {
    const { page, server, context } = desk;
    await page.goto(`http://localhost:${server.port}/programs`);
    const script = await page.getByRole('link', { name: 'Copy a link' }).getAttribute('href');
    const site = await article('<textarea></textarea><span contenteditable id="rich"></span>');
    const writing = await context.newPage();
    await writing.goto(site.url);
    const [small] = await Promise.all([
      context.waitForEvent('page'),
      // What a browser does with a bookmarklet: it runs the script in the page.
      writing.evaluate((code) => {
        const anchor = document.createElement('a');
        anchor.href = code;
        document.body.append(anchor);
        anchor.click();
      }, script ?? ''),
    ]);
    const field = small.getByLabel('Slug, title or program');
    await field.and(small.locator(':focus')).waitFor();
    // Nothing but the search: no rail, no tape.
    expect(await small.getByRole('navigation').count()).toBe(0);
    await small.getByRole('option').nth(1).waitFor();
    await field.fill('lamp');
    await expect.poll(() => small.getByRole('option').count()).toBe(1);
    const found = await new AxeBuilder({ page: small }).analyze();
    expect(found.violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html}`)).toEqual([]);
    await Promise.all([small.waitForEvent('close'), field.press('Enter')]);
    await writing.bringToFront();
    await writing.locator('textarea').focus();
    await writing.keyboard.press('ControlOrMeta+v');
    expect(await writing.locator('textarea').inputValue()).toBe(
      `http://see.nightledge.localhost:${server.port}/red-lamp`,
    );
    await writing.locator('#rich').focus();
    await writing.keyboard.press('ControlOrMeta+v');
    expect(await writing.locator('#rich a').innerText()).toBe('Red | lamp');
    await writing.close();
    site.close();
    await page.bringToFront();
  });

  it('two keys do the same from anywhere in the application, while typing too', async () => {
    const { page } = desk;
    await page.evaluate(() => navigator.clipboard.writeText('what was there'));
    await page.getByLabel('Paste bar').focus();
    await page.keyboard.press('ControlOrMeta+k');
    const dialog = page.getByRole('dialog', { name: 'Copy a link' });
    await dialog.getByLabel('Slug, title or program').and(page.locator(':focus')).waitFor();
    await page.keyboard.type('nothing has this');
    await dialog.getByText('No link has “nothing has this” in it.').waitFor();
    await page.keyboard.press('Enter');
    await page.keyboard.press('Escape');
    await dialog.waitFor({ state: 'hidden' });
    expect(await clipboard(page)).toBe('what was there');
    await page.keyboard.press('ControlOrMeta+k');
    await dialog.getByLabel('Slug, title or program').fill('lamp');
    await page.keyboard.press('Enter');
    await vi.waitFor(async () => expect(await clipboard(page)).toContain('/red-lamp'));
    await dialog.waitFor({ state: 'hidden' });
  });
});
