import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { isUlid } from '#core/catalogue';
import { call } from '../server/client.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { clipboard, openApp, paste, rowOf, startServer, untilLive } from './desk.ts';
import { article } from './testing/article.ts';

let browser: Browser;
beforeAll(async () => {
  browser = await startBrowser();
});
afterAll(() => browser.close());

describe('the whole loop', () => {
  it('from a pasted link to an approved sale on that very click', async () => {
    const server = await startServer();
    const person = await freshPerson(browser);
    const app = await openApp(person, server);
    expect(app.url()).not.toContain('key=');

    // Empty: the first step is offered in place.
    await app.getByLabel('Domain for short links').fill('see.nightledge.localhost');
    await app.getByRole('button', { name: 'Add domain' }).click();
    await app.getByText('No links yet').waitFor();

    // A tracking link copied at the network, pasted anywhere.
    const network = await person.newPage();
    await network.goto(`http://t.harrowmead.localhost:${server.port + 1}/`);
    const tracking = await network
      .locator('tr', { hasText: 'Saturn eyepiece kit' })
      .locator('code')
      .innerText();
    expect(tracking).toContain('&ref1=&ref2=&page=');
    await app.bringToFront();
    await app.locator('body').click({ position: { x: 600, y: 700 } });
    await paste(app, tracking);
    await app.getByText('Harrowmead, Polehouse Optics:').waitFor();
    await app.keyboard.press('Enter');
    await untilLive(app);
    expect(app.url()).toMatch(/\/links\/lnk_/);
    const { body } = await call(server, 'GET', '/changes?after=0');
    const { changes } = JSON.parse(body) as {
      changes: { kind: string; value: { slug?: string; destination?: string } }[];
    };
    expect(changes.find((change) => change.kind === 'link')?.value).toMatchObject({
      slug: 'saturn',
      destination: tracking.replace('ref1=', 'ref1={click}').replace('ref2=', 'ref2={source}'),
    });
    const pays = app.getByText('Will it pay?').locator('..');
    expect(await pays.innerText()).toMatch(/account\s+click ID\s+marks\s+postback: not seen/);

    // The postback address goes from Programs to the network's console.
    await app.getByRole('link', { name: 'Programs' }).click();
    await app.getByRole('heading', { name: 'Programs', level: 1 }).waitFor();
    await app.getByRole('button', { name: 'Copy', exact: true }).click();
    const postback = await vi.waitFor(async () => {
      const text = await clipboard(app);
      expect(text).toContain('/postback/');
      return text;
    });
    await network.goto(`http://t.harrowmead.localhost:${server.port + 1}/console`);
    await network.getByLabel('All offers of the account').fill(postback);
    await network.getByRole('button', { name: 'Set' }).first().click();

    // The link is copied as HTML into an article, and somebody else clicks it there.
    await app.goBack();
    await app.getByRole('button', { name: 'Copy as HTML' }).click();
    const html = await vi.waitFor(async () => {
      const text = await clipboard(app);
      expect(text).toMatch(/^<a /);
      return text;
    });
    expect(html).toContain('rel="sponsored nofollow noopener" target="_blank"');
    const site = await article(html);
    const reader = await freshPerson(browser);
    const asked: string[] = [];
    reader.on('request', (request) => asked.push(request.url()));
    const reading = await reader.newPage();
    await reading.goto(site.url);
    const [shop] = await Promise.all([reader.waitForEvent('page'), reading.locator('a').click()]);
    await shop.getByRole('button', { name: 'Place order' }).waitFor();
    expect(new URL(shop.url()).hostname).toBe('polehouse.localhost');

    const atNetwork = asked
      .map((url) => new URL(url))
      .find((url) => url.hostname === 't.harrowmead.localhost');
    const click = atNetwork?.searchParams.get('ref1') ?? '';
    expect(isUlid(click)).toBe(true);
    const cookies = await reader.cookies(`http://t.harrowmead.localhost:${server.port + 1}`);
    expect(cookies.map((cookie) => cookie.name)).toContain('hm_visitor');

    await shop.getByRole('button', { name: 'Place order' }).click();
    await shop.locator('#thanks').waitFor();

    // The sale on the row, on the route and on the journey of the very click.
    await app.bringToFront();
    await app.getByText('1 conversion in 30 days, €13.83.').waitFor();
    await vi.waitFor(async () =>
      expect(await rowOf(app, 'saturn')).toMatchObject({ Visits: '1', 'Conv.': '1', EPC: '€13.83' }),
    );
    expect(await pays.innerText()).toMatch(/postback$/);
    await app.getByRole('list', { name: 'Newest conversions' }).getByRole('link').click();
    await app.waitForURL(`**/click/${click}`);
    const journey = app.getByLabel('Route');
    await journey.getByText('Counted as a visitor.').waitFor();
    expect(await journey.innerText()).toContain(atNetwork?.href ?? 'the address at the network');
    await vi.waitFor(async () => expect(await journey.innerText()).toMatch(/€13.83\s+pending/));

    // Approved at the network, seen here without a reload.
    await network.goto(`http://t.harrowmead.localhost:${server.port + 1}/console`);
    await network.getByRole('button', { name: 'Approve' }).click();
    await journey.getByText(/State changed: approved/).waitFor();
    await vi.waitFor(async () => expect(await journey.innerText()).toMatch(/€13.83\s+approved/));
    expect(await app.getByLabel('Live events, newest first').innerText()).toMatch(
      /postback Harrowmead €13.83 approved → saturn/,
    );

    site.close();
    await Promise.all([person.close(), reader.close()]);
    await server.stop();
  });

  it('with the server away in between: edits wait, go live, and nothing is lost', async () => {
    let server = await startServer();
    const person = await freshPerson(browser);
    const app = await openApp(person, server);
    await app.getByLabel('Domain for short links').fill('see.nightledge.localhost');
    await app.getByRole('button', { name: 'Add domain' }).click();
    await app.getByText('No links yet').waitFor();
    await app.getByText('Server ready').waitFor();
    const { port, dataDir } = server;
    await server.stop();

    const tracking = `http://t.harrowmead.localhost:${port + 1}/r?by=nl-4471&deal=2093&ref1=&ref2=&page=http%3A%2F%2Fpolehouse.localhost%3A${port + 1}%2Fkits%2Fsaturn`;
    await app.locator('body').click({ position: { x: 600, y: 700 } });
    await paste(app, tracking);
    await app.keyboard.press('Enter');
    await app.getByText('Saved here. It goes live when the server has taken it.').waitFor();
    await app.getByText(/Server away: 4 edits wait/).waitFor();
    await app.getByRole('button', { name: 'Edit entry' }).click();
    await app.getByLabel('Title').fill('Rings, the kit');
    await app.getByLabel('Slug').fill('rings');
    await app.getByRole('button', { name: 'Save' }).click();
    await app.getByRole('heading', { name: 'Rings, the kit' }).waitFor();

    // A reload in the middle: everything is still here, though no server answers.
    const again = await person.newPage();
    await app.close();
    server = await startServer({ port, dataDir });
    await again.goto(`http://localhost:${port}/links`);
    await again.getByText('rings', { exact: true }).first().click();
    await untilLive(again);
    await again.getByText('The link is live').waitFor();
    const { body } = await call(server, 'GET', '/changes?after=0');
    const { changes } = JSON.parse(body) as {
      changes: { kind: string; value: { slug?: string; title?: string } }[];
    };
    expect(changes.map((change) => change.kind).sort()).toEqual([
      'account',
      'domain',
      'link',
      'network',
      'program',
    ]);
    expect(changes.find((change) => change.kind === 'link')?.value).toMatchObject({
      slug: 'rings',
      title: 'Rings, the kit',
    });
    await person.close();
    await server.stop();
  });
});
