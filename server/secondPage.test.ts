import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Link } from '#core/catalogue';
import { clickId } from '#core/hop';
import { send } from '../standins/index.ts';
import { call, changeOf, readJournal, sendChanges } from './client.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';
import { fillForRequests } from './testing/generated.ts';
import { makeSecondPages } from './http/secondPage.ts';

describe('what the second of two pages is asked with', () => {
  const pages = makeSecondPages(randomBytes(32));
  const at = 1_795_442_531_123;
  const click = clickId(at, randomBytes(10));
  const sealed = pages.seal(click, 'lnk_a', 'b1');
  it('opens for the same click, link and branch, and for two minutes', () => {
    expect(pages.open(sealed, 'lnk_a', at + 119_000)).toEqual({ click, branch: 'b1' });
    expect(pages.open(sealed, 'lnk_a', at + 121_000)).toBeUndefined();
    expect(pages.open(sealed, 'lnk_b', at)).toBeUndefined();
  });
  it('does not open where anything of it is another', () => {
    const other = clickId(at, randomBytes(10));
    for (const made of [
      sealed.replace(click, other),
      sealed.replace('.b1.', '.b2.'),
      sealed.slice(0, -1),
      `${sealed}A`,
      `${sealed}.x`,
      `${click}.b1`,
      '',
      '...',
      makeSecondPages(randomBytes(32)).seal(click, 'lnk_a', 'b1'),
    ])
      expect([made, pages.open(made, 'lnk_a', at)]).toEqual([made, undefined]);
  });
});

describe('over HTTP', () => {
  let server: Running;
  let host = '';
  let link: Link;
  let revision = 1;
  beforeAll(async () => {
    server = await startProcess();
    ({ host } = await fillForRequests(server));
    const { changes } = JSON.parse((await call(server, 'GET', '/changes?after=0')).body) as {
      changes: { record: string; value: Link }[];
    };
    link = changes.find(({ record }) => record === 'lnk_page')?.value ?? link;
  });
  afterAll(() => server.stop());
  const ask = (path: string, headers: Record<string, string> = {}) =>
    send(`http://${host}:${server.port}${path}`, { headers });
  const put = async (more: Partial<Link>) =>
    expect((await sendChanges(server, [changeOf('link', { ...link, ...more }, ++revision)])).refused).toEqual(
      [],
    );
  const records = async (kind: 'hop' | 'second') =>
    (await readJournal(server)).filter((record) => record.kind === kind);
  const settled = () => new Promise((resolve) => setTimeout(resolve, 200));
  const secondPageIn = (body: string) =>
    /url=(\/page\?second-page=[^"]+)"/.exec(body)?.[1]?.replaceAll('&amp;', '&') ?? 'none';
  const nonceIn = (body: string) => /nonce="([^"]+)"/.exec(body)?.[1] ?? '';

  it('is recorded, leads on with the click of the first, and each page has a nonce of its own', async () => {
    const first = await ask('/page?kw=a');
    const second = await ask(secondPageIn(first.body));
    await settled();
    const hops = await records('hop');
    const [hop] = hops.slice(-1);
    expect(hop).toMatchObject({ status: 200, branch: 'everyone' });
    const click = hop?.kind === 'hop' ? hop.click : '';
    expect(second.body).toContain(`ref1=${click}`);
    expect((await records('second')).at(-1)).toMatchObject({
      click,
      link: 'lnk_page',
      branch: 'everyone',
      status: 200,
    });
    expect(nonceIn(first.body)).toMatch(/^[A-Za-z0-9+/]{22}==$/);
    expect(nonceIn(second.body)).not.toBe(nonceIn(first.body));
    for (const page of [first, second]) {
      expect(page.headers['content-security-policy']).toContain(`'nonce-${nonceIn(page.body)}'`);
      expect(nonceIn(page.body)).not.toContain(click);
    }
  });

  it('of one’s own making is a hop like any other, on every link', async () => {
    const chosen = clickId(Date.now(), randomBytes(10));
    for (const [path, branch] of [
      ['/page', 'everyone'],
      ['/kit', 'everyone'],
      ['/closed', 'everyone'],
      ['/gone', 'before'],
    ] as const) {
      const before = (await records('hop')).length;
      const answer = await ask(`${path}?second-page=${chosen}.${branch}.${'A'.repeat(22)}`);
      expect(`${answer.headers.location ?? ''}${answer.body}`).not.toContain(chosen);
      await vi.waitFor(async () => expect((await records('hop')).length).toBe(before + 1), { timeout: 3000 });
    }
    expect((await ask(`/closed?second-page=${chosen}.everyone.x`)).body).toContain('This offer has ended.');
    expect((await ask(`/gone?second-page=${chosen}.everyone.x`)).status).toBe(410);
  });

  it('is closed where the link closed in the meantime, or was archived', async () => {
    const again = secondPageIn((await ask('/page')).body);
    await put({ hours: { until: '2026-01-01T00:00' } });
    const closed = await ask(again);
    expect([closed.status, closed.body]).toEqual([200, expect.stringContaining('This offer has ended.')]);
    await put({ archived: { at: 1 } });
    expect((await ask(again)).status).toBe(410);
    await settled();
    expect((await records('second')).slice(-2).map((record) => 'branch' in record && record.branch)).toEqual([
      'after',
      'gone',
    ]);
    await put({});
  });

  it('is not for a browser that only looks ahead', async () => {
    const again = secondPageIn((await ask('/page')).body);
    expect((await ask(again, { 'Sec-Purpose': 'prefetch' })).status).toBe(503);
  });
});

