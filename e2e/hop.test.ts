import { createServer } from 'node:http';
import type { IncomingMessage, Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changeOf, fillFirst, readJournal, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { startServer } from './desk.ts';

let browser: Browser;
let server: Running;
let records: Awaited<ReturnType<typeof fillFirst>>;
let shop: Server;
let shopPort: number;
const received: IncomingMessage[] = [];

beforeAll(async () => {
  browser = await startBrowser();
  server = await startServer();
  records = await fillFirst(server);
  shop = createServer((request, response) => {
    if (request.url !== '/favicon.ico') received.push(request);
    response.setHeader('Content-Type', 'text/html');
    response.end(
      `<!doctype html><title>${request.url ?? ''}</title><a href="http://see.nightledge.localhost:${server.port}/saturn-kit~guide">kit</a>`,
    );
  });
  await new Promise<void>((resolve) => shop.listen(0, '127.0.0.1', resolve));
  shopPort = (shop.address() as AddressInfo).port; // it listens on a port
});
afterAll(async () => {
  shop.close();
  await browser.close();
  await server.stop();
});

let revision = 1;
const set = async (hop: object) => {
  const destination = `http://merchant.localhost:${shopPort}/landed?click={click}&source={source}&empty=`;
  await sendChanges(server, [changeOf('link', { ...records.link, destination, hop }, ++revision)]);
};

/** Clicks the link on a page of another site and gives the hop's answer and what the destination received. */
const clickThrough = async () => {
  const context = await freshPerson(browser);
  const page = await context.newPage();
  await page.goto(`http://nightledge.localhost:${shopPort}/saturn-guide?draft=1`);
  received.length = 0;
  const [answer] = await Promise.all([
    page.waitForResponse((response) => response.url().includes('/saturn-kit')),
    page.waitForURL(/landed/),
    page.locator('a').click(),
  ]);
  const [request] = received;
  const result = {
    status: answer.status(),
    location: (await answer.allHeaders())['location'] ?? '',
    url: request?.url ?? '',
    referer: request?.headers.referer,
    final: page.url(),
  };
  await page.goBack();
  const back = page.url();
  await context.close();
  return { ...result, back };
};

describe('what the destination really receives in Chromium', () => {
  it.each([301, 302, 307, 308])(
    'by %i: every byte, the site as referrer, and the back button goes back',
    async (status) => {
      await set({ status });
      const seen = await clickThrough();
      expect(seen.status).toBe(status);
      expect(seen.url).toMatch(/^\/landed\?click=[0-9A-HJKMNP-TV-Z]{26}&source=guide&empty=$/);
      expect(seen.location).toBe(`http://merchant.localhost:${shopPort}${seen.url}`);
      expect(seen.final).toBe(seen.location);
      expect(seen.referer).toBe(`http://nightledge.localhost:${shopPort}/`);
      expect(seen.back).toContain('/saturn-guide');
    },
  );

  it('with the referrer hidden: none', async () => {
    await set({ hideReferrer: true });
    expect((await clickThrough()).referer).toBeUndefined();
  });

  it.each([
    ['refresh', {}, `http://see.nightledge.localhost`],
    ['script', {}, `http://see.nightledge.localhost`],
    ['refresh', { hideReferrer: true }, undefined],
    ['refresh', { twice: true }, undefined],
    ['script', { twice: true, hideReferrer: true }, undefined],
    [
      'refresh',
      { wait: { seconds: 1, text: 'One </script> moment', button: 'Go', progress: true } },
      `http://see.nightledge.localhost`,
    ],
  ] as const)(
    'by a page, %s %j: every byte, and the referrer that was asked for',
    async (kind, more, referer) => {
      await set({ page: kind, ...more });
      const seen = await clickThrough();
      expect(seen.status).toBe(200);
      expect(seen.url).toMatch(/^\/landed\?click=[0-9A-HJKMNP-TV-Z]{26}&source=guide&empty=$/);
      expect(seen.final).toBe(`http://merchant.localhost:${shopPort}${seen.url}`);
      expect(seen.referer).toBe(referer === undefined ? undefined : `${referer}:${server.port}/`);
      // Left by script or at once, a page is not come back to; one that was waited on may be.
      expect(seen.back).toMatch(/saturn-guide|saturn-kit/);
    },
  );

  it('by a page, with scripts off: the same', async () => {
    await set({ page: 'script' });
    const context = await freshPerson(browser, { javaScriptEnabled: false });
    const page = await context.newPage();
    await page.goto(`http://see.nightledge.localhost:${server.port}/saturn-kit`);
    await page.waitForURL(/landed/);
    await context.close();
  });

  it('a permanent redirect is asked for again on every click, unless the cache is allowed', async () => {
    for (const [cache, expected] of [
      [false, 3],
      [true, 1],
    ] as const) {
      await set({ status: 301, cache });
      const before = (await readJournal(server)).filter((record) => record.kind === 'hop').length;
      const context = await freshPerson(browser);
      const page = await context.newPage();
      for (let n = 0; n < 3; n++) {
        await page.goto(`http://nightledge.localhost:${shopPort}/saturn-guide`);
        await Promise.all([page.waitForURL(/landed/), page.locator('a').click()]);
      }
      await context.close();
      await new Promise((resolve) => setTimeout(resolve, 150));
      const after = (await readJournal(server)).filter((record) => record.kind === 'hop').length;
      expect([cache, after - before]).toEqual([cache, expected]);
    }
  });
});
