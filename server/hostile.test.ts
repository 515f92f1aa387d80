import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { changeOf, fillFirst, sendChanges } from './client.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';
import { headerOf, sendRaw, statusOf } from './testing/raw.ts';

let server: Running;
beforeAll(async () => {
  server = await startProcess();
  const { link } = await fillFirst(server);
  await sendChanges(server, [
    changeOf(
      'link',
      {
        ...link,
        hop: { pass: 'all' as const },
        destination: 'https://shop.example/p?ref1={click}&s={source}',
      },
      2,
    ),
  ]);
});
afterAll(() => server.stop());

const raw = (bytes: string | Buffer) => sendRaw(server.port, bytes);
const host = 'see.nightledge.localhost';
const get = (target: string, name = host, more = '') =>
  raw(`GET ${target} HTTP/1.1\r\nHost: ${name}\r\nConnection: close\r\n${more}\r\n`);
const status = statusOf;
const header = headerOf;
const alive = async () => expect(status(await get('/saturn'))).toBe(307);

describe('hostile requests for a hop', () => {
  it.each([
    ['an encoded line break in the slug', '/saturn%0d%0aSet-Cookie:%20x=1', 400],
    ['an encoded line break in the source', '/saturn~a%0d%0aLocation:%20//evil.example', 400],
    ['an encoded line break in the query', '/saturn?x=%0d%0aSet-Cookie:%20x=1', 400],
    ['%00', '/saturn%00.html', 400],
    ['%00 in the query', '/saturn?x=%00', 400],
    ['bad percent-encoding', '/saturn%zz', 400],
    ['half a UTF-8 letter', '/saturn%c3', 400],
    ['raw Latin-1', '/saturn\xe9', 400],
    ['an absolute-form target', 'http://evil.example/saturn', 400],
    ['an absolute-form target of our own', `http://${host}/saturn`, 400],
    ['the asterisk form', '*', 400],
    ['a URL of 100 KB', `/saturn?x=${'y'.repeat(100_000)}`, 431],
    ['//evil as the address', '//evil.example/saturn', 404],
    ['\\evil as the address', '/\\evil.example', 404],
    ['a path that climbs', '/../../etc/passwd', 404],
    ['__proto__ as the slug', '/__proto__', 404],
    ['constructor as the slug', '/constructor', 404],
  ])('%s', async (_what, target, expected) => {
    const answer = await get(target);
    expect(status(answer)).toBe(expected);
    expect(header(answer, 'Location')).toBeUndefined();
    expect(header(answer, 'Set-Cookie')).toBeUndefined();
    await alive();
  });

  it('raw line breaks never become headers', async () => {
    for (const target of ['/saturn\r\nSet-Cookie: x=1', '/saturn~a\rb', '/saturn?x=\ny']) {
      const answer = await raw(`GET ${target} HTTP/1.1\r\nHost: ${host}\r\nConnection: close\r\n\r\n`);
      expect(status(answer)).toBe(400);
      expect(header(answer, 'Set-Cookie')).toBeUndefined();
    }
    await alive();
  });

  it.each([
    '//evil.example',
    '\\evil.example',
    '@evil.example',
    '/../evil',
    '%2F%2Fevil.example',
    '#@evil.example',
    '.evil.example',
  ])('a passed-through %s does not change where the hop leads', async (value) => {
    for (const target of [
      `/saturn?u=${value}`,
      `/saturn?${value}`,
      `/saturn?from=${value}`,
      `/saturn~${value.replace(/[#?]/g, '')}`,
    ]) {
      const answer = await get(target);
      const location = header(answer, 'Location');
      if (location === undefined) expect(status(answer)).toBe(400);
      else {
        const url = new URL(location);
        expect([url.origin, url.pathname, url.username]).toEqual(['https://shop.example', '/p', '']);
      }
    }
    await alive();
  });

  it('a host we do not know, none, two, and one with a trick', async () => {
    expect(status(await get('/saturn', 'evil.example'))).toBe(421);
    expect(status(await get('/', 'localhost.evil.example'))).toBe(421);
    expect(status(await get('/', `${host}@evil.example`))).toBe(421);
    expect(status(await raw('GET /saturn HTTP/1.1\r\nConnection: close\r\n\r\n'))).toBe(400);
    expect(status(await raw('GET /saturn HTTP/1.0\r\n\r\n'))).toBe(421);
    await alive();
  });
});

