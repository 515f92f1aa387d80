import { readFileSync, statSync, writeFileSync } from 'node:fs';
import type { IncomingMessage } from 'node:http';
import { get } from 'node:http';
import { connect } from 'node:net';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { randomBytes } from 'node:crypto';
import { Script } from 'node:vm';
import { brotliCompressSync } from 'node:zlib';
import type { ServerStory } from '#core/catalogue';
import { isUlid } from '#core/catalogue';
import { clickId } from '#core/hop';
import { check } from '#core/catalogue';
import type { JournalRecord } from '#core/visits';
import { journalRecord } from '#core/visits';
import { send } from '../standins/index.ts';
import { call, changeOf, fillFirst, readJournal, sendChanges } from './client.ts';
import type { Running } from './testing/process.ts';
import { freshFolder, startProcess } from './testing/process.ts';
import type { TracedHop, TraceEnd } from '#core/link-parts';

let server: Running;
let records: Awaited<ReturnType<typeof fillFirst>>;

beforeAll(async () => {
  const list = join(freshFolder(), 'hosting.txt');
  writeFileSync(list, '203.0.113.0/24\n!198.51.100.0/24\n');
  server = await startProcess({
    env: { TRUST_PROXY: '127.0.0.1', GEO_HEADER: 'X-Country', HOSTING_NETWORKS: list },
  });
  records = await fillFirst(server);
});
afterAll(() => server.stop());

const short = (path: string, headers: Record<string, string> = {}, method = 'GET') =>
  send(`http://see.nightledge.localhost:${server.port}${path}`, { method, headers });
const last = async (kind: JournalRecord['kind']) => {
  await new Promise((resolve) => setTimeout(resolve, 400));
  return (await readJournal(server)).findLast((record) => record.kind === kind);
};

/** A trace as it is streamed, one step a line. */
const traced = async (place: Running, body: object) => {
  const lines = (await call(place, 'POST', '/trace', body)).body.trim().split('\n');
  const steps = lines.map((line): TracedHop | TraceEnd => JSON.parse(line));
  const end = steps.at(-1);
  if (end?.kind !== 'end') throw new Error('a trace ends');
  return { ...end, hops: steps.flatMap((step) => (step.kind === 'hop' ? [step] : [])) };
};

describe('a hop', () => {
  it('sends the visitor on with a fresh click ID and is in the journal', async () => {
    const answer = await short('/Saturn-Kit~newsletter?kw=rings', {
      'User-Agent': 'Mozilla/5.0 (Linux; Android 14) Mobile',
      'X-Forwarded-For': '133.11.0.1',
      Referer: 'https://nightledge.example/',
      'Accept-Language': 'ja-JP,ja;q=0.9',
    });
    expect(answer.status).toBe(307);
    const location = new URL(answer.headers.location ?? '');
    const click = location.searchParams.get('ref1') ?? '';
    expect(isUlid(click)).toBe(true);
    expect(location.searchParams.get('ref2')).toBe('newsletter');
    expect(location.searchParams.has('kw')).toBe(false);
    expect(answer.headers).toMatchObject({
      'cache-control': 'no-store',
      'referrer-policy': 'strict-origin',
      'x-robots-tag': 'noindex, nofollow',
    });
    expect(await last('hop')).toMatchObject({
      click,
      link: 'lnk_saturn',
      version: 4,
      source: 'newsletter',
      status: 307,
      country: 'JP',
      device: 'phone',
      from: 'https://nightledge.example/',
      query: 'kw=rings',
      lang: 'ja-JP',
      test: false,
    });
  });

  it.each([
    // What proxies write that know no country, or write it otherwise (common practice): the address then tells it.
    ['de', '193.0.6.139', 'DE'],
    ['XX', '193.0.6.139', 'NL'],
    ['T1', '193.0.6.139', 'NL'],
    ['CHN', '193.0.6.139', 'NL'],
    ['Germany', '193.0.6.139', 'NL'],
    ['', '193.0.6.139', 'NL'],
    ['FR, DE', '193.0.6.139', 'NL'],
    ['ZZ', '192.0.2.9', ''],
  ])('takes the country “%s” of a proxy, of the address %s, for “%s”', async (told, address, country) => {
    await short('/saturn', { 'X-Forwarded-For': address, 'X-Country': told });
    expect(await last('hop')).toMatchObject({ country });
  });

  it('keeps whether the address is a hosting network’s, and not the address', async () => {
    for (const [address, hosting] of [
      ['203.0.113.9', true],
      ['198.51.100.9', false],
      ['192.0.2.9', undefined],
    ] as const) {
      await short('/saturn', { 'X-Forwarded-For': address });
      const hop = await last('hop');
      expect([address, hop?.kind === 'hop' && hop.hosting]).toEqual([address, hosting]);
      expect(JSON.stringify(hop)).not.toContain(address);
    }
  });
  it('takes the country from a trusted proxy’s header', async () => {
    await short('/saturn', { 'X-Country': 'is' });
    expect(await last('hop')).toMatchObject({ country: 'IS', link: 'lnk_saturn' });
  });

  it('refuses a prefetch and makes no click ID for it', async () => {
    const answer = await short('/saturn', { 'Sec-Purpose': 'prefetch;prerender' });
    expect([answer.status, answer.headers['cache-control']]).toEqual([503, 'no-store']);
    expect(await last('hop')).toMatchObject({ prefetch: true, click: '', status: 503 });
  });

  it('marks a test by its token alone, and never writes the token down', async () => {
    const about = await call(server, 'GET', '/about');
    const { testToken } = JSON.parse(about.body) as { testToken: string };
    await short(`/saturn?test=${testToken}`);
    expect(await last('hop')).toMatchObject({ test: true, query: '' });
    await short('/saturn?test=guess');
    expect(await last('hop')).toMatchObject({ test: false });
  });

  it('answers HEAD as GET, and nothing else', async () => {
    expect((await short('/saturn', {}, 'HEAD')).status).toBe(307);
    expect(await last('hop')).toMatchObject({ method: 'HEAD' });
    const put = await short('/saturn', {}, 'PUT');
    expect([put.status, put.headers.allow]).toEqual([405, 'GET, HEAD']);
  });

  it('follows a changed destination at once, and keeps the older address', async () => {
    const moved = {
      ...records.link,
      slug: 'rings',
      aliases: ['saturn-kit', 'saturn'],
      hop: { status: 301 as const },
    };
    await sendChanges(server, [changeOf('link', moved, 2)]);
    for (const path of ['/rings', '/saturn-kit', '/saturn'])
      expect([(await short(path)).status, (await short(path)).headers['cache-control']]).toEqual([
        301,
        'private, max-age=0',
      ]);
  });
});