describe('a beacon', () => {
  let server: Running;
  let host = '';
  beforeAll(async () => {
    server = await startProcess();
    ({ host } = await fillForRequests(server));
  });
  afterAll(() => server.stop());
  const fresh = (off = 0) => clickId(Date.now() + off, randomBytes(10));
  const personsAgent = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
  const tell = async (body: object, agent = personsAgent) => {
    const headers = { 'User-Agent': agent };
    const url = `http://${host}:${server.port}/beacon`;
    return (await send(url, { method: 'POST', headers }, JSON.stringify(body))).status;
  };
  const page = 'https://nightledge.example/gear';

  it('of a click needs a link that exists, and a click ID of now', async () => {
    expect(await tell({ event: 'click', link: 'lnk_kit', page, click: fresh() })).toBe(204);
    expect(await tell({ event: 'click', link: 'lnk_kit', page, click: fresh(-3_600_000) })).toBe(204);
    for (const wrong of [
      { link: 'lnk_none', click: fresh() },
      { link: '__proto__', click: fresh() },
      { link: 'lnk_kit', click: fresh(-2 * 86_400_000) },
      { link: 'lnk_kit', click: fresh(2 * 86_400_000) },
      { link: 'lnk_kit', click: fresh().toLowerCase() },
      { link: 'lnk_kit', click: 'x' },
      { link: 'lnk_kit' },
    ])
      expect([wrong, await tell({ event: 'click', page, ...wrong })]).toEqual([wrong, 400]);
  });

  it('of time needs a click of that link which a page of ours answered, before and after a restart', async () => {
    const { body } = await send(`http://${host}:${server.port}/frame`);
    const click = /ref1=(\w{26})/.exec(body)?.[1] ?? '';
    const time = { event: 'time', page, seconds: 12, link: 'lnk_frame', click };
    expect(await tell(time)).toBe(204);
    expect(await tell({ ...time, link: 'lnk_kit' })).toBe(400);
    expect(await tell({ ...time, click: fresh() })).toBe(400);
    expect(await tell({ ...time, seconds: -1 })).toBe(400);
    // Of a test hop nobody asks how long it was looked at.
    const { testToken } = JSON.parse((await call(server, 'GET', '/about')).body) as { testToken: string };
    const { body: tested } = await send(`http://${host}:${server.port}/frame?test=${testToken}`);
    expect(await tell({ ...time, click: /ref1=(\w{26})/.exec(tested)?.[1] ?? '' })).toBe(400);
    // Nor how long a machine did.
    const { body: other } = await send(`http://${host}:${server.port}/frame`);
    const machines = { ...time, click: /ref1=(\w{26})/.exec(other)?.[1] ?? '' };
    expect(await tell(machines, 'Examplebot/1.0 (+https://robot.example)')).toBe(204);
    await server.stop();
    server = await startProcess({ dataDir: server.dataDir });
    expect(await tell(time)).toBe(204);
    const told = (await readJournal(server)).filter(({ kind }) => kind === 'reading');
    expect(told).toMatchObject([{ page, views: 1, seconds: 12, link: 'lnk_frame', source: '', scrolled: 0 }]);
  });
});
