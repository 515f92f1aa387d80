import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Domain, Link, RecordKind } from '#core/catalogue';
import { newDomain, withPrefix } from '#core/catalogue';
import { send } from '../standins/index.ts';
import { call, changeOf, firstRecords, readJournal, sendChanges } from './client.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';

const firefox = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
let server: Running;
const revisions = new Map<string, number>();
const put = async <T extends { readonly id: string }>(kind: RecordKind, value: T) => {
  const revision = (revisions.get(value.id) ?? 0) + 1;
  revisions.set(value.id, revision);
  return sendChanges(server, [changeOf(kind, value, revision)]);
};
const domain = newDomain('dom_see', 'see.nightledge.localhost', 'Europe/Berlin');
const link: Link = {
  id: 'lnk_kit',
  domain: 'dom_see',
  slug: 'kit',
  aliases: [],
  title: 'Kit',
  destination: 'https://shop.example/?c={click}',
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 0,
};
const ask = (path: string, headers: Record<string, string> = {}, method = 'GET', body?: string) =>
  send(
    `http://see.nightledge.localhost:${server.port}${path}`,
    { method, headers: { 'User-Agent': firefox, ...headers } },
    body,
  );
/** Waits until the newest hop in the journal is as expected: it is there a moment after it was answered. */
const lastHopIs = (expected: object) =>
  vi.waitFor(
    async () =>
      expect((await readJournal(server)).findLast((record) => record.kind === 'hop')).toMatchObject(expected),
    { timeout: 5000 },
  );

beforeAll(async () => {
  server = await startProcess();
  await put('domain', domain);
  await put('link', link);
});
afterAll(() => server.stop());

