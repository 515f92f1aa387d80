import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import AxeBuilder from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { monthIn } from '#core/hop';
import { knownNetworks } from '#core/link-parts';
import type { Network, Program } from '#core/catalogue';
import { postbackFields, secret } from '#core/catalogue';
import { changeOf, readJournal, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import type { Kind } from '../standins/index.ts';
import { kinds, send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { deskWithLink, pick } from './desk.ts';

let browser: Browser;
let server: Running;
let page: Page;
let key: string;

beforeAll(async () => {
  browser = await startBrowser();
  const desk = await deskWithLink(browser, '/programs/net_harrowmead');
  ({ server, page } = desk);
  ({ key } = desk.records);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const goTo = (path: string) => page.goto(`http://localhost:${server.port}${path}`);
const short = `http://see.nightledge.localhost`;
/** A postback as a network sends it. */
const postback = (query: string, to = key) => send(`${short}:${server.port}/postback/${to}?${query}`);
/** A click of a person on the link; gives its ID. */
const click = async (): Promise<string> => {
  const seen = (await readJournal(server)).length;
  await send(`${short}:${server.port}/saturn-kit`, {
    headers: {
      'User-Agent':
        'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0 ' + String(Math.random()),
      'Accept-Language': 'en-GB',
    },
  });
  let found = '';
  await expect
    .poll(async () => {
      const record = (await readJournal(server)).slice(seen).findLast(({ kind }) => kind === 'hop');
      found = record?.kind === 'hop' ? record.click : '';
      return found;
    })
    .not.toBe('');
  return found;
};

describe('the bench', () => {
  it('sends a sample over the real address, shows what was read, and makes no conversion', async () => {
    const id = await click();
    await goTo('/programs/net_harrowmead');
    await page.getByRole('link', { name: 'Send a sample' }).click();
    await page.getByText('marked as one').waitFor();
    await expect.poll(() => page.getByLabel('What is sent').inputValue()).toContain(id);
    await page.getByRole('button', { name: 'Send sample' }).click();
    await page.getByText(/^Answered 200 “ok”/).waitFor();
    await page.getByText('Nothing would go wrong.').waitFor();
    await page.getByText('letter for letter').first().waitFor();
    await goTo('/ledger');
    await page
      .getByText('No conversion')
      .or(page.getByRole('heading', { name: /Ledger/ }))
      .first()
      .waitFor();
    expect(await page.getByText('SAMPLE-').count()).toBe(0);
  });

  it.each([
    ['placeholder not replaced', 'GET', 'did not replace it'],
    ['without a click ID', 'form', 'No click ID came'],
    ['a click of somebody else', 'JSON', 'does not have the form of ours'],
    ['amount with a currency sign', 'GET', 'is no amount'],
    ['a word it never used', 'form', 'Say what it means'],
  ])('says what would have gone wrong: %s, by %s', async (kind, via, words) => {
    await goTo('/programs/net_harrowmead/bench');
    await pick(page.getByLabel('Sample', { exact: true }), kind);
    await pick(page.getByLabel('Sent by'), via === 'GET' ? via : new RegExp(`as (?:a )?${via}`));
    const text = await page.getByLabel('What is sent').inputValue();
    await page.getByRole('button', { name: 'Send sample' }).click();
    await page.getByText(/^Answered 200/).waitFor();
    const newest = page.locator('.pane section li').first();
    const txn = /SAMPLE-\d+/.exec(text)?.[0] ?? 'none';
    await newest.getByText(txn).first().waitFor();
    await newest.getByText(words).first().waitFor();
    expect(await newest.getByText('Nothing would go wrong.').count()).toBe(0);
  });

  it('says when the very same came before', async () => {
    const id = await click();
    await postback(`click=${id}&txn=HM-9&amount=8.60`);
    await goTo('/programs/net_harrowmead/bench');
    await expect.poll(() => page.getByLabel('What is sent').inputValue()).toContain(id);
    await page.getByLabel('What is sent').fill(`click=${id}&txn=HM-9&amount=8.60`);
    await page.getByRole('button', { name: 'Send sample' }).click();
    await page
      .getByText(/The very same came/)
      .first()
      .waitFor();
  });
});

describe('the address of a network', () => {
  it('warns when it is set for the account and for an offer, and says in which order to switch one off', async () => {
    await goTo('/programs/net_harrowmead');
    await page.getByLabel('the whole account').check();
    expect(await page.getByText('Both fire').count()).toBe(0);
    await page.getByRole('checkbox', { name: 'Polehouse Optics' }).check();
    await page.getByText('Both fire for Polehouse Optics').waitFor();
    await page.getByText('Keep the one of the whole account.').waitFor();
    await page.getByRole('checkbox', { name: 'Polehouse Optics' }).uncheck();
    await page.getByText('Both fire').waitFor({ state: 'detached' });
  });

  it('learns what a network calls each value from an example', async () => {
    await goTo('/programs/net_harrowmead');
    await page.getByRole('button', { name: 'Change what it calls them' }).click();
    await page
      .getByLabel(/^What its help page says/)
      .fill('https://example.test/in?subid=[[ref1]]&payout=[[commission]]&tid=[[order]]&state=[[state]]');
    await page.getByRole('button', { name: 'Read it' }).click();
    expect(await page.getByLabel('Name of the parameter with the click ID').inputValue()).toBe('subid');
    expect(await page.getByLabel('Placeholder of the what you earn').inputValue()).toBe('[[commission]]');
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('subid=[[ref1]]').first().waitFor();
    const id = await click();
    await postback(`subid=${id}&payout=13.83&tid=HM-77&state=confirmed`);
    await page.getByText('HM-77').first().waitFor();
    const first = page.locator('ul li', { hasText: 'HM-77' }).first();
    await first.getByText('€13.83').waitFor();
    await first.getByText('approved').first().waitFor();
    await page.getByRole('button', { name: 'Undo' }).or(page.getByLabel('Paste bar')).first().waitFor();
    await page.keyboard.press('Control+z');
    await page.getByText('click=[[ref1]]').first().waitFor();
  });

  it('gets a new key while the old one is good for a while', async () => {
    await goTo('/programs/net_harrowmead');
    await page.getByRole('button', { name: 'Give it a new key' }).click();
    await page.getByText(/The key before it is good until/).waitFor();
    const rolled = (await page.locator('.address code').innerText()).match(/postback\/(\w+)/)?.[1] ?? '';
    expect(rolled).not.toBe(key);
    await expect
      .poll(async () => (await postback('txn=HM-first&amount=1.00', rolled)).status, { timeout: 10_000 })
      .toBe(200);
    expect((await postback('txn=HM-old&amount=1.00')).status).toBe(200);
    await page.getByText(/last used/).waitFor({ timeout: 10_000 });
    await page.getByText('It came by the old key.').first().waitFor();
    await page.getByRole('button', { name: 'End it now' }).click();
    await expect.poll(async () => (await postback('txn=HM-late')).status, { timeout: 10_000 }).toBe(404);
    await page.getByRole('button', { name: 'Show what could not be taken' }).click();
    // It may have been taken once more before the server knew that the key had ended.
    await page.getByText(/^GET \/postback\/.*txn=HM-late/).waitFor();
    key = rolled;
    expect((await postback('txn=HM-new&amount=1.00')).status).toBe(200);
  });
});

describe('what is asked about', () => {
  it('an amount out of the usual is read as a hundredth once a person says so', async () => {
    for (const [n, amount] of ['8.10', '8.60', '9.05', '8.70'].entries()) {
      const id = await click();
      await postback(`click=${id}&txn=U-${n}&amount=${amount}&event=odd`);
    }
    const id = await click();
    await postback(`click=${id}&txn=U-odd&amount=860&event=odd`);
    await goTo('/reconcile/net_harrowmead');
    await page.getByLabel('To settle').getByRole('link', { name: 'An amount out of the usual' }).click();
    await page.getByText('860.00 came without decimals, and 8.60 is usual here.').waitFor();
    await page.getByRole('button', { name: 'Read it as 8.60' }).click();
    await expect
      .poll(() =>
        page.getByLabel('To settle').getByRole('link', { name: 'An amount out of the usual' }).count(),
      )
      .toBe(0);
    await goTo('/ledger/net_harrowmead');
    await page.getByRole('row', { name: /U-odd/ }).getByText('€8.60').first().waitFor();
  });

  it('what comes from nobody on the list waits and counts for nothing', async () => {
    await goTo('/programs/net_harrowmead');
    await page.getByRole('button', { name: 'Change who may send' }).click();
    await page.getByLabel(/^Addresses it sends from/).fill('192.0.2.10');
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('Taken from 192.0.2.10').waitFor();
    const id = await click();
    // One that came before the server knew of the list is taken; a transaction of its own keeps it apart.
    let tries = 0;
    await expect
      .poll(
        async () => {
          await postback(`click=${id}&txn=F-${++tries}&amount=500.00`);
          const last = (await readJournal(server)).findLast((record) => record.kind === 'postback');
          return last?.kind === 'postback' ? last.unverified : undefined;
        },
        { timeout: 10_000 },
      )
      .toBe('sender');
    await goTo('/reconcile/net_harrowmead');
    await page.getByLabel('To settle').getByRole('link', { name: 'Sender not verified' }).waitFor();
    await page.getByRole('button', { name: /^Send/ }).count();
    await goTo('/programs/net_harrowmead');
    await page.getByRole('button', { name: 'Change who may send' }).click();
    await page.getByLabel(/^Addresses it sends from/).fill('');
    await page.getByRole('button', { name: 'Save' }).click();
    await page.getByText('Taken from any address.').waitFor();
  });
});

describe('a page of one’s own', () => {
  it('keeps the click from page to page and tells by the pixel, which stays unverified', async () => {
    await goTo('/programs/net_harrowmead');
    await page.getByText('For pages of your own').click();
    const snippets = await page.locator('.snippet code').allInnerTexts();
    const landing = snippets.find((text) => !text.includes('data-key') && text.includes('thanks.js')) ?? '';
    const thanks = snippets.find((text) => text.includes('data-key')) ?? '';
    const own = createServer((request, response) => {
      response.setHeader('Content-Type', 'text/html');
      response.end(
        request.url?.startsWith('/thanks')
          ? `<p>Thank you.</p>${thanks.replace('data-event', 'data-txn="OWN-1" data-amount="19.00" data-event')}`
          : `<a href="/thanks">Sign up</a>${landing}`,
      );
    });
    await new Promise<void>((resolve) => own.listen(0, '127.0.0.1', resolve));
    const { port } = own.address() as AddressInfo; // it listens on a port
    const id = await click();
    const reader = await (await freshPerson(browser)).newPage();
    await reader.goto(`http://shop.localhost:${port}/?click=${id}`);
    await reader.getByRole('link', { name: 'Sign up' }).click();
    await reader.getByText('Thank you.').waitFor();
    own.closeAllConnections();
    own.close();
    await goTo('/ledger/net_harrowmead');
    const line = page.getByRole('row', { name: /OWN-1/ });
    await line.getByText('unverified').waitFor({ timeout: 10_000 });
    await line.getByText('exact').waitFor();
    // It counts for nothing: the balance has no such lead.
    await goTo('/reconcile/net_harrowmead');
    await page
      .getByRole('row', { name: /^Commission/ })
      .first()
      .waitFor();
    expect(await page.locator('table').getByText('€19.00').count()).toBe(0);
  });
});

describe('the four simulated networks, live', () => {
  /** What a person sets up for a network: itself, a program, a link to one of its shop’s products. */
  const join = async (kind: Kind, revision: number) => {
    const known = knownNetworks.find(({ name }) => name === kind.name);
    if (!known) throw new Error(`${kind.name} ships`);
    const { programs, postback: shipped, ...rest } = known;
    const bytes = () => secret(crypto.getRandomValues(new Uint8Array(30)));
    const network: Network = {
      ...rest,
      id: `net_live${kind.id}`,
      name: `${kind.name} live`,
      postback: { ...shipped, key: bytes(), pixelKey: bytes() },
    };
    const [of] = programs;
    const program: Program = {
      id: `prg_live${kind.id}`,
      network: network.id,
      name: of?.name ?? '',
      code: of?.code ?? '',
      hosts: [...(of?.hosts ?? [])],
      state: 'joined',
      ...(kind.id === 'vennor' && {
        terms: [{ kind: 'fixed', from: '2026-01-01', event: '', amount: 600, currency: 'GBP' }] as const,
      }),
    } as Program; // terms are a copy of a constant
    const { refused } = await sendChanges(server, [
      changeOf('network', network, revision),
      changeOf('program', program, revision),
    ]);
    expect(refused).toEqual([]);
    return network;
  };

  it.each(kinds.map((kind) => [kind.name, kind] as const))(
    '%s: followed, bought, told, approved, reported, reconciled',
    async (_name, kind) => {
      const network = await join(kind, 1);
      const origin = `http://${kind.host}:${server.port + 1}`;
      // Its tracking link, from its own page, with our click ID in its slot.
      const links = await send(`${origin}${kind.isOwnShop ? '/links' : '/'}`);
      const sample = (/<code\s*>([^<]*)<\/code/.exec(links.body)?.[1] ?? '').replaceAll('&amp;', '&').trim();
      expect(sample).toContain(kind.accounts[0]);
      const id = await click();
      const tracking = sample.replace(`${kind.slots[0] ?? ''}=`, `${kind.slots[0] ?? ''}=${id}`);
      const query = postbackFields
        .flatMap((field) => {
          const placeholder = network.postback.placeholders[field];
          return placeholder === undefined ? [] : [`${field}=${placeholder}`];
        })
        .join('&');
      const form = (path: string, fields: Record<string, string>) =>
        send(
          `${origin}/console/${path}`,
          { method: 'POST', headers: { 'Content-Type': 'application/x-www-form-urlencoded' } },
          new URLSearchParams(fields).toString(),
        );
      await form('postback', {
        offer: '',
        url: `${short}:${server.port}/postback/${network.postback.key}?${query}`,
      });
      const visitor = await (await freshPerson(browser)).newPage();
      await visitor.goto(tracking);
      await visitor.getByRole('button', { name: 'Place order' }).click();
      await visitor.getByText('Thank you.').waitFor();
      const heard = async () =>
        (await readJournal(server)).filter(
          (record) => record.kind === 'postback' && record.network === network.id,
        );
      await expect.poll(async () => (await heard()).length, { timeout: 10_000 }).toBe(1);
      await visitor.goto(`${origin}/console`);
      await visitor.getByRole('button', { name: 'Approve' }).first().click();
      const told = await heard();
      const [first] = told;
      expect(first?.kind === 'postback' && first.via).toBe(kind.via);

      const report = await send(`${origin}/report?account=${kind.accounts[0]}`);
      await goTo(`/report/${network.id}`);
      await page.getByText('Drop a report here').waitFor();
      await page.locator('input[type=file]').setInputFiles({
        name: kind.report.file,
        mimeType: 'text/plain',
        buffer: Buffer.from(report.body),
      });
      // In the first twelve days of a month nobody can tell day from month, so it asks.
      const order = { harrowmead: 'day, month, year', kelvane: 'month, day, year' }[kind.id];
      if (order !== undefined) await pick(page.getByLabel('Dates', { exact: true }), order);
      await page.getByRole('button', { name: 'Bring in 1 row' }).click();
      await page.getByText('They are brought in').waitFor();
      const month = monthIn(network.zone, Date.now());
      await goTo(`/reconcile/${network.id}/${month}`);
      const cells = page.getByRole('row', { name: /^Conversions/ }).getByRole('cell');
      await expect
        .poll(async () => [await cells.nth(0).innerText(), await cells.nth(1).innerText()], {
          timeout: 15_000,
        })
        .toEqual(['1', '1']);
      await visitor.context().close();
    },
    60_000,
  );
});

describe('its screens', () => {
  it.each(['light', 'dark'] as const)('are in order for axe, %s', async (look) => {
    await page.evaluate((name) => localStorage.setItem('fernhop-theme', name), look);
    for (const path of [
      '/programs/net_harrowmead',
      '/programs/net_harrowmead/bench',
      '/programs/net_harrowmead/first',
      '/programs/new',
      '/setup',
      '/payments/net_harrowmead',
    ]) {
      await goTo(path);
      await page.getByLabel('Paste bar').waitFor();
      await page.waitForTimeout(500);
      if (path === '/programs/new')
        await page
          .getByLabel('Two or three of its tracking links')
          .fill('https://go.farrow.example/c/nl-9/4471?sub1=&k=3&u=https%3A%2F%2Fshop.example%2Fa');
      if (path.endsWith('harrowmead') && path.startsWith('/programs'))
        await page.getByRole('button', { name: 'Change what it calls them' }).click();
      const { violations } = await new AxeBuilder({ page }).analyze();
      expect(violations.map((v) => `${path} ${v.id}: ${v.nodes[0]?.html ?? ''}`)).toEqual([]);
    }
  });
});
