import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { HopRecord } from '#core/visits';
import { call, changeOf, readJournal, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { deskWithLink, setPostback, untilCounted, untilLive } from './desk.ts';

/** A page of the person's own, between the link that was advertised and the link of the offer. */
let body = '';
const site = createServer((_request, response) => {
  response.setHeader('Content-Type', 'text/html; charset=utf-8');
  response.end(`<!doctype html><html lang="en"><title>Saturn in a small telescope</title><body>${body}`);
});
let browser: Browser;
let server: Running;
let context: BrowserContext;
let page: Page;
let landing = '';
const domain = () => `http://see.nightledge.localhost:${server.port}`;
beforeAll(async () => {
  browser = await startBrowser();
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
  landing = `http://nightledge.localhost:${(site.address() as AddressInfo).port}/saturn?lang=en`; // it listens on a port
  const desk = await deskWithLink(browser);
  ({ server, context, page } = desk);
  const { program: _, network: __, ...rest } = desk.records.link;
  const link = {
    ...rest,
    id: 'lnk_ad',
    slug: 'ad',
    aliases: [],
    title: 'Advertised page',
    destination: landing,
  };
  await sendChanges(server, [changeOf('link', link)]);
  await setPostback(context, page, server);
});
afterAll(async () => {
  await context.close();
  await browser.close();
  site.close();
  await server.stop();
});

const hops = async (): Promise<HopRecord[]> =>
  (await readJournal(server)).filter((record) => record.kind === 'hop');
let visitors = 0;
/** A visitor with a browser of their own: others of the same address and user agent would be the same visitor again. */
const newVisitor = (): Promise<BrowserContext> =>
  freshPerson(browser, {
    userAgent: `Mozilla/5.0 (X11; Linux x86_64; rv:${140 + visitors++}.0) Gecko/20100101 Firefox/140.0`,
  });
/** A fresh visitor comes by the advertised link, and goes on by the link on the page. */
const visit = async (): Promise<Page> => {
  const visitor = await newVisitor();
  const tab = await visitor.newPage();
  await tab.goto(`${domain()}/ad~bought-a`);
  await tab.waitForURL(/from-click=\w{26}&from=bought-a/);
  const [shop] = await Promise.all([visitor.waitForEvent('page'), tab.getByText('the kit').click()]);
  await shop.getByRole('button', { name: 'Place order' }).waitFor();
  return shop;
};

describe('a landing page of one’s own', () => {
  it('is told click and source by one press, where its link is edited', async () => {
    await page.goto(`http://localhost:${server.port}/links/lnk_ad`);
    await untilLive(page);
    await page.getByRole('button', { name: 'Edit destination' }).click();
    await page.getByRole('button', { name: 'Pass click and source on to it' }).click();
    expect(await page.getByRole('textbox', { name: 'Destination' }).inputValue()).toBe(
      `${landing}&from-click={click}&from={source}`,
    );
    // It is offered once, and by no link of a network.
    expect(await page.getByText('A page of yours with links of its own?').count()).toBe(0);
    await page.getByRole('button', { name: 'Save' }).click();
    // The link was live before too: what counts is that the server has the new address.
    await expect
      .poll(async () => (await call(server, 'GET', '/changes?after=0')).body)
      .toContain(`${landing}&from-click={click}&from={source}`);
  });

  it.each([
    ['as HTML that was copied, without a script', ''],
    ['with the script, where the page lets its address be seen by nobody', 'script'],
  ])('leads on to the offer as one journey: %s', async (_how, script) => {
    const [policy, tag] =
      script === ''
        ? ['no-referrer-when-downgrade', '']
        : ['no-referrer', `<script src="${domain()}/place.js" data-source="saturn-page" defer></script>`];
    body = `${tag}<p><a href="${domain()}/saturn" target="_blank" rel="sponsored" referrerpolicy="${policy}">the kit</a>`;
    const shop = await visit();
    const [ad, offer] = await vi.waitFor(async () => {
      const list = (await hops()).slice(-2);
      expect(list.map(({ link }) => link)).toEqual(['lnk_ad', 'lnk_saturn']);
      return list;
    });
    expect(offer).toMatchObject({ first: ad?.click, source: 'bought-a', query: '' });
    await shop.getByRole('button', { name: 'Place order' }).click();
    await shop.locator('#thanks').waitFor();
    await shop.context().close();
  });

  it('is one journey from either click, and its link tells who went on', async () => {
    // One more who reads the page and leaves.
    const visitor = await newVisitor();
    const tab = await visitor.newPage();
    await tab.goto(`${domain()}/ad~bought-a`);
    await tab.waitForURL(/from-click=/);
    await visitor.close();

    await page.goto(`http://localhost:${server.port}/links/lnk_ad`);
    await untilCounted(page);
    const route = page.getByLabel('Route');
    await route.getByText('66.7% went on from your page (2 of 3)', { exact: false }).waitFor();
    await expect.poll(() => route.innerText()).toContain('100% of those led to a conversion (2)');
    await route.getByRole('link', { name: 'Saturn eyepiece kit' }).waitFor();

    const clicks = (await hops()).slice(-3).map(({ click }) => click);
    for (const [link, click] of [
      ['lnk_ad', clicks[0]],
      ['lnk_saturn', clicks[1]],
    ] as const) {
      await page.goto(`http://localhost:${server.port}/links/${link}/click/${click}`);
      const journey = page.getByLabel('Route');
      await journey.getByText('Response, to a page of yours').waitFor();
      await expect.poll(() => journey.innerText()).toMatch(/€13.83\s+pending/);
      const steps = await journey.getByRole('heading', { level: 3 }).allInnerTexts();
      expect(steps.map((step) => step.replace(/ \d.*/s, '').trim())).toEqual(
        [
          ...['Advertised page', 'Branch', 'Response, to a page of yours'],
          ...['Went on after', 'Branch', 'Response', 'Postback', 'Conversion'],
        ].map((words) => expect.stringContaining(words)),
      );
    }
  });
});
