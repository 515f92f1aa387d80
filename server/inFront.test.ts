import type { ChildProcess } from 'node:child_process';
import { execFileSync, spawn } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { request as askHttp } from 'node:http';
import type { IncomingHttpHeaders } from 'node:http';
import { connect as connectHttp2 } from 'node:http2';
import { request as askHttps } from 'node:https';
import { join } from 'node:path';
import { connect as connectTls } from 'node:tls';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { caddyfile, nginxBlocks } from '#core/formats';
import { newDomain } from '#core/catalogue';
import { changeOf, fillFirst, readJournal, sendChanges } from './client.ts';
import { Authority } from './testing/certificates.ts';
import type { Running } from './testing/process.ts';
import { freePort, freshFolder, startProcess } from './testing/process.ts';

const desk = 'desk.nightledge.example';
const see = 'see.nightledge.example';
const go = 'go.nightledge.example';
let server: Running;
let key = '';

beforeAll(async () => {
  server = await startProcess({ env: { APP_ORIGIN: `https://${desk}`, TRUST_PROXY: '127.0.0.1' } });
  const records = await fillFirst(server);
  key = records.key;
  await sendChanges(server, [
    changeOf('domain', newDomain('dom_one', see, 'UTC')),
    changeOf('domain', newDomain('dom_two', go, 'UTC')),
    changeOf('link', { ...records.link, id: 'lnk_one', domain: 'dom_one', slug: 'kit', aliases: [] }),
    changeOf('link', { ...records.link, id: 'lnk_two', domain: 'dom_two', slug: 'kit', aliases: [] }),
  ]);
});
afterAll(() => server.stop());

interface Answered {
  readonly status: number;
  readonly headers: IncomingHttpHeaders;
  readonly body: string;
}
/** Asks a web server on this machine as if a name led there, from an address of this machine. */
const ask = (
  url: string,
  {
    port,
    ca,
    from = '127.0.0.1',
    headers = {},
  }: { port: number; ca?: string; from?: string; headers?: object },
): Promise<Answered> =>
  new Promise((resolve, reject) => {
    const { protocol, host, hostname, pathname, search } = new URL(url);
    const send = protocol === 'https:' ? askHttps : askHttp;
    send(
      {
        host: '127.0.0.1',
        port,
        localAddress: from,
        path: pathname + search,
        headers: { Host: host, ...headers },
        agent: false,
        ...(protocol === 'https:' && { servername: hostname, ca }),
      },
      (response) => {
        let body = '';
        response.setEncoding('utf8').on('data', (text: string) => (body += text));
        response.on('end', () =>
          resolve({ status: response.statusCode ?? 0, headers: response.headers, body }),
        );
      },
    )
      .on('error', reject)
      .end();
  });
/** The status of an answer by HTTP/2 alone. */
const askHttp2 = (url: string, { port, ca }: { port: number; ca: string }): Promise<number> =>
  new Promise((resolve, reject) => {
    const { hostname, pathname } = new URL(url);
    const session = connectHttp2(`https://127.0.0.1:${port}`, { servername: hostname, ca });
    session.on('error', reject);
    const stream = session.request({ ':path': pathname, ':authority': hostname });
    stream.on('response', (headers) => {
      resolve(Number(headers[':status']));
      session.close();
    });
    stream.on('error', reject);
    stream.end();
  });
/** The name a certificate is for that is shown to whoever asks for a host; rejects where the handshake fails. */
const certificateFor = (host: string, port: number, ca: string): Promise<string | undefined> =>
  new Promise((resolve, reject) => {
    const socket = connectTls({ host: '127.0.0.1', port, servername: host, ca }, () => {
      resolve(socket.getPeerCertificate().subjectaltname);
      socket.end();
    });
    socket.on('error', reject);
  });

