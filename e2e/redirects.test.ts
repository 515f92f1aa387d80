import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Running } from '../server/testing/process.ts';
import { freshFolder } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { startBrowser } from './browser.ts';
import { deskWithLink } from './desk.ts';

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
  await page.goto(`http://localhost:${server.port}/import`);
  await page.getByText('Drop files or a folder here').waitFor();
});

const files = {
  'go/kit.php': "<?php\n$to = 'https://polehouse.example/php-kit';\nheader('Location: ' . $to, true, 301);\n",
  'nginx/site.conf':
    'location = /from-nginx { return 302 https://polehouse.example/nginx; }\nif ($http_user_agent ~ bot) { return 301 https://polehouse.example/bots; }\n',
  Caddyfile:
    'see.nightledge.example {\n  handle /from-caddy {\n    redir https://polehouse.example/caddy\n  }\n}\n',
  'notes.txt': 'nothing of that kind',
};
const isRead = async () => {
  await page.getByText('3 rows are good').waitFor();
  const text = await page.getByRole('main').innerText();
  expect(text).toContain('PHP, nginx, Caddy');
  expect(text).toContain('It holds only under a condition, which a redirect brought in would lose.');
  expect(text).toContain('It holds no redirects of a kind that is known.');
};

describe('redirects of several files', () => {
  it('in a zip are read together, and become links', async () => {
    const zip = zipSync(
      Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)])),
    );
    await page
      .locator('input[type=file]')
      .setInputFiles({ name: 'old-site.zip', mimeType: 'application/zip', buffer: Buffer.from(zip) });
    await isRead();
    await page.getByRole('button', { name: 'Bring in 3 links' }).click();
    await page.getByText('All 4 links live').waitFor();
    const hops = await Promise.all(
      ['kit', 'from-nginx', 'from-caddy'].map((slug) =>
        send(`http://see.nightledge.localhost:${server.port}/${slug}`),
      ),
    );
    expect(hops.map(({ status, headers }) => [status, headers.location])).toEqual([
      [301, 'https://polehouse.example/php-kit'],
      [302, 'https://polehouse.example/nginx'],
      [302, 'https://polehouse.example/caddy'],
    ]);
  });

  it('in a folder that is dropped are read together', async () => {
    const folder = freshFolder();
    for (const [name, text] of Object.entries(files)) {
      mkdirSync(join(folder, name, '..'), { recursive: true });
      writeFileSync(join(folder, name), text);
    }
    const cdp = await context.newCDPSession(page);
    for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
      await cdp.send('Input.dispatchDragEvent', {
        type,
        x: 500,
        y: 300,
        data: { items: [], files: [folder], dragOperationsMask: 1 },
      });
    await page.getByText('3 rows are good').waitFor();
    await page.getByText('It holds only under a condition').first().waitFor();
  });
});
