import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { call } from '../../server/client.ts';
import { freshFolder } from '../../server/testing/process.ts';
import { send } from '../../standins/index.ts';
import { startBrowser } from '../browser.ts';
import { deskWithLink } from '../desk.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

const importFile = async (page: Page, name: string, text: string) => {
  const path = join(freshFolder(), name);
  writeFileSync(path, text);
  await page.getByRole('button', { name: 'Import, export' }).click();
  await page.locator('input[type=file]').setInputFiles(path);
};

describe('links from a file', () => {
  it('show good and bad rows apart, are mended in place, and undone as one step', async () => {
    const { server, context, page } = await deskWithLink(browser, '/links');
    await importFile(
      page,
      'links.csv',
      'Name;Short;Target URL;Type\nMoon filter;moon;https://polehouse.example/moon?x=;302\nBad;bad slug;https://polehouse.example/bad;\nKit;saturn;https://polehouse.example/kit;\n',
    );
    await page.getByText('2 rows are good').waitFor();
    await page.getByText('1 row is not good').waitFor();
    await page.getByText('A slug cannot hold spaces.').waitFor();
    await page.getByLabel('Line 3, Short').fill('good-slug');
    await page.getByRole('button', { name: 'Mend' }).click();
    await page.getByText('3 rows are good').waitFor();
    await page.getByText('2 new on see.nightledge.localhost, 1 left out.').waitFor();
    await page.getByRole('combobox', { name: 'A slug that is taken' }).click({ force: true });
    await page.getByRole('option', { name: 'take the next free one' }).click();
    await page.getByText('1 of them under another slug (saturn becomes saturn-2)').waitFor();
    await page.getByRole('button', { name: 'Bring in 3 links' }).click();
    await page.getByText('All 4 links live').waitFor();
    const answer = await send(`http://see.nightledge.localhost:${server.port}/moon`);
    expect([answer.status, answer.headers.location]).toEqual([302, 'https://polehouse.example/moon?x=']);
    await page.keyboard.press('ControlOrMeta+z');
    await vi.waitFor(async () =>
      expect(JSON.parse((await call(server, 'GET', '/health')).body)).toMatchObject({ links: 1 }),
    );

    await importFile(
      page,
      '.htaccess',
      'Redirect 301 /old-kit https://polehouse.example/old\nRewriteRule ^(.*)$ https://x.example/$1 [R]\n',
    );
    await page.getByText('redirects as Apache has them').waitFor();
    await page.getByText('Its path is an expression').waitFor();
    await page.getByRole('button', { name: 'Bring in 1 link' }).click();
    await vi.waitFor(async () => {
      const old = await send(`http://see.nightledge.localhost:${server.port}/old-kit`);
      expect([old.status, old.headers.location]).toEqual([301, 'https://polehouse.example/old']);
    });
    await context.close();
    await server.stop();
  });
});