describe('a link domain', () => {
  it('answers robots.txt, the page script and beacons beside its hops', async () => {
    expect((await short('/robots.txt')).body).toBe('User-agent: *\nDisallow:\n');
    const url = `http://see.nightledge.localhost:${server.port}/beacon`;
    const click = clickId(Date.now(), randomBytes(10));
    const body = { event: 'click', click, link: 'lnk_saturn', page: 'https://nightledge.example/gear' };
    expect((await send(url, { method: 'POST' }, JSON.stringify(body))).status).toBe(204);
    expect(await last('beacon')).toMatchObject(body);
    expect((await send(url, { method: 'POST' }, '{"event":"win"}')).status).toBe(400);
  });
  it('gives the page script, with what it knows of the links, under 6 KB as it is sent', async () => {
    const plain = await short('/place.js');
    expect(plain.headers).toMatchObject({
      'content-type': 'text/javascript; charset=utf-8',
      'cross-origin-resource-policy': 'cross-origin',
      vary: 'Accept-Encoding',
    });
    expect(plain.headers['content-encoding']).toBeUndefined();
    expect(plain.body).toContain('sendBeacon');
    expect(plain.body).toContain('lnk_saturn');
    // Nothing of it ends the element it may stand in, and it is a program.
    expect(plain.body).not.toContain('</');
    expect(() => new Script(plain.body)).not.toThrow();
    const url = `http://see.nightledge.localhost:${server.port}/place.js`;
    const asked = async (coding: string) => {
      const answer = await send(url, { headers: { 'Accept-Encoding': coding } });
      return [answer.headers['content-encoding'], Number(answer.headers['content-length'])] as const;
    };
    const [coding, bytes] = await asked('gzip, deflate, br, zstd');
    expect(coding).toBe('br');
    // What it knows of the links comes on top.
    expect(brotliCompressSync(readFileSync('dist/page-script/place.js')).length).toBeLessThan(6 * 1024);
    expect(bytes).toBeLessThan(6.5 * 1024);
    expect((await asked('gzip;q=1, br;q=0'))[0]).toBe('gzip');
    expect((await asked('identity'))[0]).toBeUndefined();
    const whole = await call(server, 'GET', '/place-script?host=see.nightledge.localhost');
    expect(JSON.parse(whole.body)).toMatchObject({ text: plain.body, bytes, links: 1, left: 0 });
    expect((await call(server, 'GET', '/place-script?host=other.example')).status).toBe(404);
  });
  it('takes what a page tells of its reading, and of no other page', async () => {
    const url = `http://see.nightledge.localhost:${server.port}/beacon`;
    const page = 'https://nightledge.example/rings';
    const body = {
      event: 'read',
      click: clickId(Date.now(), randomBytes(10)),
      page,
      seconds: 12,
      depth: 80,
      links: ['lnk_saturn', 'lnk_none'],
    };
    const tell = async (more: object, headers = {}) =>
      (await send(url, { method: 'POST', headers }, JSON.stringify({ ...body, ...more }))).status;
    expect(await tell({})).toBe(204);
    expect(await tell({ seconds: 20 }, { Origin: 'https://nightledge.example' })).toBe(204);
    expect(await tell({}, { Origin: 'https://elsewhere.example' })).toBe(400);
    expect(await tell({ depth: 1.5 })).toBe(400);
    // Of a page that was made smaller meanwhile more than all of it was seen.
    expect(await tell({ depth: 180, scrolled: true, first: 'nothing' })).toBe(204);
    expect(await tell({ page: 'javascript:1' })).toBe(400);
    expect(await tell({ click: clickId(Date.now() - 90_000_000, randomBytes(10)) })).toBe(400);
    expect(await tell({ links: Array.from({ length: 121 }, () => 'lnk_saturn') })).toBe(400);
  });
  it('takes the page from the script where the browser names the same site, or none', async () => {
    const page = 'https://nightledge.example/rings';
    const from = async (query: string, referer?: string) => {
      await short(`/saturn${query}`, referer === undefined ? {} : { Referer: referer });
      const hop = await last('hop');
      return hop?.kind === 'hop' ? [hop.from, hop.query] : [];
    };
    const said = `?a=1&from-page=${encodeURIComponent(page)}&b=2`;
    expect(await from(said, 'https://nightledge.example/')).toEqual([page, 'a=1&b=2']);
    expect(await from(said)).toEqual([page, 'a=1&b=2']);
    expect(await from(said, 'https://elsewhere.example/')).toEqual(['https://elsewhere.example/', 'a=1&b=2']);
    for (const odd of ['javascript:1', '%00', 'https://', 'x'.repeat(2000)])
      expect((await from(`?from-page=${odd}`, page))[0] ?? page).toBe(page);
  });
  it('keeps the click that led to the page of a link, by parameter or by the page’s address, and passes it on to nobody', async () => {
    const first = '01M84BDPSKXE4HN0RD2V6W3PBC';
    const kept = async (query: string, referer?: string) => {
      const answer = await short(`/saturn${query}`, referer === undefined ? {} : { Referer: referer });
      expect(answer.headers.location ?? '').not.toContain(first);
      const hop = await last('hop');
      return hop?.kind === 'hop' ? [hop.first, hop.source, hop.query] : [];
    };
    expect(await kept(`?from-click=${first}&from=flyer&a=1`)).toEqual([first, 'flyer', 'a=1']);
    expect(await kept('', `https://nightledge.example/kit?from-click=${first}&from=flyer`)).toEqual([
      ...[first, 'flyer', ''],
    ]);
    expect(await kept('?from-click=nobody')).toEqual([undefined, '', '']);
  });
  it('says 404 where there is no link, and 421 for a host that is none of ours', async () => {
    expect((await short('/nothing')).status).toBe(404);
    expect((await send(`http://other.localhost:${server.port}/saturn`)).status).toBe(421);
  });
});