describe('whether a certificate may be had', () => {
  const may = (domain: string, headers: object = {}) =>
    ask(`http://127.0.0.1/api/certificate-for${domain}`, { port: server.port, headers });

  it.each([see, go, desk, see.toUpperCase(), 'see.nightledge.localhost'])('%s may', async (host) => {
    const { status, body, headers } = await may(`?domain=${host}`);
    expect([status, body, headers['content-length']]).toEqual([200, '', '0']);
  });
  it.each([
    '',
    '?domain=',
    '?domain=stranger.example',
    `?domain=x.${see}`,
    `?domain=${see}.`,
    `?domain=${see}:443`,
    `?domain=${see}&domain=${see}`,
    `?domain[]=${see}`,
    '?domain=__proto__',
    '?domain=127.0.0.1',
  ])('"%s" may not', async (query) => {
    const { status, body } = await may(query);
    expect([status, body]).toEqual([404, '']);
  });
  it.each<[string, object]>([
    ['X-Forwarded-For', { 'X-Forwarded-For': '192.0.2.7' }],
    ['Forwarded', { Forwarded: 'for=127.0.0.1' }],
    ['X-Forwarded-Host', { 'X-Forwarded-Host': see }],
    ['Via', { Via: '1.1 proxy' }],
  ])('nobody learns it through a proxy, which tells of itself by %s', async (_, headers) => {
    expect((await may(`?domain=${see}`, headers)).status).toBe(404);
  });
});

/** Shows, over a real web server in front, that visitors, networks and the application come through right. */
const comesThrough = (front: () => { http: number; https: number; ca: string }): void => {
  const asked = (url: string, more: object = {}) => {
    const { http, https, ca } = front();
    return ask(url, { port: url.startsWith('https:') ? https : http, ca, ...more });
  };
  it('two link domains and the application answer by https, and by HTTP/2', async () => {
    const { https, ca } = front();
    for (const [url, status] of [
      [`https://${see}/kit`, 307],
      [`https://${go}/kit`, 307],
      [`https://${desk}/`, 200],
    ] as const) {
      expect([url, (await asked(url)).status]).toEqual([url, status]);
      expect([url, await askHttp2(url, { port: https, ca })]).toEqual([url, status]);
      expect(await certificateFor(new URL(url).hostname, https, ca)).toBe(`DNS:${new URL(url).hostname}`);
    }
    expect((await asked(`https://${see}/kit`)).headers['strict-transport-security']).toBeDefined();
    expect((await asked(`https://${desk}/`)).body).toContain('<div id="app">');
  });

  it('plain http leads on to https, but for what networks call', async () => {
    const { status, headers } = await asked(`http://${see}/kit?from=mail`);
    expect([status, headers.location]).toEqual([308, `https://${see}/kit?from=mail`]);
    expect((await asked(`http://${see}/postback/${key}?txn=PLAIN&amount=1`)).body).toBe('ok');
  });

  it('the addresses in the journal are the senders’, whatever they say of themselves', async () => {
    const forged = { headers: { 'X-Forwarded-For': '192.0.2.99', Forwarded: 'for=192.0.2.99' } };
    for (const [n, from] of ['127.0.0.5', '127.0.0.6'].entries())
      expect((await asked(`https://${see}/postback/${key}?txn=FROM-${n}`, { from, ...forged })).body).toBe(
        'ok',
      );
    const sent = (await readJournal(server)).flatMap((record) =>
      record.kind === 'postback' && record.query.startsWith('txn=FROM-') ? [record.ip] : [],
    );
    expect(sent.slice(-2)).toEqual(['127.0.0.5', '127.0.0.6']);
    const visitors = async () =>
      (await readJournal(server)).flatMap((record) => (record.kind === 'hop' ? [record.visitor] : []));
    const before = (await visitors()).length;
    for (const from of ['127.0.0.5', '127.0.0.5', '127.0.0.6']) await asked(`https://${see}/kit`, { from });
    await vi.waitFor(async () => expect((await visitors()).length).toBe(before + 3));
    const [one, again, other] = (await visitors()).slice(-3);
    expect(one).toBe(again);
    expect(one).not.toBe(other);
  });

  it('nobody outside asks for certificates', async () => {
    for (const host of [see, desk])
      expect((await asked(`https://${host}/api/certificate-for?domain=${see}`)).status).toBe(404);
  });
};

