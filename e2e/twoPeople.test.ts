import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import type { ChangesPage } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import { call, changeOf, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, untilLive } from './desk.ts';
import { deskAndOthers } from './deskAndOthers.ts';

let browser: Browser;
let desk: Awaited<ReturnType<typeof deskAndOthers>>;
let server: Running;
let context: BrowserContext;
let page: Page;

beforeAll(async () => {
  browser = await startBrowser();
  desk = await deskAndOthers(browser);
  ({ server, context, page } = desk);
});
// One that fails leaves the others a network.
afterEach(() => context.setOffline(false));
afterAll(async () => {
  await browser.close();
  await server.stop();
});

describe('two people and one link', () => {
  it('in different fields: the title of one stays when the other saves notes from a form opened before', async () => {
    await desk.editEntry('Notes', 'mine');
    await desk.elsewhere({ title: 'Joris’s title' });
    await desk.heading('Joris’s title');
    await desk.save();
    await untilLive(page);
    await vi.waitFor(async () =>
      expect((await desk.stored('lnk_saturn'))?.value).toMatchObject({
        title: 'Joris’s title',
        notes: 'mine',
      }),
    );
  });

  it('in the same field: both are kept until one chooses, listed with its cause', async () => {
    await desk.editEntry('Title', 'Mine');
    await desk.elsewhere({ title: 'Joris’s other title', starred: true });
    await desk.heading('Joris’s other title');
    await desk.save();
    await page.getByText('1 not live: look').click();
    await page.getByRole('heading', { name: 'To choose' }).waitFor();
    const versions = page.getByRole('alert', { name: 'Two versions' });
    expect(await versions.innerText()).toMatch(/Joris changed the same/);
    await versions.getByLabel('Joris’s: Joris’s other title').click();
    await versions.getByRole('button', { name: 'Take theirs' }).click();
    await page.getByText('Nothing waits: all that was made here is with the server.').waitFor();
    expect((await desk.stored('lnk_saturn'))?.value).toMatchObject({
      title: 'Joris’s other title',
      starred: true,
    });
  });

  it('an undo leaves what the other changed later, and says so', async () => {
    await desk.goTo('/links/lnk_saturn');
    await desk.editEntry('Title', 'One step');
    await page.getByLabel('Notes', { exact: true }).fill('with two fields');
    await desk.save();
    // The screen says "live" until the edit is kept: only the server knows when it has it.
    await vi.waitFor(
      async () => expect((await desk.stored('lnk_saturn'))?.value).toMatchObject({ title: 'One step' }),
      10_000,
    );
    await untilLive(page);
    await desk.elsewhere({ title: 'Joris’s last word' });
    await desk.heading('Joris’s last word');
    await page.locator('body').click({ position: { x: 600, y: 740 } });
    await page.keyboard.press('ControlOrMeta+z');
    await page.getByText('Undone, but for title: somebody changed that later').waitFor();
    await untilLive(page);
    expect((await desk.stored('lnk_saturn'))?.value).toMatchObject({
      title: 'Joris’s last word',
      notes: 'mine',
    });
  });

  it('a removal against an edit is asked about, and either way ends', async () => {
    await context.setOffline(true);
    await page.getByRole('button', { name: 'More' }).click();
    await page.getByRole('button', { name: 'Remove' }).click();
    await page.getByText('Server away: 1 edit waits').waitFor();
    await desk.elsewhere({ title: 'Still wanted' });
    await context.setOffline(false);
    await page.getByText('1 not live: look').click();
    await page.getByText('Joris changed this while you removed it').waitFor();
    await page.getByRole('button', { name: 'Keep it, with theirs' }).click();
    await page.getByText('Nothing waits').waitFor();
    await desk.goTo('/links/lnk_saturn');
    await desk.heading('Still wanted');
    await untilLive(page);

    await desk.editEntry('Title', 'Wanted here too');
    await desk.elsewhere(null);
    await page.getByText('Somebody removed this link while you edit it.').waitFor();
    expect(await page.getByLabel('Title', { exact: true }).inputValue()).toBe('Wanted here too');
    await desk.save();
    await page.getByText('1 not live: look').click();
    await page.getByText('Joris removed this while you changed it').waitFor();
    await page.getByRole('button', { name: 'Keep it, with your change' }).click();
    await vi.waitFor(async () =>
      expect((await desk.stored('lnk_saturn'))?.value).toMatchObject({ title: 'Wanted here too' }),
    );
    await desk.goTo('/links/lnk_saturn');
    await untilLive(page);
  });
});

