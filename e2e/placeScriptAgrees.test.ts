import { readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import markdownIt from 'markdown-it';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { present } from '#core/catalogue';
import {
  makeLinkReader,
  makeLooker,
  readArticles,
  scriptTable,
  usualArticles,
  withEdits,
  editsOf,
} from '#core/articles';
import { registerOf } from '../server/testing/articleRegister.ts';
import { testLink } from '../server/testing/records.ts';
import { startBrowser } from './browser.ts';

/** What nobody of this project wrote: pages that the installed packages bring along, and texts of theirs as another program's HTML. */
const foreign = readdirSync('node_modules', { recursive: true, encoding: 'utf8' })
  .filter((name) => /\.html?$/.test(name))
  .map((name) => join('node_modules', name))
  .toSorted();
const texts = readdirSync('node_modules', { recursive: true, encoding: 'utf8' })
  .filter((name) => /readme\.md$/i.test(name))
  .map((name) => join('node_modules', name))
  .filter((name) => statSync(name).size > 8000)
  .toSorted()
  .filter((_, i) => i % 3 === 0)
  .slice(0, 40);
const html = markdownIt({ html: true, linkify: true });
const bytesOf = (name: string): Uint8Array =>
  name.endsWith('.html') || name.endsWith('.htm')
    ? readFileSync(name)
    : new TextEncoder().encode(html.render(readFileSync(name, 'utf8')));
const own = readdirSync('demo/articles').flatMap((name) =>
  name.endsWith('.html') ? [join('demo/articles', name)] : [],
);

/** Words that are read often in pages about programs, and in the articles. */
const words =
  'function test the file value page browser element report result object module telescope torch night saturn map code source string of to in and is for with this that on as you can statements branches lines files coverage all'.split(
    ' ',
  );
const links = words.map((text, i) =>
  testLink(`s${i}`, {
    destination: `https://polehouse.example/p/${i}`,
    createdAt: i,
    keywords: [{ text, forms: i % 2 === 0, exact: i % 5 === 0 }],
  }),
);
const register = registerOf(links);
const choices = {
  ...usualArticles,
  perKeyword: 20,
  perLink: 20,
  perArticle: 400,
  apart: 6,
  without: ['disclosure'],
};
const reader = makeLinkReader(register);
const looker = makeLooker(reader, choices);
const { table } = scriptTable(reader, present(register.domains[0], 'domain'), choices);
const code = readFileSync('dist/page-script/place.js', 'utf8');

let browser: Browser;
let page: Page;
beforeAll(async () => {
  browser = await startBrowser();
  page = await browser.newPage();
  // The pages' own scripts change them before they are looked at.
  await page.route('**/*', (route) => route.abort());
});
afterAll(() => browser.close());

/** What is linked by now, and after which letters of the page. */
const linked = (html: string): Promise<string[]> =>
  page.evaluate((text) => {
    const document = new DOMParser().parseFromString(text, 'text/html');
    const found: string[] = [];
    const walker = document.createTreeWalker(
      document.documentElement,
      NodeFilter.SHOW_ELEMENT | NodeFilter.SHOW_TEXT,
    );
    let letters = 0;
    for (let node = walker.nextNode(); node; node = walker.nextNode()) {
      if (node instanceof Text) letters += node.data.length;
      else if (node instanceof HTMLAnchorElement && node.href.startsWith('https://see.nightledge.example/'))
        found.push(`${letters} ${node.textContent ?? ''} ${node.pathname} ${node.rel}`);
    }
    return found;
  }, html);

describe('the script on a page', () => {
  it(`links the same words as a file gets, on ${foreign.length + texts.length} pages of others and ${own.length} articles`, async () => {
    expect(foreign.length).toBeGreaterThan(30);
    expect(texts).toHaveLength(40);
    let sum = 0;
    for (const name of [...own, ...foreign, ...texts]) {
      const read = readArticles(name.replace(/md$/i, 'html'), bytesOf(name));
      const article = read.ok ? read.read.articles[0] : undefined;
      if (!article) continue;
      const { finds } = looker.look(article, '');
      const inFile = withEdits(article.text, editsOf(finds.filter(({ kind }) => kind === 'keyword')));
      const file = await linked(inFile);
      await page.goto('about:blank');
      // Parsed without running: what its own scripts would make of it is nothing a file has.
      const inPage = await page.evaluate(
        async ([html, script, data, wanted]) => {
          const parsed = new DOMParser().parseFromString(html, 'text/html');
          // What leads away or fetches is no part of what is compared.
          for (const element of parsed.querySelectorAll('meta[http-equiv],iframe,frame,object,embed'))
            element.remove();
          document.replaceChild(document.adoptNode(parsed.documentElement), document.documentElement);
          (new Function('table', `${script}; fernhop({count: ''}, table)`) as (table: unknown) => void)(data);
          // As many as are expected, and none beyond them a while later.
          const ours = () => document.querySelectorAll('a[href^="https://see.nightledge.example/"]').length;
          for (let tries = 0; tries < 100 && ours() < wanted; tries++)
            await new Promise((resolve) => setTimeout(resolve, 50));
          await new Promise((resolve) => setTimeout(resolve, 150));
          return document.documentElement.outerHTML;
        },
        [article.text, code, table, file.length] as const,
      );
      expect(await linked(inPage), name).toEqual(file);
      sum += file.length;
    }
    console.error(`${sum} words linked on both sides`);
    expect(sum).toBeGreaterThan(1500);
  });
});