describe('Caddy in front, by the generated Caddyfile', () => {
  const home = freshFolder();
  const ports = { http: 0, https: 0 };
  let caddy: ChildProcess;
  let log = '';
  beforeAll(async () => {
    ports.http = await freePort();
    ports.https = ports.http + 1;
    // On a real machine there are no more lines than what is generated; here the ports are others, and the authority is
    // Caddy's own.
    const made = caddyfile({ port: server.port });
    const here = made
      .replace(
        '{\n',
        `{\n\thttp_port ${ports.http}\n\thttps_port ${ports.https}\n\tadmin off\n\tskip_install_trust\n`,
      )
      .replace('\ttls {', '\ttls internal {');
    expect(here).not.toBe(made);
    writeFileSync(join(home, 'Caddyfile'), here);
    writeFileSync(join(home, 'as-made'), made);
    const env = { PATH: process.env['PATH'] ?? '', HOME: home, XDG_DATA_HOME: home };
    execFileSync(
      'caddy',
      ['adapt', '--config', join(home, 'as-made'), '--adapter', 'caddyfile', '--validate'],
      { env, stdio: 'pipe' },
    );
    caddy = spawn('caddy', ['run', '--config', join(home, 'Caddyfile'), '--adapter', 'caddyfile'], { env });
    caddy.stderr?.on('data', (text: Buffer) => (log += text.toString()));
    await vi.waitFor(
      () =>
        expect([log, existsSync(root())]).toEqual([
          expect.stringContaining('serving initial configuration'),
          true,
        ]),
      { timeout: 20_000 },
    );
  });
  afterAll(() => {
    caddy.kill();
  });
  const root = () => join(home, 'caddy/pki/authorities/local/root.crt');
  const front = () => ({ ...ports, ca: readFileSync(root(), 'utf8') });
  comesThrough(front);

  it('gets none for a stranger', async () => {
    const { https, ca } = front();
    await expect(certificateFor('stranger.example', https, ca)).rejects.toThrow(
      /alert|disconnected|ECONNRESET/,
    );
    await expect(ask('https://stranger.example/kit', { port: https, ca })).rejects.toThrow();
  });

  it('gets one for a domain that was just added, with nothing done to Caddy', async () => {
    const { https, ca } = front();
    const fresh = 'new.nightledge.example';
    await expect(certificateFor(fresh, https, ca)).rejects.toThrow();
    await sendChanges(server, [changeOf('domain', newDomain('dom_new', fresh, 'UTC'))]);
    await vi.waitFor(async () => expect(await certificateFor(fresh, https, ca)).toBe(`DNS:${fresh}`), {
      timeout: 30_000,
      interval: 500,
    });
  });
});

describe('nginx in front, by the generated blocks', () => {
  const home = freshFolder();
  const ports = { http: 0, https: 0 };
  let nginx: ChildProcess;
  let ca = '';
  beforeAll(async () => {
    ports.http = await freePort();
    ports.https = ports.http + 1;
    const authority = new Authority();
    ca = authority.root;
    const year = new Date().getUTCFullYear();
    for (const host of [desk, see, go]) {
      authority.sign(host, host, year - 1, year + 1);
      const folder = join(home, 'live', host);
      mkdirSync(folder, { recursive: true });
      // Where certbot would put them.
      copyFileSync(join(authority.folder, `${host}.pem`), join(folder, 'fullchain.pem'));
      copyFileSync(join(authority.folder, `${host}.key`), join(folder, 'privkey.pem'));
    }
    const made = nginxBlocks({ port: server.port, hosts: [desk, see, go], certificates: join(home, 'live') });
    const wrapped = (blocks: string) =>
      `error_log stderr; pid ${home}/pid; daemon off; worker_processes 1; events {}\nhttp { access_log off; client_body_temp_path ${home}/t1; proxy_temp_path ${home}/t2; fastcgi_temp_path ${home}/t3; uwsgi_temp_path ${home}/t4; scgi_temp_path ${home}/t5;\n${blocks}}\n`;
    writeFileSync(join(home, 'as-made.conf'), wrapped(made));
    const checked = execFileSync('bash', ['-c', `nginx -t -c ${home}/as-made.conf 2>&1`], {
      encoding: 'utf8',
    });
    expect(checked).toContain('test is successful');
    expect(checked).not.toContain('[warn]');
    const here = made
      .replaceAll('listen 80;', `listen 127.0.0.1:${ports.http};`)
      .replaceAll('listen 443 ', `listen 127.0.0.1:${ports.https} `)
      .replaceAll(/\tlisten \[::\].*\n/g, '');
    writeFileSync(join(home, 'nginx.conf'), wrapped(here));
    nginx = spawn('nginx', ['-c', join(home, 'nginx.conf')], { stdio: 'ignore' });
    await vi.waitFor(
      async () => expect((await ask(`http://${see}/`, { port: ports.http })).status).toBe(308),
      { timeout: 10_000 },
    );
  });
  afterAll(() => {
    nginx.kill();
  });
  comesThrough(() => ({ ...ports, ca }));
});