describe('a form that is open', () => {
  it('of a program and of a domain stays when somebody removes it meanwhile', async () => {
    const { domain, network } = desk.records;
    const unused = [
      [
        'program',
        { ...desk.records.program, id: 'prg_unused', name: 'Unused', code: 'u' },
        `/programs/${network.id}`,
        'Unused',
        'Name',
        'Still wanted',
      ],
      [
        'domain',
        { ...domain, id: 'dom_unused', host: 'go.unused.localhost' },
        '/setup',
        'go.unused.localhost',
        'Time zone',
        'Asia/Tokyo',
      ],
    ] as const;
    for (const [kind, value, path, name, field, text] of unused) {
      expect((await sendChanges(server, [changeOf(kind, value, 1, 'Joris')])).refused).toEqual([]);
      await desk.goTo(path);
      await page.getByRole('button', { name: `Edit ${name}` }).click();
      await page.getByLabel(field, { exact: true }).fill(text);
      const change = changeOf(kind, value, 2, 'Joris');
      expect((await sendChanges(server, [{ ...change, value: null }])).refused).toEqual([]);
      await page.getByText(`Somebody removed this ${kind} while you edit it.`).waitFor();
      expect(await page.getByLabel(field, { exact: true }).inputValue()).toBe(text);
      await page.getByRole('button', { name: 'Save' }).first().click();
      await page.getByText('1 not live: look').click();
      await page.getByText('Joris removed this while you changed it').waitFor();
      await page.getByRole('button', { name: 'Let it be removed' }).click();
      await page.getByText('Nothing waits').waitFor();
    }
  });
});

describe('what there is one of', () => {
  it('a rate of a day that is given already is asked about; two at once hear of each other', async () => {
    const give = async (value: string) => {
      await page.getByLabel('Currency', { exact: true }).last().fill('USD');
      await page.getByLabel('Day of the rate').fill('2026-11-02');
      await page.getByLabel('Worth in EUR').fill(value);
      await page.getByLabel('Source of the rate').fill('my bank');
      await page.getByRole('button', { name: 'Add rate' }).click();
    };
    await desk.goTo('/setup');
    await context.setOffline(true);
    await give('0.93');
    await page.getByText('Server away: 1 edit waits').waitFor();
    const first = {
      id: sameId('rat', 'USD', 'EUR', '2026-11-02'),
      from: 'USD',
      to: 'EUR',
      day: '2026-11-02',
      rate: '0.92',
      source: 'my bank',
    };
    expect((await sendChanges(server, [changeOf('rate', first, 1, 'Joris')])).refused).toEqual([]);
    await context.setOffline(false);
    await page.getByText('1 not live: look').click();
    const versions = page.getByRole('alert', { name: 'Two versions' });
    await versions.getByText('Joris changed the same').waitFor();
    expect(await versions.innerText()).toMatch(/rate\s+Yours: 0.93\s+Joris’s: 0.92/);
    await versions.getByRole('button', { name: 'Take theirs' }).click();
    await untilGone();
    expect(await changesOf('rate')).toMatchObject([{ value: first }]);

    await desk.goTo('/setup');
    await give('0.94');
    await page.getByText('A rate of that day is given already').waitFor();
    expect(await changesOf('rate')).toMatchObject([{ value: first }]);
    await page.getByRole('button', { name: 'Replace it' }).click();
    await vi.waitFor(async () =>
      expect(await changesOf('rate')).toMatchObject([{ value: { rate: '0.94' } }]),
    );
  });

  const changesOf = async (kind: string) => {
    const { body } = await call(server, 'GET', '/changes?after=0');
    const all: ChangesPage = JSON.parse(body);
    return all.changes.filter((change) => change.kind === kind && change.value !== null);
  };
  const untilGone = () => page.getByText(/^(?:The link is live|All \d+ links live)$/).waitFor();

  it('a payment like one that is noted is asked about', async () => {
    await desk.goTo('/payments/net_harrowmead');
    const note = async (button: string) => {
      await page.getByLabel('Amount').fill('120.00');
      await page.getByRole('button', { name: button, exact: true }).click();
    };
    await note('Note it');
    await page.getByText('is noted.').waitFor();
    await note('Note it');
    await page.getByText('This sum of this day is noted already. Is it a second payment?').waitFor();
    expect(await changesOf('payment')).toHaveLength(1);
    await page.getByRole('button', { name: 'Note it all the same' }).click();
    await vi.waitFor(async () => expect(await changesOf('payment')).toHaveLength(2));
    // From two browsers they could not be asked about; they are marked.
    await page.getByText('noted twice?').waitFor();
  });
});

describe('two people and one report', () => {
  it('bring in the same file: nobody is asked anything, and its rows count once', async () => {
    const own = await freshPerson(browser);
    const other = await openApp(own, server, '/report/net_harrowmead');
    await desk.goTo('/report/net_harrowmead');
    const read = async (on: Page) => {
      await on.getByText('Drop a report here').waitFor();
      await on.locator('input[type=file]').setInputFiles({
        name: 'september.csv',
        mimeType: 'text/csv',
        buffer: Buffer.from(
          'Order,Time,Commission,State\nR-1,2026-09-03 10:00,€8.60,confirmed\nR-2,2026-09-04 10:00,€1.40,confirmed\n',
        ),
      });
      await on.getByText('2 rows are good').waitFor();
    };
    const bring = async (on: Page) => {
      await on.getByRole('button', { name: 'Bring in 2 rows' }).click();
      await on.getByText('They are brought in').waitFor();
    };
    await read(page);
    await read(other);
    await context.setOffline(true);
    await bring(page);
    await bring(other);
    await other.getByText(/^(?:The link is live|All \d+ links live)$/).waitFor();
    await context.setOffline(false);
    await page.getByText(/^(?:The link is live|All \d+ links live)$/).waitFor();
    await desk.goTo('/reconcile/net_harrowmead/2026-09');
    const commission = page.getByRole('row', { name: /^Commission/ }).first();
    await commission.getByText('€10.00').first().waitFor();
    await own.close();
  });
});
