import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { AxeBuilder } from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { addressesIn } from '#core/articles';
import type { Running } from '../server/testing/process.ts';
import { startBrowser } from './browser.ts';
import { deskWithLink, pick } from './desk.ts';

let browser: Browser;
let server: Running;
let page: Page;
const files = (list: Record<string, string | Buffer>) =>
  Object.entries(list).map(([name, text]) => ({ name, mimeType: 'text/html', buffer: Buffer.from(text) }));
const finds = () => page.getByRole('region', { name: 'Finds' });
const article = () => page.frameLocator('iframe[title="The article as it reads"]');
const input = () => page.locator('input[type=file][accept*=html]').first();
let destination = '';
/** A page of the joined shop that has a link. */
let shop = '';

beforeAll(async () => {
  browser = await startBrowser();
  const desk = await deskWithLink(browser, '/links/lnk_saturn', { acceptDownloads: true });
  ({ server, page } = desk);
  ({ destination } = desk.records.link);
  shop = new URL(destination).searchParams.get('page') ?? '';
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

describe('articles', () => {
  it('keywords are given to a link where it is edited', async () => {
    await page.getByRole('button', { name: 'More', exact: true }).first().click();
    await page.getByRole('button', { name: 'In articles' }).click();
    const form = page.getByRole('form', { name: 'In articles' });
    const box = form.getByRole('combobox', { name: 'Keywords' });
    await box.fill('eyepiece');
    await box.press('Enter');
    await box.press('Escape');
    await form.getByRole('button', { name: 'Keep' }).click();
    await page.getByText('Articles are read by these words from now on.').waitFor();
  });

  it('is read, shown without running anything, and only what is accepted is saved', async () => {
    const asked: string[] = [];
    page.on('request', (request) => asked.push(request.url()));
    await page.goto(`http://localhost:${server.port}/place/articles`);
    const before =
      '\uFEFF<!doctype html>\r\n<title>x</title><script>document.documentElement.dataset.ran = 1; parent.document.title = "ran"</script>' +
      `<h1>Rings</h1>\r\n<p onclick="alert(1)">An eyepiece &eacute; ${'night '.repeat(120)} and <a HREF='${destination.replaceAll('&', '&amp;')}'>the kit</a>. <img src="https://elsewhere.example/a.png" onerror="parent.document.title='ran'"></p>\r\n<p>Unclosed <b>bold`;
    await input().setInputFiles(files({ 'saturn-guide.html': before }));
    await finds().getByText('Raw tracking link').waitFor();
    await article().getByText('An eyepiece').waitFor();
    expect(await article().locator('script, [onclick], img').count()).toBe(0);
    expect(await page.title()).not.toBe('ran');
    expect(asked.filter((url) => url.includes('elsewhere.example'))).toEqual([]);

    // The keyword alone.
    await finds().locator('li', { hasText: '“eyepiece”' }).getByRole('button', { name: 'Use' }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save copy' }).click(),
    ]);
    expect(download.suggestedFilename()).toBe('saturn-guide.html');
    const after = readFileSync(await download.path(), 'utf8');
    const taken = after.replace(/<a href="http:\/\/[^"]*~saturn-guide"[^>]*>eyepiece<\/a>/, 'eyepiece');
    expect(after).not.toBe(before);
    expect(taken).toBe(before);
  });

  it('is compared as text before and after', async () => {
    await page.getByRole('button', { name: 'Compare' }).click();
    await page.getByLabel('After').getByText('~saturn-guide').first().waitFor();
    expect(await page.getByLabel('Before').getByText('~saturn-guide').count()).toBe(0);
    await page.getByRole('button', { name: 'Back to the article' }).click();
  });

  it('a find is chosen in the article as in the list, refused for good, and that is undone', async () => {
    await article().locator('mark', { hasText: 'the kit' }).click();
    await finds().locator('li.chosen', { hasText: 'Raw tracking link' }).waitFor();
    await finds()
      .locator('li', { hasText: '“eyepiece”' })
      .getByRole('button', { name: /^More for/ })
      .click();
    await page.getByText('Refuse always', { exact: true }).click();
    await finds().getByText('“eyepiece”').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Undo' }).click();
    await finds().getByText('“eyepiece”').waitFor();
    const { violations } = await new AxeBuilder({ page: page as never })
      .exclude('iframe')
      .exclude('.v-snackbar')
      .analyze();
    expect(violations.filter(({ impact }) => impact === 'serious' || impact === 'critical')).toEqual([]);
  });

  it('many are listed, and what cannot be read says why', async () => {
    await page.goto(`http://localhost:${server.port}/place/articles`);
    await input().setInputFiles(
      files({
        'one.md': '# One\n\nAn eyepiece.\n',
        'two.html': '<p>Nothing.',
        'picture.html': Buffer.from([0x89, 0x50, 0x4e, 0x47, 0]),
        'wrong.html': Buffer.from([...Buffer.from('<meta charset="utf-8"><p>An eyepiece '), 0xf6]),
        'blog.xml': `<?xml version="1.0"?><rss><channel><item><title>First</title><content:encoded><![CDATA[<p>An eyepiece</p>]]></content:encoded></item><item><title>Cut</title><content:encoded><![CDATA[<p>An`,
      }),
    );
    await page.getByText(/It is a picture, not an article/).waitFor();
    await page.getByRole('row', { name: /one\.md/ }).waitFor();
    expect(await page.getByRole('row', { name: /two\.html/ }).innerText()).toMatch(/none/);
    await page.getByRole('row', { name: /First/ }).waitFor();
    // A person says what its letters are written in.
    await page.getByText(/says it is UTF-8, and is not/).waitFor();
    await pick(page.getByLabel('What wrong.html is written in'), 'windows-1252');
    await page.getByRole('row', { name: /wrong\.html/ }).waitFor();
    await page.getByRole('link', { name: 'First' }).click();
    await page.getByText('The export ends within “Cut”: it was cut short.', { exact: false }).waitFor();
  });

  it('a page of the shop without a link gets one, and is found with it then', async () => {
    await page.goto(`http://localhost:${server.port}/place/articles`);
    const fresh = shop.replace(/[^/]*$/, 'brand-new');
    await input().setInputFiles(files({ 'new.html': `<p><a href="${fresh}">new</a>` }));
    await finds().getByRole('button', { name: 'Make link' }).click();
    await finds().locator('li', { hasText: 'Shop address →' }).waitFor();
    await finds().getByRole('button', { name: 'Use' }).waitFor();
  });

  it('a pasted text is looked at, and copied with what was accepted', async () => {
    await page.goto(`http://localhost:${server.port}/place/articles`);
    await page.getByRole('button', { name: 'Paste one' }).click();
    await page.getByLabel('HTML or Markdown').fill('An *eyepiece* here.');
    await page.getByRole('button', { name: 'Look at it' }).click();
    await finds().getByRole('button', { name: 'Accept 2' }).click();
    await page.getByRole('button', { name: 'Copy', exact: true }).click();
    await page.getByText('The article is on the clipboard.').waitFor();
    expect(await page.evaluate(() => navigator.clipboard.readText())).toMatch(
      /^Some links on this page pay us if you buy\. It costs you nothing\.\n\nAn \*\[eyepiece\]\(http:\/\/[^~)]*\)\* here\.$/,
    );
  });

  it('a folder is written over, put back, and never over what somebody else wrote', async () => {
    await page.goto(`http://localhost:${server.port}/place/articles`);
    // A folder of the browser's own stands for the one a person would choose; its files are as real.
    await page.evaluate(async () => {
      const root = await navigator.storage.getDirectory();
      const folder = await root.getDirectoryHandle('site', { create: true });
      const posts = await folder.getDirectoryHandle('posts', { create: true });
      const write = async (inside: FileSystemDirectoryHandle, name: string, text: string) => {
        const stream = await (await inside.getFileHandle(name, { create: true })).createWritable();
        await stream.write(text);
        await stream.close();
      };
      await write(posts, 'rings.md', 'Rings.\r\n\r\nAn eyepiece.\r\n');
      await write(folder, 'style.css', 'eyepiece');
      (window as unknown as { showDirectoryPicker: unknown }).showDirectoryPicker = async () => folder;
    });
    const text = () =>
      page.evaluate(async () => {
        const root = await navigator.storage.getDirectory();
        const posts = await (await root.getDirectoryHandle('site')).getDirectoryHandle('posts');
        return (await (await posts.getFileHandle('rings.md')).getFile()).text();
      });
    await page.getByRole('button', { name: 'Open a folder' }).click();
    await page.getByRole('heading', { name: 'posts/rings.md' }).waitFor();
    await finds().getByRole('button', { name: 'Accept 2' }).click();
    await page.getByRole('button', { name: 'Save over it' }).click();
    await page.getByText('It is written.').waitFor();
    await finds().getByText('Nothing to do').waitFor();
    expect(await text()).toMatch(
      /^Rings\.\r\n\r\nSome links [^\r]*\r\n\r\nAn \[eyepiece\]\([^)]*~rings\)\.\r\n$/,
    );
    await page.getByRole('button', { name: 'Undo' }).click();
    await finds().getByText('“eyepiece”').waitFor();
    expect(await text()).toBe('Rings.\r\n\r\nAn eyepiece.\r\n');

    await finds().getByRole('button', { name: 'Accept 2' }).click();
    await page.evaluate(async () => {
      const root = await navigator.storage.getDirectory();
      const posts = await (await root.getDirectoryHandle('site')).getDirectoryHandle('posts');
      const stream = await (await posts.getFileHandle('rings.md')).createWritable();
      await stream.write('Mine.');
      await stream.close();
    });
    await page.getByRole('button', { name: 'Save over it' }).click();
    await page
      .getByText('posts/rings.md was changed elsewhere since it was opened.', { exact: false })
      .waitFor();
    expect(await text()).toBe('Mine.');
  });
});