describe('a postback', () => {
  const postback = (query: string, options = {}, body?: string) =>
    send(`http://localhost:${server.port}/postback/${records.key}?${query}`, options, body);

  it('is on disk when it is acknowledged, as it came', async () => {
    const answer = await postback('click=A%20b&amount=13.83&txn=HM-1');
    expect([answer.status, answer.body]).toEqual([200, 'ok']);
    const { seq } = JSON.parse((await call(server, 'GET', '/health')).body) as { seq: number };
    expect((await readJournal(server, seq - 1))[0]).toMatchObject({
      kind: 'postback',
      network: 'net_harrowmead',
      via: 'GET',
      query: 'click=A%20b&amount=13.83&txn=HM-1',
      body: null,
    });
  });

  it('may be a form or JSON', async () => {
    await postback(
      'x=1',
      { method: 'POST', headers: { 'Content-Type': 'application/json' } },
      '{"click":"A"}',
    );
    expect(await last('postback')).toMatchObject({
      via: 'POST',
      query: 'x=1',
      body: '{"click":"A"}',
      type: 'application/json',
    });
  });

  it('with an unknown key is a 404 and kept among the rejected', async () => {
    const answer = await send(`http://localhost:${server.port}/postback/${'x'.repeat(30)}?click=B&amount=9`);
    expect(answer.status).toBe(404);
    await vi.waitFor(() =>
      expect(readFileSync(join(server.dataDir, 'rejected.ndjson'), 'utf8')).toContain('click=B&amount=9'),
    );
  });

  it('that Node refuses is kept there too', async () => {
    const socket = connect(server.port, '127.0.0.1');
    socket.end(`GET /postback/${records.key}?amount=12 EUR HTTP/1.1\r\nHost: localhost\r\n\r\n`);
    const text = await new Promise<string>((resolve) =>
      socket.once('data', (data) => resolve(data.toString())),
    );
    expect(text).toMatch(/^HTTP\/1\.1 400 /);
    await vi.waitFor(() =>
      expect(readFileSync(join(server.dataDir, 'rejected.ndjson'), 'utf8')).toContain('amount=12 EUR'),
    );
  });

  it('by pixel is always a picture and stays unverified', async () => {
    const url = `http://see.nightledge.localhost:${server.port}/pixel/${records.network.postback.pixelKey}.gif?event=lead`;
    const answer = await send(url);
    expect([answer.status, answer.headers['content-type']]).toEqual([200, 'image/gif']);
    expect(await last('pixel')).toMatchObject({ network: 'net_harrowmead', query: 'event=lead' });
  });
});

