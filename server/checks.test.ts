import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Link } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import type { JournalDraft } from '#core/visits';
import { send } from '../standins/index.ts';
import type { TableLink } from './feed/index.ts';
import { call, changeOf, readJournal, sendChanges } from './client.ts';
import { checkShops, shopPage } from './nightlyCheck.ts';
import { Pages } from './pages/index.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';
import { testLink } from './testing/records.ts';

const firefox = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
let server: Running;
const shop = (path: string) => `http://polehouse.localhost:${server.port + 1}${path}`;
const link = (more: Partial<Link>): Link =>
  testLink('kit', { destination: 'https://shop.example/?c={click}', ...more });
/** A link as the server holds it. */
const row = (id: string, destination: string, archived = false): [string, TableLink] => [
  id,
  {
    id,
    domain: 'dom_see',
    slug: id,
    aliases: [],
    destination,
    asText: [],
    hop: {},
    network: undefined,
    program: undefined,
    group: '',
    rare: archived ? { archived: { at: 1 } } : {},
    version: 1,
    ready: undefined,
  },
];

const traces = async () => (await readJournal(server)).filter((record) => record.kind === 'trace');

beforeAll(async () => {
  server = await startProcess({ env: { STANDINS: '1' } });
  await sendChanges(server, [
    changeOf('domain', newDomain('dom_see', 'see.nightledge.localhost', 'Europe/Berlin')),
    changeOf(
      'link',
      link({
        branches: [
          {
            id: 'back',
            name: 'Back again',
            when: { visitor: 'returning' },
            destination: 'https://shop.example/back?c={click}',
            weight: 1,
          },
        ],
      }),
    ),
  ]);
});
afterAll(() => server.stop());

describe('a trace', () => {
  it('is kept in the journal with its link, and nothing is kept of one that was stopped short', async () => {
    const url = `http://t.harrowmead.localhost:${server.port + 1}/go?account=N88&deal=2093&to=${encodeURIComponent(shop('/kits/saturn'))}`;
    await call(server, 'POST', '/trace', { url, link: 'lnk_kit', toOrder: true });
    await vi.waitFor(async () => expect(await traces()).toHaveLength(1), { timeout: 5000 });
    const [record] = await traces();
    expect(record).toMatchObject({ by: 'person', link: 'lnk_kit' });
    expect(record?.hosts[0]).toBe('t.harrowmead.localhost');
  });
});

describe('the nightly check', () => {
  it('knows the page of a shop where the link carries it, and asks no network for one', () => {
    expect(shopPage('https://t.harrowmead.example/go?deal=1&to=https%3A%2F%2Fpolehouse.example%2Fkit')).toBe(
      'https://polehouse.example/kit',
    );
    expect(shopPage('https://t.harrowmead.example/go?deal=1&ref1={click}')).toBeUndefined();
  });

  it('asks each page once and keeps what came of it for every link that leads there', async () => {
    const inside = (path: string) => `http://t.harrowmead.localhost/go?to=${encodeURIComponent(shop(path))}`;
    const kept: JournalDraft[] = [];
    const asker = new Pages();
    const pages = await checkShops({
      links: new Map([
        row('lnk_a', inside('/kits/saturn')),
        row('lnk_b', inside('/kits/saturn')),
        row('lnk_gone', inside('/kits/neptune')),
        row('lnk_away', inside('/mounts/quiet-tracking'), true),
        row('lnk_bare', 'http://t.harrowmead.localhost/go?deal=1'),
      ]),
      bounds: { localPorts: [server.port + 1] },
      pages: asker,
      keep: (draft) => {
        kept.push(draft);
        return Promise.resolve();
      },
      now: () => 77,
      signal: new AbortController().signal,
    });
    await asker.close();
    expect(pages).toBe(2);
    expect(kept).toEqual([
      expect.objectContaining({ kind: 'trace', at: 77, by: 'nightly', link: 'lnk_a', alive: true }),
      expect.objectContaining({ link: 'lnk_b', alive: true, hosts: ['polehouse.localhost'] }),
      expect.objectContaining({ link: 'lnk_gone', alive: false, because: 'The last stop answered 404.' }),
    ]);
  });
});

describe('a shop that never answers', () => {
  it('holds up its own pages and no other shop’s', async () => {
    const kept: string[] = [];
    let letGo = () => {};
    const silence = new Promise<void>((resolve) => (letGo = resolve));
    const onShop = (id: string, host: string) =>
      row(id, `https://t.example/r?page=${encodeURIComponent(`https://${host}/p/${id}`)}`);
    const done = checkShops({
      links: new Map([
        ...Array.from({ length: 9 }, (_, n) => onShop(`lnk_s${n}`, 'silent.example')),
        ...Array.from({ length: 9 }, (_, n) => onShop(`lnk_f${n}`, `fine${n}.example`)),
      ]),
      bounds: { localPorts: [] },
      pages: {
        trace: async (url) => {
          if (url.includes('silent')) await silence;
          return {
            hops: [],
            end: 'stopped',
            because: 'It took too long to answer.',
            page: null,
            order: null,
          };
        },
      },
      keep: (draft) => {
        if (draft.kind === 'trace') kept.push(draft.link);
        return Promise.resolve();
      },
      now: () => 1,
      signal: new AbortController().signal,
    });
    await vi.waitFor(() => expect(kept.filter((id) => id.startsWith('lnk_f'))).toHaveLength(9));
    expect(kept).toHaveLength(9);
    letGo();
    expect(await done).toBe(18);
    expect(kept).toHaveLength(18);
  });
});

describe('a picture', () => {
  it('comes through the server; what is none, or lies inside, does not', async () => {
    const got = await call(server, 'POST', '/picture', { url: shop('/picture.png') });
    expect([got.status, got.headers['content-type']]).toEqual([200, 'image/png']);
    expect(got.headers['content-security-policy']).toContain('sandbox');
    for (const [url, words] of [
      [shop('/kits/saturn'), 'There is no picture'],
      [shop('/nowhere'), 'answered 404'],
      ['http://127.0.0.1:22/', 'Port 22 is not traced'],
      ['http://169.254.169.254/latest', 'inside a network'],
      ['file:///etc/passwd', 'Only http and https'],
    ]) {
      const refused = await call(server, 'POST', '/picture', { url });
      expect(refused.status, url).toBe(422);
      expect(refused.body, url).toContain(words);
    }
  });
});

describe('a returning visitor', () => {
  const ask = (headers: Record<string, string> = {}) =>
    send(`http://see.nightledge.localhost:${server.port}/kit`, {
      headers: { 'User-Agent': firefox, ...headers },
    });
  it('is not made one by a browser that only looked ahead, and stays one after a restart', async () => {
    await ask({ 'Sec-Purpose': 'prefetch' });
    expect((await ask()).headers.location).toMatch(/^https:\/\/shop\.example\/\?c=/);
    expect((await ask()).headers.location).toMatch(/\/back\?c=/);
    await vi.waitFor(
      async () => expect((await readJournal(server)).filter((r) => r.kind === 'hop')).toHaveLength(3),
      { timeout: 5000 },
    );
    await server.stop();
    server = await startProcess({
      dataDir: server.dataDir,
      port: server.port,
      env: { STANDINS: '1' },
    });
    expect((await ask()).headers.location).toMatch(/\/back\?c=/);
  });
});
