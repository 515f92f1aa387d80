import { readdirSync, readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { isUlid } from '#core/catalogue';
import { parseNdjson } from '#core/formats';
import type { JournalRecord } from '#core/visits';
import { changeOf, fillFirst, readJournal, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { asPerson, freshPerson, startBrowser } from './browser.ts';
import { startServer } from './desk.ts';

/** Pages of a site on which the script runs, each with the headers it is sent with. */
const site = createServer((request, response) => {
  const asked = (request.url ?? '').split('?')[0] ?? '';
  const { html, policy } = pages.get(asked) ?? { html: '', policy: undefined };
  response.setHeader('Content-Type', 'text/html; charset=utf-8');
  if (policy !== undefined) response.setHeader('Content-Security-Policy', policy);
  response.end(html);
});
const pages = new Map<string, { readonly html: string; readonly policy: string | undefined }>();

let browser: Browser;
let server: Running;
let records: Awaited<ReturnType<typeof fillFirst>>;
let person: BrowserContext;
let origin = '';
let linkDomain = '';
/** A page of the joined shop that has a link. */
let shop = '';
const strict = (connect = true) =>
  `default-src 'none'; script-src 'self' ${linkDomain}; ${connect ? `connect-src ${linkDomain}; ` : ''}style-src 'self'`;

beforeAll(async () => {
  browser = await startBrowser(asPerson);
  server = await startServer();
  records = await fillFirst(server);
  const { link, program, network } = records;
  shop = new URL(link.destination).searchParams.get('page') ?? '';
  linkDomain = `http://see.nightledge.localhost:${server.port}`;
  await sendChanges(server, [
    changeOf(
      'link',
      {
        ...link,
        marks: { rel: ['sponsored', 'nofollow'], newTab: true },
        keywords: [{ text: 'Saturn eyepiece', forms: true }, { text: '星図' }],
        replaces: ['https://old-shop.example/saturn'],
      },
      2,
    ),
    changeOf('program', {
      ...program,
      id: 'prg_desk',
      name: 'Desk',
      code: '2099',
      hosts: ['desk.example'],
      rules: { cloak: false, name: '', ownLinks: false, mail: true, social: true },
    }),
    changeOf('link', {
      ...link,
      id: 'lnk_desk',
      slug: 'desk',
      aliases: [],
      title: 'Desk',
      destination: `http://desk.localhost:${server.port + 1}/kits?friend=NL20&note={click}`,
      program: 'prg_desk',
      network: network.id,
      keywords: [{ text: 'folding desk' }],
    }),
  ]);
  await new Promise<void>((resolve) => site.listen(0, '127.0.0.1', resolve));
  const { port } = site.address() as AddressInfo; // it listens on a port
  origin = `http://nightledge.localhost:${port}`;
  person = await freshPerson(browser);
});
afterAll(async () => {
  await browser.close();
  if (server.child.exitCode === null) await server.stop();
  site.close();
});

const scriptTag = (attributes = '') => `<script src="${linkDomain}/place.js" ${attributes} defer></script>`;
/** Opens a page with the script, and waits until what it says it is to have is there. */
const open = async (
  path: string,
  body: string,
  { attributes = '', policy = undefined as string | undefined, query = '' } = {},
): Promise<Page> => {
  pages.set(path, {
    html: `<!doctype html><html lang="en"><title>${path}</title>${scriptTag(attributes)}<body>${body}`,
    policy,
  });
  const page = await person.newPage();
  await page.goto(origin + path + query);
  return page;
};
const linked = (page: Page) =>
  page
    .locator('a')
    .evaluateAll((links) =>
      links.map((link) => `${link.textContent ?? ''} ${link.getAttribute('href') ?? ''}`),
    );
const untilQuiet = (page: Page) => page.waitForTimeout(400);

describe('the script on a page', () => {
  it('links addresses and keywords with marks and source, under a strict policy, and leaves editors, forms and code alone', async () => {
    const page = await open(
      '/guides/saturn-rings.html',
      `<p>Any Saturn <b>eyepieces</b> will do. <a id="shop" rel="external" href="${shop}?utm_source=x">the kit</a>
       <a id="old" href="https://old-shop.example/saturn/">old</a> <a id="other" href="https://elsewhere.example/">other</a></p>
       <h2>Saturn eyepiece</h2><pre>Saturn eyepiece</pre><code>Saturn eyepiece</code>
       <form>Saturn eyepiece <a id="form" href="${shop}">kit</a><textarea>Saturn eyepiece</textarea></form>
       <div contenteditable>Saturn eyepiece <a id="editor" href="${shop}">kit</a></div>
       <p data-fernhop="leave">Saturn eyepiece</p><p>{{ Saturn eyepiece }}</p>
       <p id="last">${'night '.repeat(120)}One Saturn eyepiece more.</p><p>${'night '.repeat(120)}夜の<i>星図</i>です</p>`,
      { policy: strict(), attributes: 'data-source-from="path" data-per-link="9"' },
    );
    await page.locator('#last a').waitFor();
    const short = `${linkDomain}/saturn-kit~saturn-rings`;
    const addressOf = (id: string) => page.locator(id).getAttribute('href');
    expect([await addressOf('#shop'), await addressOf('#old')]).toEqual([short, short]);
    expect(await page.locator('#shop').getAttribute('rel')).toBe('external sponsored nofollow noopener');
    expect(await page.locator('#shop').getAttribute('target')).toBe('_blank');
    expect(await addressOf('#other')).toBe('https://elsewhere.example/');
    expect([await addressOf('#form'), await addressOf('#editor')]).toEqual([shop, shop]);
    // What is partly bold has no place for a link; the heading is left as the person chose.
    expect(await page.locator('h2 a, pre a, code a, [data-fernhop=leave] a, b a').count()).toBe(0);
    expect(await page.locator('i a').getAttribute('href')).toBe(short);
    expect(await page.locator('#last a').evaluate((link) => link.outerHTML)).toBe(
      `<a href="${short}" rel="sponsored nofollow noopener" target="_blank" referrerpolicy="no-referrer-when-downgrade">Saturn eyepiece</a>`,
    );
    expect(await page.locator('a', { hasText: '{{' }).count()).toBe(0);
  });

  it('tells the hop the page, and the page of the click; the address is as it was afterwards', async () => {
    const page = await open(
      '/gear',
      `<link rel="canonical" href="/gear-of-the-year"><p>A <a href="${linkDomain}/saturn">kit</a>.`,
      {
        attributes: 'data-source="gear"',
      },
    );
    const link = page.locator(`a[href^="${linkDomain}"]`);
    await vi.waitFor(async () => expect(await link.getAttribute('href')).toContain('~gear'));
    const heard = page.evaluate(
      () =>
        new Promise((resolve) =>
          document.addEventListener(
            'fernhop:click',
            (event) => resolve((event as CustomEvent<unknown>).detail),
            { once: true },
          ),
        ),
    );
    await page.evaluate(() => addEventListener('click', (event) => event.preventDefault(), { once: true }));
    await link.click();
    expect(await heard).toEqual({
      link: 'lnk_saturn',
      source: 'gear',
      page: `${origin}/gear-of-the-year`,
      address: `${linkDomain}/saturn-kit~gear`,
      click: '',
    });
    // It is put back a moment after the press.
    await vi.waitFor(async () => expect(await link.getAttribute('href')).not.toContain('from-page'));
    await Promise.all([person.waitForEvent('page'), link.click()]);
    await vi.waitFor(async () =>
      expect((await readJournal(server)).findLast(({ kind }) => kind === 'hop')).toMatchObject({
        source: 'gear',
        from: `${origin}/gear-of-the-year`,
        query: '',
      }),
    );
  });

  it('gives a link that may not be cloaked its click ID, and counts it before it leaves', async () => {
    const desk = `http://desk.localhost:${server.port + 1}/kits?friend=NL20&note=`;
    const page = await open(
      '/desk',
      `<p>A folding desk, and <a id="placed" href="${desk}">a placed one</a>.`,
      {
        policy: strict(),
        attributes: 'data-apart="0"',
      },
    );
    const keyword = page.getByRole('link', { name: 'folding desk' });
    await keyword.waitFor();
    expect(await keyword.getAttribute('href')).toBe(desk);
    for (const link of [keyword, page.locator('#placed')]) {
      const [opened] = await Promise.all([
        person.waitForEvent('page'),
        link.click({ modifiers: ['ControlOrMeta'] }),
      ]);
      await opened.waitForURL(/note=/);
      const click = new URL(opened.url()).searchParams.get('note') ?? '';
      expect(isUlid(click)).toBe(true);
      await vi.waitFor(async () =>
        expect(
          (await readJournal(server)).findLast(
            (record) => record.kind === 'beacon' && record.event === 'click',
          ),
        ).toMatchObject({
          click,
          link: 'lnk_desk',
          page: `${origin}/desk`,
        }),
      );
      expect(await link.getAttribute('href')).toBe(desk);
      await opened.close();
    }
  });

  it('links all the same where the page may tell nobody', async () => {
    const before = (await readJournal(server)).filter(({ kind }) => kind === 'beacon').length;
    const page = await open('/quiet', `<p>A folding desk and a Saturn eyepiece.`, { policy: strict(false) });
    await page.getByRole('link', { name: 'Saturn eyepiece' }).waitFor();
    const [opened] = await Promise.all([
      person.waitForEvent('page'),
      page.getByRole('link', { name: 'folding desk' }).click({ modifiers: ['ControlOrMeta'] }),
    ]);
    await opened.waitForURL(/note=\w{26}/);
    await untilQuiet(page);
    expect((await readJournal(server)).filter(({ kind }) => kind === 'beacon')).toHaveLength(before);
    await opened.close();
  });

  it('follows what is added later, and goes on in peace with a page that takes it out again', async () => {
    const page = await open('/later', '<div id="feed"></div><div id="fight"></div>', {
      attributes: 'data-per-keyword="9" data-per-link="9" data-apart="0"',
    });
    await untilQuiet(page);
    await page.evaluate((address) => {
      for (let i = 0; i < 3; i++)
        setTimeout(() => {
          const piece = document.createElement('p');
          piece.innerHTML = `Number ${i}: a Saturn eyepiece and <a href="${address}">a kit</a>`;
          document.getElementById('feed')?.append(piece);
        }, i * 150);
    }, shop);
    await vi.waitFor(async () => expect(await linked(page)).toHaveLength(6), { timeout: 5000 });
    expect((await linked(page)).every((each) => each.endsWith(`${linkDomain}/saturn-kit`))).toBe(true);
    // A program on the page that wants its own words there, whatever happens.
    await page.evaluate((address) => {
      const fight = document.getElementById('fight') as HTMLElement; // it is in the page above
      const draw = () => {
        fight.dataset.drawn = String(Number(fight.dataset.drawn ?? 0) + 1);
        fight.innerHTML = `A Saturn eyepiece and <a href="${address}">a kit</a>.`;
      };
      new MutationObserver(() => {
        if (fight.querySelector('[rel~=sponsored]')) draw();
      }).observe(fight, { childList: true, subtree: true, attributes: true });
      draw();
    }, shop);
    await page.waitForTimeout(2500);
    // Ten looks a second at most, and a keyword is not linked oftener than it may be.
    expect(Number(await page.locator('#fight').getAttribute('data-drawn'))).toBeLessThan(60);
  });

  it('does nothing where it cannot: without storage, with data nobody can read, or as a file that was cut off', async () => {
    const { text } = (await (
      await fetch(`http://localhost:${server.port}/api/place-script?host=see.nightledge.localhost`, {
        headers: { Authorization: `Bearer ${server.key}` },
      })
    ).json()) as { text: string };
    for (const [name, script] of [
      ['cut', text.slice(0, text.length / 2)],
      ['odd', text.replace(/"links":\[\[.*?\]\]/, '"links":7')],
      ['whole', text],
    ] as const) {
      pages.set(`/${name}.js`, { html: script, policy: undefined });
      pages.set(`/broken-${name}`, {
        html: `<!doctype html><p id="words">A Saturn eyepiece. <a id="shop" href="${shop}">kit</a></p><script src="/${name}.js" data-apart="0"></script><p id="end">End`,
        policy: `default-src 'none'; script-src 'self'; sandbox allow-scripts`,
      });
      const page = await person.newPage();
      await page.goto(`${origin}/broken-${name}`);
      await page.locator('#end').waitFor();
      await untilQuiet(page);
      const isWhole = name === 'whole';
      expect(await page.locator('#words').innerText()).toBe('A Saturn eyepiece. kit');
      expect(await page.locator('#words a').count(), name).toBe(isWhole ? 2 : 1);
      expect(await page.locator('#shop').getAttribute('href'), name).toBe(
        isWhole ? `${linkDomain}/saturn-kit` : shop,
      );
    }
  });

  it('tells for how long and how far a page was read and what stands on it, and keeps nothing in the browser unless asked to', async () => {
    const body = `<p>A Saturn eyepiece.</p><div style="height:4000px"></div><p>End.`;
    const kept = (page: Page) =>
      page.evaluate(() =>
        JSON.stringify([document.cookie, Object.keys(localStorage), { ...sessionStorage }]),
      );
    const page = await open('/read', body, {
      query: '?from=newsletter',
      attributes: 'data-source-from="visit"',
    });
    await page.getByRole('link', { name: 'Saturn eyepiece' }).waitFor();
    expect(await linked(page)).toEqual([`Saturn eyepiece ${linkDomain}/saturn-kit~newsletter`]);
    await page.mouse.wheel(0, 1500);
    await page.waitForTimeout(1500);
    expect(await kept(page)).toBe('["",[],{}]');
    await page.goto(`${origin}/gear`);
    const asked = await open('/kept', body, {
      query: '?from=newsletter',
      attributes: 'data-source-from="visit" data-keep="session"',
    });
    await asked.getByRole('link', { name: 'Saturn eyepiece' }).waitFor();
    pages.set('/kept-next', { html: pages.get('/kept')?.html ?? '', policy: undefined });
    await asked.goto(`${origin}/kept-next`);
    await asked.getByRole('link', { name: 'Saturn eyepiece' }).waitFor();
    expect(await linked(asked)).toEqual([`Saturn eyepiece ${linkDomain}/saturn-kit~newsletter`]);
    expect(await kept(asked)).toBe('["",[],{"fernhop-source":"newsletter"}]');
  });

  it('works on the page of a site that was never touched', async () => {
    const page = await person.newPage();
    const refused: string[] = [];
    page.on('console', (message) => refused.push(message.text()));
    await page.goto(`http://nightledge.localhost:${server.port + 1}/`);
    const kit = page.getByRole('link', { name: 'kit we use' });
    await vi.waitFor(async () =>
      expect(await kit.getAttribute('href')).toBe(`${linkDomain}/saturn-kit~first-night`),
    );
    const [shopPage] = await Promise.all([person.waitForEvent('page'), kit.click()]);
    await shopPage.waitForURL(/polehouse/);
    // The shop may be there before the line is written.
    await vi.waitFor(async () => {
      const hop = (await readJournal(server)).findLast(({ kind }) => kind === 'hop');
      expect(hop).toMatchObject({
        link: 'lnk_saturn',
        source: 'first-night',
        from: `http://nightledge.localhost:${server.port + 1}/`,
      });
    });
    expect(refused).toEqual([]);
  });

  it('is what the server keeps of the page once it stops', async () => {
    await server.stop();
    const folder = join(server.dataDir, 'journal');
    const kept = readdirSync(folder)
      .filter((name) => /^\d.*\.ndjson$/.test(name))
      .flatMap((name) => parseNdjson<JournalRecord>(readFileSync(join(folder, name), 'utf8')));
    const reading = kept.find((record) => record.kind === 'reading' && record.page === `${origin}/read`);
    if (reading?.kind !== 'reading') throw new Error('Nothing was kept of it.');
    expect(reading).toMatchObject({ views: 1, links: ['lnk_saturn'] });
    // It was in sight for a second and a half, and read to the middle.
    expect(reading.seconds).toBeGreaterThan(0);
    expect(reading.depth).toBeGreaterThan(35);
    expect(reading.depth).toBeLessThan(75);
  });
});
