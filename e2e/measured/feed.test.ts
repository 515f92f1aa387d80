import { createWriteStream } from 'node:fs';
import { once } from 'node:events';
import { join } from 'node:path';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freshFolder } from '../../server/testing/process.ts';
import { startBrowser } from '../browser.ts';
import { deskWithLink } from '../desk.ts';

const rows = 500_000;
const words =
  'saturn kit mount eyepiece filter tripod finder case collimator counterweight diagonal cleaning film power tank chair gloves boots blanket flask lamp red torch'.split(
    ' ',
  );
const nameOf = (i: number): string =>
  [0, 1, 2, 3].map((k) => words[(i * 7919 + k * 104_729 + (i >> k) * 31) % words.length]).join(' ');

/** Half a million products of a shop, 0.1 in a hundred of them cut off. */
const writeFeed = async (path: string): Promise<void> => {
  const file = createWriteStream(path);
  let text = 'id;name;price;currency;url;image;ean;description\n';
  for (let i = 0; i < rows; i++) {
    const name = nameOf(i);
    text +=
      i % 1000 === 999
        ? `PH-${i};"${name}, cut\n`
        : `PH-${i};"${name}, ${i % 97} mm";${(i % 5000) / 100 + 1};EUR;https://polehouse.example/p/${i};https://polehouse.example/i/${i}.jpg;${4_000_000_000_000 + i * 7};"For nights, ""as bright"" as it gets: ${name}."\n`;
    if (text.length < 1_000_000) continue;
    if (!file.write(text)) await once(file, 'drain');
    text = '';
  }
  file.end(text);
  await once(file, 'finish');
};

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

/** For how long the screen may stand still. */
const mostStillMs = 200;
/** Has a fresh browser read a feed and keep it, and tells how long each took and the longest task of the page meanwhile. */
const readAndKeep = async (path: string) => {
  const { server, context, page } = await deskWithLink(browser, '/links/lnk_saturn', {});
  page.setDefaultTimeout(200_000);
  await page.goto(`http://localhost:${server.port}/place/feed`);
  await page.locator('input[type=file]').setInputFiles(path);
  await page.getByRole('button', { name: 'Read all of it' }).waitFor();
  await page.evaluate(() => {
    const longest = { ms: 0 };
    Object.assign(globalThis, { longest });
    new PerformanceObserver((list) => {
      for (const { duration } of list.getEntries()) longest.ms = Math.max(longest.ms, duration);
    }).observe({ entryTypes: ['longtask'] });
  });
  const began = performance.now();
  await page.getByRole('button', { name: 'Read all of it' }).click();
  await page.getByText('499,500 products.').waitFor();
  await page.getByText('500 rows could not be read').waitFor();
  const read = performance.now() - began;
  await page.getByRole('button', { name: 'Keep it', exact: true }).click();
  await page.getByText('499,500 products can be found.').waitFor();
  const kept = performance.now() - began - read;
  const longest = await page.evaluate(
    () => (globalThis as unknown as { longest: { ms: number } }).longest.ms,
  );
  return { server, context, page, read, kept, longest };
};

describe('a feed of half a million products', () => {
  it(
    'is read without the screen standing still, kept, and searched within 50 ms',
    { timeout: 600_000 },
    async () => {
      const path = join(freshFolder(), 'large.csv');
      await writeFeed(path);
      // What the page does in one go it does each time; once, the machine itself may be waited for.
      let found = await readAndKeep(path);
      for (let times = 1; times < 3 && found.longest >= mostStillMs; times++) {
        await found.context.close();
        await found.server.stop();
        found = await readAndKeep(path);
      }
      const { server, context, page, read, kept, longest } = found;

      // As the first question of a window loads the index, it is asked before the clock runs.
      const field = page.getByLabel('Find by name or code');
      await field.fill('PH-498998');
      await page.getByText('In feeds, 1 found').waitFor();
      /** From the keystroke until what was found is on the screen. */
      const shownAfter = (text: string, words: string): Promise<number> =>
        field.evaluate(
          async (input: HTMLInputElement, [asked, awaited]) => {
            input.value = '';
            input.dispatchEvent(new Event('input'));
            await new Promise((resolve) => setTimeout(resolve, 300));
            const began = performance.now();
            input.value = asked;
            input.dispatchEvent(new Event('input'));
            await new Promise<void>((resolve) => {
              const look = () => {
                if (!document.body.textContent.includes(awaited)) return;
                observer.disconnect();
                resolve();
              };
              const observer = new MutationObserver(look);
              observer.observe(document.body, { subtree: true, childList: true, characterData: true });
            });
            return performance.now() - began;
          },
          [text, words] as const,
        );
      const searches = [
        ['PH-4711', 'In feeds, 111 found'],
        ['s', 'In feeds, '],
        ['t r', 'In feeds, '],
        ['saturn 8 mm', 'In feeds, '],
        ['4000', 'In feeds, 499,500 found'],
        ['4000000032977', 'In feeds, 1 found'],
        ['telescope', 'Nothing is called so, in no feed either'],
      ] as const;
      // The best of three: once among several the machine itself is waited for.
      const times = searches.map(() => Infinity);
      for (let round = 0; round < 3; round++)
        for (const [i, [asked, awaited]] of searches.entries())
          times[i] = Math.min(times[i] ?? Infinity, await shownAfter(asked, awaited));
      console.error(
        `500,000 products: read in ${(read / 1000).toFixed(1)} s, kept in ${(kept / 1000).toFixed(1)} s, longest task ${longest.toFixed(0)} ms, on the screen after ${times.map((ms) => ms.toFixed(0)).join(', ')} ms`,
      );
      const inOrder = times.toSorted((a, b) => a - b);
      expect(inOrder[3]).toBeLessThan(50);
      expect(inOrder.at(-1)).toBeLessThan(150);
      expect(longest).toBeLessThan(mostStillMs);
      await context.close();
      await server.stop();
    },
  );
});