describe('a page hop', () => {
  it('is a page under its own policy, with the click in it, and is counted once though it goes by two', async () => {
    await put('link', { ...link, hop: { page: 'refresh', twice: true, pass: 'all' } });
    const first = await ask('/kit~guide?kw=a');
    expect([first.status, first.headers['content-type']]).toEqual([200, 'text/html; charset=utf-8']);
    expect(first.headers['content-security-policy']).toContain("default-src 'none'");
    expect(first.headers['referrer-policy']).toBe('no-referrer');
    const secondAddress =
      /url=(\/kit~guide\?second-page=[^"]+)"/.exec(first.body)?.[1]?.replaceAll('&amp;', '&') ?? '';
    const click = /second-page=(\w{26})\./.exec(secondAddress)?.[1] ?? '';
    const count = async () => (await readJournal(server)).filter((record) => record.kind === 'hop').length;
    await lastHopIs({ click, status: 200, branch: 'everyone', source: 'guide' });
    const before = await count();
    const second = await ask(secondAddress);
    expect(second.body).toContain(`url=https://shop.example/?c=${click}&amp;kw=a"`);
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(await count()).toBe(before);
    // A made-up second page, or one of long ago, is a hop of its own.
    await ask('/kit?second-page=01M84BDPSKXE4HN0RD2V6W3PBC.everyone');
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(await count()).toBe(before + 1);
    expect((await ask('/kit', {}, 'HEAD')).body).toBe('');
  });

  it('gives way to a plain redirect where the merchant forbids cloaking', async () => {
    const { network, program } = firstRecords(server.port);
    await put('network', network);
    const rules = { cloak: false, name: '', ownLinks: false, mail: true, social: true };
    await put('program', { ...program, rules });
    await put('link', { ...link, program: program.id, network: network.id, hop: { page: 'frame' } });
    expect((await ask('/kit')).status).toBe(307);
    await put('program', { ...program, rules: { ...rules, cloak: true } });
    expect((await ask('/kit')).status).toBe(200);
  });
});

describe('a split over HTTP', () => {
  it('goes by country, device, language and whether the visitor was here', async () => {
    const branch = (id: string, when: object) => ({
      id,
      name: '',
      when,
      destination: `https://shop.example/${id}`,
      weight: 1,
    });
    await put('link', {
      ...link,
      branches: [
        branch('bphone', { devices: ['phone'] }),
        branch('bfr', { languages: ['fr'] }),
        branch('bback', { visitor: 'returning' }),
      ],
    });
    const to = async (headers: Record<string, string> = {}) => (await ask('/kit', headers)).headers.location;
    expect(await to({ 'Sec-CH-UA-Mobile': '?1' })).toBe('https://shop.example/bphone');
    expect(await to({ 'Accept-Language': 'fr-CA,en;q=0.5' })).toBe('https://shop.example/bfr');
    const stranger = { 'User-Agent': `${firefox} ${Date.now()}` };
    expect(await to(stranger)).toMatch(/^https:\/\/shop\.example\/\?c=/);
    expect(await to(stranger)).toBe('https://shop.example/bback');
    await lastHopIs({ branch: 'bback' });
  });

  it('knows a visitor again by the domain’s own cookie, and sets none unless it is switched on', async () => {
    expect((await ask('/kit')).headers['set-cookie']).toBeUndefined();
    await put('domain', { ...domain, cookieDays: 30 });
    const first = await ask('/kit', { 'User-Agent': `${firefox} c` });
    const cookie = String(first.headers['set-cookie']);
    expect(cookie).toMatch(/^visitor=[0-9a-f]{16}; Max-Age=2592000; Path=\/; HttpOnly; SameSite=Lax$/);
    const visitor = /visitor=(\w+)/.exec(cookie)?.[1];
    const again = await ask('/kit', {
      'User-Agent': 'another browser altogether',
      Cookie: `a=b; visitor=${visitor ?? ''}`,
    });
    expect(again.headers.location).toBe('https://shop.example/bback');
    await lastHopIs({ visitor });
    await put('domain', domain);
  });
});

describe('a closed link', () => {
  const hours = {
    until: '2020-01-01T00:00',
    after: { kind: 'page', words: 'It is over.', askMail: true, consent: 'Write me.' },
  };
  const mail = (body: string) =>
    ask('/kit', { 'Content-Type': 'application/x-www-form-urlencoded' }, 'POST', body);

  it('keeps the address a visitor leaves, with the consent, in a file of its own that can be erased', async () => {
    await put('link', { ...link, hours });
    const page = await ask('/kit');
    expect([page.status, page.body.includes('It is over.')]).toEqual([200, true]);
    expect((await mail('mail=anna%40mail.example')).status).toBe(400);
    expect((await mail('mail=nobody&consent=yes')).status).toBe(400);
    const thanks = await mail('mail=anna%40mail.example&consent=yes');
    expect([thanks.status, thanks.body.includes('Thank you.')]).toEqual([200, true]);
    const kept = JSON.parse((await call(server, 'GET', '/waiting-list')).body) as { waitingList: object[] };
    expect(kept.waitingList).toMatchObject([
      { link: 'lnk_kit', mail: 'anna@mail.example', consent: 'Write me.' },
    ]);
    expect(JSON.stringify(await readJournal(server))).not.toContain('anna');
    const erased = await send(`http://localhost:${server.port}/api/waiting-list`, {
      method: 'DELETE',
      headers: {
        Authorization: `Bearer ${server.key}`,
        Origin: `http://localhost:${server.port}`,
        'Content-Type': 'application/json',
      },
    });
    expect(JSON.parse(erased.body)).toEqual({ erased: 1 });
    expect(JSON.parse((await call(server, 'GET', '/waiting-list')).body)).toEqual({ waitingList: [] });
  });

  it('takes no address where none is asked for, and none without end', async () => {
    const answers = [];
    for (let n = 0; n < 40; n++) answers.push((await mail(`mail=a${n}%40mail.example&consent=yes`)).status);
    expect(new Set(answers)).toEqual(new Set([200, 429]));
    await put('link', { ...link, hours: { ...hours, after: { ...hours.after, askMail: false } } });
    expect((await mail('mail=b%40mail.example&consent=yes')).status).toBe(405);
    await put('link', link);
    expect((await mail('mail=b%40mail.example&consent=yes')).status).toBe(405);
  });
});

describe('addresses once placed', () => {
  const status = async (path: string) => (await ask(path)).status;

  it('go on answering after a change of prefix and group', async () => {
    const moved: Domain = withPrefix({ ...domain, groups: true }, 'go/');
    await put('domain', moved);
    await put('link', { ...link, group: 'kits' });
    for (const path of ['/go/kits/kit', '/go/kit', '/kits/kit', '/kit'])
      expect([path, await status(path)]).toEqual([path, 307]);
    expect(await status('/go/other/kit')).toBe(404);
    await put('domain', withPrefix(moved, ''));
    expect(await status('/go/kits/kit')).toBe(307);
  });

  it('answer 410 or as another link once it is archived, and never run in circles', async () => {
    await put('link', { ...link, id: 'lnk_other', slug: 'other', destination: 'https://other.example/' });
    await put('link', { ...link, archived: { at: 1 } });
    const gone = await ask('/kit');
    expect([gone.status, gone.body.includes('nothing at this address')]).toEqual([410, true]);
    await lastHopIs({ branch: 'gone', status: 410 });
    await put('link', { ...link, archived: { at: 1, to: 'lnk_other' } });
    expect((await ask('/kit')).headers.location).toBe('https://other.example/');
    await lastHopIs({ link: 'lnk_other' });
    await put('link', { ...link, id: 'lnk_other', slug: 'other', archived: { at: 1, to: 'lnk_kit' } });
    expect([307, 410]).toContain((await ask('/kit')).status);
    const self = await put('link', { ...link, archived: { at: 1, to: 'lnk_kit' } });
    expect(self.refused[0]?.path).toBe('archived.to');
  });
});

describe('a domain that is checked', () => {
  it('is told from one where something else answers', async () => {
    const check = async (host: string) => (await call(server, 'POST', '/domain-check', { host })).body;
    expect(JSON.parse(await check('see.nightledge.localhost'))).toMatchObject({
      good: true,
      says: 'This server answers there. No certificate is needed on this machine.',
    });
    await put('domain', newDomain('dom_far', 'nowhere.nightledge.test', 'UTC'));
    expect(JSON.parse(await check('nowhere.nightledge.test'))).toMatchObject({
      good: false,
      problem: 'no name',
    });
    expect(JSON.parse(await check('not-mine.example'))).toMatchObject({ title: 'Not one of your domains' });
  });
});
