import AxeBuilder from '@axe-core/playwright';
import type { Browser, Page } from 'playwright-core';
import UserAgent from 'user-agents';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ChangesPage, Link } from '#core/catalogue';
import { call, changeOf, fillFirst, readJournal, sendChanges } from '../server/client.ts';
import type { Running } from '../server/testing/process.ts';
import { send } from '../standins/index.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer, untilCounted } from './desk.ts';
import { behindProxy, untilWritten } from './visitors.ts';

const visitors = 900;
let browser: Browser;
let server: Running;
let page: Page;
/** Of each branch how many came, and how many of them bought. */
const came = new Map<string, { visitors: number; sales: number }>();

/** The branch a visitor is shown, by the page behind it. */
const visit = async (ip: number, userAgent: string): Promise<{ branch: string; click: string }> => {
  const { headers } = await send(`http://see.nightledge.localhost:${server.port}/saturn-kit`, {
    headers: {
      'User-Agent': userAgent,
      'Accept-Language': 'de-DE,de;q=0.9',
      'X-Forwarded-For': `203.0.${ip >> 8}.${ip & 255}`,
    },
  });
  const to = new URL(headers.location ?? '');
  return {
    branch: to.searchParams.get('page')?.endsWith('/moon') ? 'moon' : 'kits',
    click: to.searchParams.get('ref1') ?? '',
  };
};
const linkNow = async (): Promise<Link | undefined> => {
  const { body } = await call(server, 'GET', '/changes?after=0');
  const all: ChangesPage = JSON.parse(body);
  const last = all.changes.findLast(({ record }) => record === 'lnk_saturn');
  return last?.value as unknown as Link | undefined;
};

beforeAll(async () => {
  server = await startServer({ env: behindProxy });
  const { link, key } = await fillFirst(server);
  const moon = {
    id: 'bmoon',
    name: 'Moon maps',
    when: {},
    destination: link.destination.replace('kits%2Fsaturn', 'maps%2Fmoon'),
    weight: 1,
  };
  const split = { ...link, branches: [moon] };
  expect((await sendChanges(server, [changeOf('link', split, 2)])).refused).toEqual([]);
  const people = new UserAgent();
  for (let i = 0; i < visitors; i++) {
    const { branch, click } = await visit(i, people.random().toString());
    const of = came.get(branch) ?? { visitors: 0, sales: 0 };
    came.set(branch, of);
    of.visitors += 1;
    // Of the branch one in three buys, of the link's own destination one in thirty.
    if (of.visitors % (branch === 'moon' ? 3 : 30) !== 0) continue;
    of.sales += 1;
    await send(
      `http://localhost:${server.port}/postback/${key}?click=${click}&amount=10.00&txn=S-${i}&status=confirmed`,
    );
  }
  await untilWritten(server, visitors);
  browser = await startBrowser();
  page = await openApp(await freshPerson(browser), server, '/links/lnk_saturn');
  await untilCounted(page);
}, 120_000);
afterAll(async () => {
  await browser.close();
  await server.stop();
});

const table = () => page.getByRole('table', { name: 'Which branch' });

describe('branches of a split', () => {
  it('stand side by side, with what each earned a visitor, and which is better', async () => {
    await table().waitFor();
    const rows = await table().locator('tbody tr').all();
    const [first = [], second = []] = await Promise.all(rows.map((row) => row.locator('td').allInnerTexts()));
    const [moon, kits] = [came.get('moon'), came.get('kits')];
    expect(first.slice(1, 3)).toEqual([`${moon?.visitors}`, `${moon?.sales}`]);
    expect(second.slice(1, 3)).toEqual([`${kits?.visitors}`, `${kits?.sales}`]);
    expect(first[0]).toMatch(/^Moon maps\s*better$/);
    expect(second[0]).toMatch(/^Everyone else\s*worse, by at least €\d\.\d\d a visitor$/);
    const { violations } = await new AxeBuilder({ page }).include('.group').analyze();
    expect(violations.map(({ id }) => id)).toEqual([]);
  });

  it('are decided by one press, which visitors feel at once and one step undoes', async () => {
    await page.getByRole('button', { name: 'Send nine of ten to Moon maps' }).click();
    await page.getByText('Nine of ten visitors go to Moon maps.').waitFor();
    await expect.poll(async () => (await linkNow())?.branches?.[0]?.weight).toBe(9);
    const people = new UserAgent();
    const shown = { moon: 0, kits: 0 };
    for (let i = 0; i < 200; i++) {
      const { branch } = await visit(20_000 + i, people.random().toString());
      shown[branch as 'moon' | 'kits'] += 1;
    }
    // Of two hundred 180 are expected; four standard deviations are 17.
    expect(shown.moon).toBeGreaterThan(162);
    expect(shown.kits).toBeGreaterThan(2);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect.poll(async () => (await linkNow())?.branches?.[0]?.weight).toBe(1);
    expect((await readJournal(server)).filter(({ kind }) => kind === 'hop').length).toBeGreaterThanOrEqual(
      visitors,
    );
  });

  it('move their weights by themselves within a limit where that is wanted, and the history says so', async () => {
    await page.getByRole('button', { name: 'Edit split' }).click();
    await page.getByLabel('Weights move by themselves to what earns more').check({ force: true });
    const least = page.getByLabel('Least share of a branch in percent');
    await least.fill('20');
    await least.blur();
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByText('Weights move by themselves: each branch keeps at least 20 %.').waitFor();
    // Nobody presses anything: the branch that surely earns less keeps what was wanted.
    await expect
      .poll(
        async () => {
          const link = await linkNow();
          return [link?.branches?.[0]?.weight, link?.weight];
        },
        { timeout: 30_000 },
      )
      .toEqual([80, 20]);
    expect(await page.getByRole('button', { name: /^Send nine of ten/ }).count()).toBe(0);
    await page.goto(`http://localhost:${server.port}/links/lnk_saturn/history`);
    await page.getByRole('heading', { name: 'History' }).waitFor();
    await page.getByText('weight of branch Moon maps from 1 to 80').waitFor();
    expect(await page.locator('main').innerText()).toMatch(/Fernhop/);
  });
});