describe('ten thousand links', () => {
  it('are brought in, scrolled, searched and changed without the screen standing still', async () => {
    const { server, context, page } = await deskWithLink(browser, '/links');
    await page.evaluate(() => {
      const tasks: number[] = [];
      new PerformanceObserver((list) =>
        tasks.push(...list.getEntries().map((entry) => entry.duration)),
      ).observe({
        entryTypes: ['longtask'],
      });
      Object.assign(window, { tasks });
    });
    const tasks = () => page.evaluate(() => (window as unknown as { tasks: number[] }).tasks.splice(0));
    const rows = Array.from(
      { length: 10_000 },
      (_, i) => `Lamp ${i},lamp-${i},https://old.example/r?by=nl-4471&item=${i}&ref1={click}`,
    );
    /** The best of a few tries, made again only beyond what is asserted: another program can only make it slower. */
    const best = async (limit: number, measure: () => Promise<number>): Promise<number> => {
      let least = Infinity;
      for (let attempt = 0; attempt < 4 && least >= limit; attempt++)
        least = Math.min(least, await measure());
      return least;
    };
    let frozen = Infinity;
    const took = await best(20_000, async () => {
      if (frozen < Infinity) {
        await page.keyboard.press('ControlOrMeta+z');
        await page.getByText('The last edit is undone.').waitFor({ timeout: 60_000 });
      }
      await importFile(page, 'many.csv', `title,slug,url\n${rows.join('\n')}\n`);
      const bring = page.getByRole('button', { name: 'Bring in 10,000 links' });
      await bring.waitFor();
      await tasks();
      const began = Date.now();
      await bring.click();
      await page.getByText('10,000 links are made.').waitFor({ timeout: 60_000 });
      const ms = Date.now() - began;
      frozen = Math.max(0, ...(await tasks()));
      return ms;
    });
    await page.getByText(/All 10,?001 links live/).waitFor({ timeout: 90_000 });

    await page.locator('table.list').waitFor();
    await page.waitForTimeout(500);
    const scroller = page.locator('.scroll').first();
    const scrolled = await best(50, async () => {
      await tasks();
      // As fast as a hard push of the wheel: 20,000 pixels a second.
      for (let i = 0; i < 60; i++) {
        await scroller.evaluate((element) => (element.scrollTop += 600));
        await page.waitForTimeout(30);
      }
      return Math.max(0, ...(await tasks()));
    });
    let wanted = 7776;
    const searched = await best(250, () =>
      page.getByLabel('Words').evaluate(
        async (field, number) => {
          const input = field as HTMLInputElement;
          const start = performance.now();
          input.value = `lamp ${number}`;
          input.dispatchEvent(new Event('input', { bubbles: true }));
          while (!document.querySelector('tr[data-link] .slug')?.textContent.includes(`lamp-${number}`))
            await new Promise((resolve) => setTimeout(resolve, 0));
          return performance.now() - start;
        },
        (wanted += 1),
      ),
    );
    await page.getByLabel('Words').fill('');
    await page
      .getByText(/^10,?001/)
      .first()
      .waitFor();
    /** Presses a heading, and says how long it takes until the rows are drawn in their new order. */
    const sort = (heading: string) =>
      best(300, () =>
        page.locator('table.list thead').evaluate(async (head, name) => {
          const cell = [...head.querySelectorAll('th')].find((one) => one.textContent.trim() === name);
          const way = () => cell?.getAttribute('aria-sort');
          const before = way();
          const start = performance.now();
          cell?.querySelector('button')?.click();
          while (way() === before) await new Promise((resolve) => setTimeout(resolve, 0));
          await new Promise(requestAnimationFrame);
          return performance.now() - start;
        }, heading),
      );
    // Words are slower to compare than numbers.
    const sorted = Math.max(await sort('Link'), await sort('Goes to'));
    await page.getByRole('button', { name: 'Columns' }).click();
    const boxes = page.getByRole('menuitemcheckbox', { checked: false });
    const left = await boxes.count();
    for (let i = 0; i < left; i++) await boxes.first().click();
    await page.keyboard.press('Escape');
    await page.waitForTimeout(500);
    expect(await page.locator('table.list thead th').count()).toBe(20);
    const wide = await best(50, async () => {
      await tasks();
      for (let i = 0; i < 60; i++) {
        await scroller.evaluate((element) => (element.scrollTop += 600));
        await page.waitForTimeout(30);
      }
      return Math.max(0, ...(await tasks()));
    });
    process.stdout.write(
      `10,000 links: sorted in ${Math.round(sorted)} ms, with all 20 columns longest task while scrolling ${Math.round(wide)} ms\n`,
    );
    process.stdout.write(
      `10,000 links: brought in ${took} ms, longest task then ${Math.round(frozen)} ms, while scrolling ${Math.round(scrolled)} ms, search ${Math.round(searched)} ms\n`,
    );
    // On a quiet machine 5 s, 50 ms and 50 ms are kept (docs/performance.md); where others take the processor away the
    // same work takes a few times as long, so that the test only tells what went wrong by far.
    expect(took).toBeLessThan(20_000);
    expect(scrolled).toBeLessThan(250);
    expect(searched).toBeLessThan(250);
    expect(sorted).toBeLessThan(1000);
    expect(wide).toBeLessThan(250);

    // Find and replace in those that are shown, previewed, and undone as one.
    await page.getByLabel('Words').fill('lamp-42');
    await page.getByText(/111 of 10,?001/).waitFor();
    await page.getByRole('button', { name: 'Change many' }).click();
    await page.getByRole('button', { name: 'Pick all 111 shown' }).click();
    await page.getByLabel('Find', { exact: true }).fill('https://old.example/');
    await page.getByLabel('Replace by').fill('https://new.example/');
    await page.getByRole('button', { name: 'Change 111 links' }).click();
    await page.getByText('111 links are changed.').waitFor();
    const target = async () =>
      (await send(`http://see.nightledge.localhost:${server.port}/lamp-4299`)).headers.location;
    await vi.waitFor(async () => expect(await target()).toContain('https://new.example/'), {
      timeout: 60_000,
    });
    await page.locator('tr[data-link]').first().click();
    await page.getByRole('button', { name: 'More' }).click();
    await page.getByRole('button', { name: 'History' }).click();
    await page.locator('del', { hasText: 'old.example' }).first().waitFor({ timeout: 60_000 });
    await page.getByRole('button', { name: 'Undo in all 111' }).click({ timeout: 60_000 });
    await vi.waitFor(async () => expect(await target()).toContain('https://old.example/'), {
      timeout: 60_000,
    });
    await context.close();
    await server.stop();
  }, 300_000);
});

describe('a link that is archived', () => {
  it('answers gone, or as another, and comes back', async () => {
    const { server, context, page } = await deskWithLink(browser);
    await page.getByRole('button', { name: 'More' }).click();
    await page.getByRole('button', { name: 'Archive' }).click();
    await page.locator('form').getByRole('button', { name: 'Archive' }).click();
    const status = async () =>
      (await send(`http://see.nightledge.localhost:${server.port}/saturn-kit`)).status;
    await vi.waitFor(async () => expect(await status()).toBe(410));
    await page.getByRole('button', { name: 'Undo' }).click();
    await vi.waitFor(async () => expect(await status()).toBe(307));
    await context.close();
    await server.stop();
  });
});
