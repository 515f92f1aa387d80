import { createServer as createHttp } from 'node:http';
import type { RequestListener, Server } from 'node:http';
import { createServer as createHttps, request } from 'node:https';
import { createServer as createTcp } from 'node:net';
import type { AddressInfo, Server as TcpServer } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Authority } from '../testing/certificates.ts';
import type { DomainCheck, Reach } from './domainCheck.ts';
import { checkDomain } from './domainCheck.ts';

const host = 'see.nightledge.example';
const desk = 'desk.nightledge.example';
const token = 'the token of this server';
/** Public addresses, which nobody is asked at: those for documentation count as inside a network. */
const here = '11.0.0.5';
const there = '11.0.0.4';
let authority: Authority;
const servers: (Server | TcpServer)[] = [];
const listen = async (server: Server | TcpServer): Promise<number> => {
  servers.push(server);
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return (server.address() as AddressInfo).port;
};
const ours: RequestListener = (asked, response) =>
  response.end(asked.url === '/.well-known/fernhop' ? `${token}\n` : '');
const withCertificate = (name: string, listener = ours) =>
  listen(createHttps({ key: authority.read(`${name}.key`), cert: authority.read(`${name}.pem`) }, listener));

beforeAll(() => {
  authority = new Authority();
  const year = new Date().getUTCFullYear();
  authority.sign('good', host, year - 1, year + 1);
  authority.sign('expired', host, year - 2, year - 1);
  authority.sign('other', 'blog.nightledge.example', year - 1, year + 1);
  authority.signByItself('self', host);
});
afterAll(() => servers.forEach((server) => server.close()));

/** Reaches a real server on this machine as if it were at a public address. */
const reach = (
  port: number,
  names: Readonly<Record<string, readonly string[]>> = { [host]: [here], [desk]: [here] },
): Reach => ({
  addresses: (name) => Promise.resolve([...(names[name] ?? [])]),
  get: (url) =>
    new Promise((resolve, reject) => {
      request(
        {
          host: '127.0.0.1',
          port,
          path: url.pathname,
          servername: url.hostname,
          headers: { Host: url.host },
          ca: authority.root,
          agent: false,
        },
        (response) => {
          let text = '';
          response.on('data', (piece: Buffer) => (text += piece.toString()));
          response.on('end', () => resolve({ status: response.statusCode ?? 0, text: text.trim() }));
        },
      )
        .on('error', reject)
        .end();
    }),
});
const check = (by: Reach): Promise<DomainCheck> =>
  checkDomain({ host, port: 4600, token, appHost: desk }, by);

describe('a new domain', () => {
  it('is good once this server answers there by https', async () => {
    expect(await check(reach(await withCertificate('good')))).toEqual({
      good: true,
      says: `It answers by https, at ${here}.`,
    });
  });

  it.each<[string, () => Promise<number>, Partial<DomainCheck>, RegExp]>([
    [
      'whose port is closed',
      async () => {
        const server = createTcp();
        const port = await listen(server);
        await new Promise((done) => server.close(done));
        return port;
      },
      { problem: 'closed' },
      /^Nothing answers at 11\.0\.0\.5 on port 443\. .*firewall/,
    ],
    [
      'where another server answers',
      () =>
        withCertificate('good', (_, response) => {
          response.statusCode = 404;
          response.end('No such site.');
        }),
      { problem: 'another server' },
      /Something else answers for see.* with status 404\. .*Host header/,
    ],
    [
      'whose certificate has expired',
      () => withCertificate('expired'),
      { problem: 'expired' },
      /has expired/,
    ],
    [
      'whose certificate is for another name',
      () => withCertificate('other'),
      { problem: 'other name' },
      /is for another name \(blog\.nightledge\.example\)/,
    ],
    [
      'whose certificate was signed by itself',
      () => withCertificate('self'),
      { problem: 'untrusted' },
      /signed by nobody whom browsers know/,
    ],
    [
      'where plain http is spoken on the port of https',
      () => listen(createHttp(ours)),
      { problem: 'no certificate' },
      /shows no certificate for see/,
    ],
    [
      'where the handshake is refused, as Caddy does without a certificate',
      () => listen(createHttps({ SNICallback: (_, done) => done(new Error('none')) }, ours)),
      { problem: 'no certificate' },
      /shows no certificate for see/,
    ],
    [
      'where the connection is broken off',
      () => listen(createTcp((socket) => socket.destroy())),
      { problem: 'no certificate' },
      /shows no certificate/,
    ],
  ])('%s is told so', async (_, start, expected, words) => {
    const found = await check(reach(await start()));
    expect(found).toMatchObject({ good: false, ...expected });
    expect(found.says).toMatch(words);
  });

  it('whose name leads nowhere, inside a network, or to another machine is told so', async () => {
    const port = await withCertificate('good', (_, response) => response.end('a shop'));
    expect(await check(reach(port, {}))).toMatchObject({ problem: 'no name' });
    expect(await check(reach(port, { [host]: ['10.0.0.7'] }))).toMatchObject({ problem: 'not asked' });
    expect(await check(reach(port, { [host]: [there], [desk]: [here] }))).toEqual({
      good: false,
      problem: 'another address',
      says: expect.stringMatching(
        /leads to 11\.0\.0\.4, and this server is at 11\.0\.0\.5, where desk.* leads\. Change its record to that\. \(Something else answers/,
      ) as string,
    });
    // Where it is reached all the same, through a network that stands in front for instance, nothing is wrong.
    const fine = await withCertificate('good');
    expect((await check(reach(fine, { [host]: [there], [desk]: [here] }))).good).toBe(true);
  });
});