describe('the admin API', () => {
  const raw = (path: string, headers: Record<string, string>, method = 'GET', body?: string) =>
    send(`http://localhost:${server.port}${path}`, { method, headers }, body);
  const origin = () => `http://localhost:${server.port}`;
  const good = () => ({
    Authorization: `Bearer ${server.key}`,
    Origin: origin(),
    'Content-Type': 'application/json',
  });

  it('needs the key for everything but health', async () => {
    expect((await raw('/api/health', {})).status).toBe(200);
    for (const path of ['/api/changes', '/api/journal', '/api/live', '/api/about'])
      for (const headers of [{}, { Authorization: 'Bearer wrong' }, { Authorization: server.key }]) {
        const answer = await raw(path, headers as Record<string, string>);
        expect([path, answer.status, answer.headers['content-type']]).toEqual([
          path,
          401,
          'application/problem+json; charset=utf-8',
        ]);
      }
  });

  it('refuses writes of another origin, of none, and of another type', async () => {
    const write = (headers: object) =>
      raw('/api/changes', { ...good(), ...headers }, 'POST', '{"changes":[]}');
    expect((await write({})).status).toBe(200);
    expect((await write({ Origin: 'https://evil.example' })).status).toBe(403);
    expect((await write({ Origin: 'null' })).status).toBe(403);
    expect((await write({ 'Content-Type': 'text/plain' })).status).toBe(415);
    const { Origin: _, ...noOrigin } = good();
    expect((await raw('/api/changes', noOrigin, 'POST', '{"changes":[]}')).status).toBe(403);
  });

  it('answers a conflict 409 with both versions', async () => {
    const stale = changeOf('link', records.link, 1, 'Ben');
    const answer = await call(server, 'POST', '/changes', { changes: [stale] });
    expect(answer.status).toBe(409);
    expect(JSON.parse(answer.body)).toMatchObject({
      status: 409,
      refused: [{ change: stale.change, path: 'revision', theirs: { record: 'lnk_saturn' } }],
    });
  });

  it('signs every answer with its identity and generation, and takes nothing meant for another', async () => {
    const about: ServerStory = JSON.parse((await call(server, 'GET', '/about')).body);
    const [generation] = about.generations;
    expect(generation).toMatchObject({ version: 0, seq: 0 });
    const signature = `${about.identity} ${generation?.id ?? ''}`;
    for (const path of ['/journal?after=0', '/changes', '/digest', '/health', '/nothing'])
      expect((await call(server, 'GET', path)).headers['fernhop-server'], path).toBe(signature);
    const write = (to: string) =>
      raw('/api/changes', { ...good(), 'Fernhop-Server': to }, 'POST', '{"changes":[]}');
    expect((await write(signature)).status).toBe(200);
    expect((await write(`${about.identity} another`)).status).toBe(412);
    const stranger = await raw('/api/health', {});
    expect(stranger.headers['fernhop-server']).toBeUndefined();
  });

  it('explains every version in its journal', async () => {
    const changes = (await readJournal(server)).flatMap((r) => (r.kind === 'change' ? [r] : []));
    expect(changes.map((c) => c.version)).toEqual([1, 2, 3, 4, 5]);
    expect(changes[3]?.value).toMatchObject({ slug: 'saturn-kit' });
    expect(JSON.stringify(changes)).not.toContain(records.key);
  });

  it('holds nothing in the journal but what its schema says', async () => {
    const wrong = (await readJournal(server)).flatMap((record) => {
      const checked = check(journalRecord, record);
      return checked.ok ? [] : [[record.kind, checked.problems]];
    });
    expect(wrong).toEqual([]);
  });

  it('traces a link of ours hop by hop without counting it, and nothing inside the network', async () => {
    const standing = await startProcess({ env: { STANDINS: '1' } });
    await fillFirst(standing);
    const url = `http://see.nightledge.localhost:${standing.port}/saturn-kit~trace`;
    const { hops, end, order } = await traced(standing, { url, toOrder: true });
    expect(end).toBe('arrived');
    // The network's click number still stands on the order page, in its cookie and in its form.
    expect(order).toMatchObject({ status: 200, surviving: ['hmclick'] });
    expect(hops.map((hop) => [new URL(hop.url).hostname, hop.status])).toEqual([
      ['see.nightledge.localhost', 307],
      ['t.harrowmead.localhost', 302],
      ['polehouse.localhost', 200],
    ]);
    expect(hops[1]?.cookies).toEqual(['hm_visitor']);
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect((await readJournal(standing)).findLast((record) => record.kind === 'hop')).toMatchObject({
      test: true,
    });
    await standing.stop();
    const inside = await traced(server, { url });
    expect(inside).toMatchObject({ end: 'stopped', because: 'An address of this machine is not traced.' });
    expect((await call(server, 'POST', '/trace', { url: 'no address' })).status).toBe(400);
  });

  it('streams what is synced, as it is synced', async () => {
    const stream = await new Promise<IncomingMessage>((resolve) =>
      get(`${origin()}/api/live`, { headers: { Authorization: `Bearer ${server.key}` } }, resolve),
    );
    let text = '';
    stream.setEncoding('utf8').on('data', (more: string) => (text += more));
    await send(`${origin()}/postback/${records.key}?txn=LIVE`);
    // What others did a moment ago may be streamed before it.
    const lines = () => text.split('\n').slice(0, -1).filter(Boolean);
    await vi.waitFor(
      () =>
        expect(lines().map((line): unknown => JSON.parse(line))).toContainEqual(
          expect.objectContaining({ kind: 'postback', query: 'txn=LIVE' }),
        ),
      { timeout: 5000 },
    );
    stream.destroy();
  });

  it('serves pages with a policy that allows nothing from elsewhere, and nothing on a link domain', async () => {
    const page = await raw('/', {});
    const policy = String(page.headers['content-security-policy']);
    expect(policy).toContain("default-src 'none'");
    expect(policy).not.toMatch(/https?:|unsafe|\*/);
    expect((await short('/api/health')).status).toBe(404);
    const sent = await send(`http://127.0.0.1:${server.port}/links?x=1`);
    expect([sent.status, sent.headers.location]).toEqual([307, `${origin()}/links`]);
  });
});

describe('the data folder', () => {
  it('belongs to one server at a time, and says which', async () => {
    await expect(startProcess({ dataDir: server.dataDir })).rejects.toThrow(/in use by process \d+/);
  });
  it('keeps key and salt for the owner alone, and no visitor’s address anywhere', async () => {
    for (const file of ['key', 'salt']) expect(statSync(join(server.dataDir, file)).mode & 0o777).toBe(0o600);
    expect(JSON.stringify((await readJournal(server)).filter((r) => r.kind === 'hop'))).not.toContain(
      '133.11.0.1',
    );
    expect(server.log()).not.toContain('133.11.0.1');
    expect(server.log()).not.toContain(server.key);
  });
  it('is found as it was after a graceful stop, with the last hops in it', async () => {
    await short('/rings~last');
    expect(await server.stop()).toBe(0);
    server = await startProcess({ dataDir: server.dataDir });
    expect((await readJournal(server)).findLast((r) => r.kind === 'hop')).toMatchObject({ source: 'last' });
  });
});

describe('a start that cannot be', () => {
  it('says in one line that the port is taken', async () => {
    await expect(startProcess({ port: server.port })).rejects.toThrow(`port ${server.port} is taken`);
  });
});
