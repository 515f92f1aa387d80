import 'fake-indexeddb/auto';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { newDomain } from '#core/catalogue';
import { clickId } from '#core/hop';
import { changeOf } from '../server/client.ts';
import { SimulatedBrowser } from './browser.ts';
import { SimulatedServer } from './server.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const link = (n: number) => ({
  id: `lnk_${n}`,
  domain: domain.id,
  slug: `kit-${n}`,
  aliases: [],
  title: `Kit ${n}`,
  destination: 'https://polehouse.example/kit',
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 1,
});
const makeId = () => clickId(Date.now(), crypto.getRandomValues(new Uint8Array(10)));

let server: SimulatedServer;
let browser: SimulatedBrowser;
beforeEach(async () => {
  server = new SimulatedServer();
  await server.start();
  await server.feed.apply([changeOf('domain', domain), ...[1, 2, 3].map((n) => changeOf('link', link(n)))]);
  browser = new SimulatedBrowser('Ines', Date.now(), () => server.api, makeId);
  await browser.open();
  await browser.sync.look();
});
afterEach(async () => {
  await browser.kill();
  await server.remove();
});

it('a comparison of two that hold the same finds nothing', async () => {
  await browser.sync.compare();
  expect(browser.findings).toEqual([]);
});

it('what is missing here, or is older here than it should be, is found, taken and told', async () => {
  await server.feed.apply([changeOf('link', { ...link(2), title: 'New' }, 2)]);
  const old = browser.rows.get('lnk_2');
  await browser.sync.look();
  // As a disk that lost a write would have it.
  browser.rows.delete('lnk_1');
  if (old) browser.rows.set('lnk_2', old);
  await browser.sync.compare();
  expect(browser.findings).toEqual([{ kind: 'differed', taken: 2, offered: 0, asked: 0 }]);
  expect(browser.rows.get('lnk_1')?.value).toMatchObject({ title: 'Kit 1' });
  expect(browser.rows.get('lnk_2')?.value).toMatchObject({ title: 'New' });
  await browser.sync.compare();
  expect(browser.findings).toHaveLength(1);
});

it('a folder that was put back gets what it lost, and the person is told how much', async () => {
  const backup = server.backUp();
  await server.feed.apply([4, 5].map((n) => changeOf('link', link(n))));
  await browser.sync.look();
  await server.restore(backup);
  await browser.sync.look();
  expect(browser.findings).toEqual([{ kind: 'set back', taken: 0, offered: 2, asked: 0 }]);
  expect((await server.feed.read(0)).changes.map(({ record }) => record)).toEqual([
    'dom_see',
    'lnk_1',
    'lnk_2',
    'lnk_3',
    'lnk_4',
    'lnk_5',
  ]);
});

it('another server gets nothing before the person says so', async () => {
  await server.empty();
  await browser.sync.save([{ kind: 'link', record: 'lnk_1', value: { ...link(1), title: 'Edited' } }]);
  await browser.sync.look();
  expect(browser.state).toBe('another server');
  expect(server.feed.version).toBe(0);
  expect(browser.rows.size).toBe(4);
  await browser.sync.answerStranger('bring mine');
  await browser.sync.look();
  expect((await server.feed.read(0)).changes.find(({ record }) => record === 'lnk_1')?.value).toMatchObject({
    title: 'Edited',
  });
});