describe('hostile calls of the admin API', () => {
  const post = (body: string, headers: string, name = `localhost:${server.port}`) =>
    raw(
      `POST /api/changes HTTP/1.1\r\nHost: ${name}\r\nConnection: close\r\nContent-Length: ${Buffer.byteLength(body)}\r\n${headers}\r\n${body}`,
    );
  const good = () =>
    `Authorization: Bearer ${server.key}\r\nOrigin: http://localhost:${server.port}\r\nContent-Type: application/json\r\n`;

  it('a page on another host that posts, with or without its form type', async () => {
    const evil = 'Origin: https://evil.example\r\nSec-Fetch-Site: cross-site\r\n';
    expect(
      status(
        await post(
          '{"changes":[]}',
          `${evil}Content-Type: application/json\r\nAuthorization: Bearer ${server.key}\r\n`,
        ),
      ),
    ).toBe(403);
    expect(status(await post('{"changes":[]}', `${evil}Content-Type: text/plain\r\n`))).toBe(403);
    const preflight = await raw(
      `OPTIONS /api/changes HTTP/1.1\r\nHost: localhost:${server.port}\r\nConnection: close\r\n${evil}Access-Control-Request-Method: POST\r\n\r\n`,
    );
    expect(header(preflight, 'Access-Control-Allow-Origin')).toBeUndefined();
    expect(status(preflight)).toBe(403);
  });

  it('a page on another host cannot embed or read it', async () => {
    const answer = await get('/api/health', `localhost:${server.port}`);
    expect(header(answer, 'Cross-Origin-Resource-Policy')).toBe('same-origin');
    expect(header(answer, 'Content-Security-Policy')).toContain("frame-ancestors 'none'");
    expect(header(answer, 'Access-Control-Allow-Origin')).toBeUndefined();
  });

  it('a rebound name and a request through a proxy on this machine, without the key', async () => {
    expect(status(await get('/api/changes', 'rebind.evil.example'))).toBe(421);
    const proxied = await get(
      '/api/changes',
      `localhost:${server.port}`,
      'X-Forwarded-For: 203.0.113.9\r\nX-Forwarded-Host: localhost\r\n',
    );
    expect(status(proxied)).toBe(401);
    const hop = await get('/saturn', host, 'X-Forwarded-For: 203.0.113.9\r\n');
    expect(status(hop)).toBe(307);
  });

  it('a body of 50 MB, announced or chunked', async () => {
    const announced = await raw(
      `POST /api/changes HTTP/1.1\r\nHost: localhost:${server.port}\r\nConnection: close\r\nContent-Length: 52428800\r\n${good()}\r\n`,
    );
    expect(status(announced)).toBe(413);
    const chunk = `${(1024 * 1024).toString(16)}\r\n${'x'.repeat(1024 * 1024)}\r\n`;
    const chunked = await raw(
      `POST /api/changes HTTP/1.1\r\nHost: localhost:${server.port}\r\nConnection: close\r\nTransfer-Encoding: chunked\r\n${good()}\r\n${chunk.repeat(50)}0\r\n\r\n`,
    );
    expect([413, NaN]).toContain(status(chunked));
    await alive();
  });

  it.each([
    ['JSON nested 10,000 deep', `{"changes":${'['.repeat(10_000)}${']'.repeat(10_000)}}`],
    [
      'a value nested 10,000 deep',
      `{"changes":[{"change":"01M84BDPSKXE4HN0RD2V6W3PBC","kind":"link","record":"lnk_a","revision":1,"by":"","at":1,"value":{"id":${'['.repeat(10_000)}${']'.repeat(10_000)}}}]}`,
    ],
    ['a __proto__', '{"__proto__":{"key":"x"},"changes":[{"__proto__":{"kind":"link"}}]}'],
    ['no JSON', '{"changes":'],
    ['a list', '[]'],
    ['1,001 changes', JSON.stringify({ changes: Array.from({ length: 1001 }, () => ({})) })],
  ])('%s changes nothing', async (_what, body) => {
    const answer = await post(body, good());
    if (status(answer) === 200) expect(answer).toMatch(/"refused":\[\{/);
    else expect(status(answer)).toBe(400);
    expect(Object.prototype).not.toHaveProperty('key');
    await alive();
  });

  it('a long body behind a postback and a beacon', async () => {
    const long = (target: string, name: string) =>
      raw(`POST ${target} HTTP/1.1\r\nHost: ${name}\r\nConnection: close\r\nContent-Length: 200000\r\n\r\n`);
    expect(status(await long('/beacon', host))).toBe(400);
    expect(status(await long(`/postback/${'k'.repeat(24)}`, 'x'))).toBe(404);
    await alive();
  });
});
