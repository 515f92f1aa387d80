import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import QRCode from 'qrcode';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Running } from '../server/testing/process.ts';
import { freshFolder } from '../server/testing/process.ts';
import { startBrowser } from './browser.ts';
import { deskWithLink, paste } from './desk.ts';

let browser: Browser;
let server: Running;
let context: BrowserContext;
let page: Page;

beforeAll(async () => {
  browser = await startBrowser();
  ({ server, context, page } = await deskWithLink(browser, '/links'));
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});
beforeEach(async () => {
  await page.goto(`http://localhost:${server.port}/links`);
  await page.getByText('saturn-kit', { exact: true }).waitFor();
  await page.locator('h1').click();
});

const rows = () => page.getByLabel('What the lines are').getByRole('listitem').allInnerTexts();
const field = () => page.getByLabel('Links, pages of shops').inputValue();
const bar = () => page.getByLabel('Paste bar').inputValue();
/** Puts something into the real clipboard as another program would, and pastes it. */
const pasteItem = async (items: Record<string, string>) => {
  await page.evaluate(async (parts) => {
    const blobOf = (type: string, data: string): Blob => {
      const base64 = /^data:.*;base64,(.*)$/.exec(data)?.[1];
      if (base64 === undefined) return new Blob([data], { type });
      return new Blob([Uint8Array.from(atob(base64), (byte) => byte.charCodeAt(0))], { type });
    };
    const blobs = Object.entries(parts).map(([type, data]) => [type, blobOf(type, data)] as const);
    await navigator.clipboard.write([new ClipboardItem(Object.fromEntries(blobs))]);
  }, items);
  await page.keyboard.press('ControlOrMeta+v');
};

describe('a paste of many lines', () => {
  it('says of each what it is; one press makes what can be made, and the rest stays in the field', async () => {
    await paste(
      page,
      [
        'Links for Thursday',
        'https://go.farrow.example/x?m=881&who=nl-9&u=https%3A%2F%2Fshop.example%2Fred&end=',
        '<a href="https://go.farrow.example/x?m=902&amp;who=nl-9">',
        '  <img src="https://img.farrow.example/b.png" width="300" height="250" alt="Green torch">',
        '</a>',
        `see.nightledge.localhost/saturn-kit~flyer`,
        'They have it too: https://other.example/lamp.',
      ].join('\n'),
    );
    await page.getByText('5 lines').first().waitFor();
    await page.keyboard.press('Enter');
    await page.getByText('3 links to make, 1 here already, 1 not read').waitFor();
    expect((await rows()).map((row) => row.split(/\s+/)[0])).toEqual(['1', '2', '3–5', '6', '7']);
    expect((await rows())[0]).toContain('There is no address in it.');
    await page.getByRole('button', { name: 'Make 3 links' }).click();
    await page.getByText('3 links are made. What is no new link stays in the field.').waitFor();
    expect(await field()).toBe('Links for Thursday\nsee.nightledge.localhost/saturn-kit~flyer');
    await page.goto(`http://localhost:${server.port}/links`);
    await page.getByText('green-torch', { exact: true }).waitFor();
    await page.keyboard.press('ControlOrMeta+z');
  });

  it('cells of a spreadsheet bring their titles', async () => {
    await paste(page, 'Moon filter\thttps://other.example/m?id=4\nRed torch\thttps://other.example/t?id=5');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Make 2 links' }).click();
    await page.getByText('moon-filter', { exact: true }).waitFor();
    await page.getByText('red-torch', { exact: true }).waitFor();
  });
});

describe('the clipboard', () => {
  it('as rich text gives the addresses behind its words', async () => {
    await pasteItem({
      'text/plain': 'A torch and a chair',
      'text/html':
        '<p><a href="https://other.example/torch?a=1&amp;b=">A torch</a> and <a href="https://other.example/chair">a chair</a></p>',
    });
    await page.getByText('2 lines').first().waitFor();
    await page.keyboard.press('Enter');
    await page.getByText('2 links to make').waitFor();
    expect(await field()).toBe(
      'A torch\thttps://other.example/torch?a=1&b=\na chair\thttps://other.example/chair',
    );
  });

  it('as a picture of a QR code gives what it holds', async () => {
    const address = 'https://other.example/qr?x=%20y&end=';
    await pasteItem({ 'image/png': await QRCode.toDataURL(address, { width: 900, margin: 30 }) });
    await page.waitForFunction(
      () => document.querySelector<HTMLInputElement>('[aria-label="Paste bar"]')?.value !== '',
    );
    expect(await bar()).toBe(address);
    await pasteItem({
      'image/png':
        'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    });
    await page.getByText('No QR code can be read in').waitFor();
    expect(await bar()).toBe(address);
  });
});

describe('a dropped file', () => {
  const drop = async (...files: string[]) => {
    const cdp = await context.newCDPSession(page);
    for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
      await cdp.send('Input.dispatchDragEvent', {
        type,
        x: 400,
        y: 400,
        data: { items: [], files, dragOperationsMask: 1 },
      });
  };
  const file = (name: string, content: string | Buffer) => {
    const path = join(freshFolder(), name);
    writeFileSync(path, content);
    return path;
  };

  it('goes to the paste bar: text, a page, and a picture of a QR code', async () => {
    const code = await QRCode.toBuffer('https://other.example/from-qr', { width: 400 });
    await drop(
      file('links.txt', 'https://other.example/one\nhttps://other.example/two\n'),
      file('page.html', '<p>See <a href="https://other.example/three">three</a></p>'),
      file('code.png', code),
    );
    await page.getByText('4 lines').first().waitFor();
    await page.keyboard.press('Enter');
    await page.getByText('4 links to make').waitFor();
    expect(await field()).toBe(
      'https://other.example/one\nhttps://other.example/two\nthree\thttps://other.example/three\nhttps://other.example/from-qr',
    );
  });

  it('that holds neither is named, and nothing of the page is lost', async () => {
    await drop(file('x.bin', Buffer.from([1, 0, 2])));
    await page.getByText('x.bin is neither text nor a picture of a QR code.').waitFor();
    expect(page.url()).toContain('/links');
  });
});