describe('the browser’s own parser', () => {
  const nasty = [
    '<table>a<a href="https://x.example/1">one</a><tr><td><a href=https://x.example/2>two</a></table>',
    '<p><a href="https://x.example/3">three<p>still <b>three</a></b> four',
    '<a href="https://x.example/5?a=1&amp;b=2&copy=3">five<a href="https://x.example/6">six</a>',
    '<script>"<a href=https://x.example/no>no</a>"</script><!-- <a href=no>no</a> --><textarea><a href=no>no</a></textarea>',
    '<noscript><a href="https://x.example/7">seven</a></noscript><template><a href="https://x.example/no">no</a></template>',
    '<svg><a href="https://x.example/no"><text>no</text></a></svg><math><mi>x</mi></math><a href="https://x.example/13">thirteen</a>',
    '<A HREF = "https://x.example/8" href="https://x.example/no">eight</A><a name=x>none</a><a href>empty</a>',
    '<b><a href="https://x.example/9"><i>nine</b></i> more</a><div><a href=" https://x.example/10\n">ten</a></div>',
    '<button><a href="https://x.example/11">eleven</a></button><form><a href="https://x.example/12">twelve</form></a>',
  ];
  it('finds the links where ours does, in every article', async () => {
    const folder = join('demo', 'articles');
    const own = readdirSync(folder)
      .filter((name) => name.endsWith('.html'))
      .map((name) => readFileSync(join(folder, name), 'utf8'));
    expect(own.length).toBeGreaterThan(5);
    for (const html of [...nasty, ...own]) {
      const theirs = await page.evaluate(
        (text) =>
          [...new DOMParser().parseFromString(text, 'text/html').querySelectorAll('a[href]')]
            .filter((each) => each.namespaceURI === 'http://www.w3.org/1999/xhtml')
            .map((each) => each.getAttribute('href')),
        html,
      );
      const ours = addressesIn(html);
      // A link that is opened again in the next block is one to us, as it stands once; to the browser it is several.
      const once = theirs.filter((href, i) => href !== theirs[i - 1]);
      expect(ours, html).toEqual(once.map((href) => (href ?? '').replace(/^\s+|[\n\r\t]|\s+$/g, '')));
    }
  });
});
