import type { ChildProcess } from 'node:child_process';
import { execFileSync, spawn } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { request as askHttp } from 'node:http';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { newDomain } from '#core/catalogue';
import type { HopRecord } from '#core/visits';
import { changeOf, fillFirst, readJournal, sendChanges } from '../client.ts';
import { askLogs, inPieces, readLogs } from '../testing/accessLogs.ts';
import type { Running } from '../testing/process.ts';
import { freePort, freshFolder, startProcess } from '../testing/process.ts';

const see = 'see.nightledge.localhost';
const agents = {
  phone:
    'Mozilla/5.0 (Linux; Android 15; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/143.0.0.0 Mobile Safari/537.36',
  desk: 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0',
  odd: 'Überbrowser "7" \\ {x}',
  robot: 'Mozilla/5.0 (compatible; examplebot/2.1)',
};
interface Asked {
  readonly path: string;
  readonly ua: string;
  readonly from?: string;
  readonly referrer?: string;
  readonly method?: string;
}
const asked: readonly Asked[] = [
  { path: '/saturn-kit', ua: agents.phone, from: '127.0.0.2' },
  { path: '/saturn-kit~flyer?zone=12', ua: agents.desk, from: '127.0.0.3' },
  {
    path: '/Saturn?from=letter&q=%C3%BC',
    ua: agents.odd,
    from: '127.0.0.4',
    referrer: 'https://nightledge.example/saturn?a=1',
  },
  { path: '/saturn-kit', ua: agents.robot, from: '127.0.0.5', method: 'HEAD' },
  { path: '/nothing-here', ua: agents.desk, from: '127.0.0.3' },
  // The same person, three times in a moment.
  { path: '/saturn', ua: agents.desk, from: '127.0.0.3' },
  { path: '/saturn', ua: agents.desk, from: '127.0.0.3' },
  { path: '/saturn', ua: agents.desk, from: '127.0.0.3' },
];
const ofLinks = asked.filter(({ path }) => path !== '/nothing-here');

const ask = (
  port: number,
  { path, ua, from, referrer, method = 'GET' }: Asked,
  host = see,
): Promise<number> =>
  new Promise((resolve, reject) => {
    askHttp(
      {
        ...{ host: '127.0.0.1', port, localAddress: from, path, method, agent: false },
        // Header texts are bytes: Node takes them as Latin-1.
        headers: {
          Host: host,
          'User-Agent': Buffer.from(ua, 'utf8').toString('latin1'),
          ...(referrer !== undefined && { Referer: referrer }),
        },
      },
      (response) => {
        response.resume().on('end', () => resolve(response.statusCode ?? 0));
      },
    )
      .on('error', reject)
      .end();
  });
const until = (holds: () => boolean | Promise<boolean>): Promise<void> =>
  vi.waitFor(async () => {
    if (!(await holds())) throw new Error('It did not come.');
  });

/** nginx that answers a link's addresses itself, or passes them on, with its logs. */
const startNginx = async (passesTo?: number) => {
  const home = freshFolder();
  const port = await freePort();
  const answer =
    passesTo === undefined
      ? 'return 302 https://shop.example/kit;'
      : `proxy_pass http://127.0.0.1:${passesTo}; proxy_set_header Host $host;`;
  writeFileSync(
    join(home, 'nginx.conf'),
    `error_log stderr; pid ${home}/pid; daemon off; worker_processes 1; events {}
http { client_body_temp_path ${home}/t1; proxy_temp_path ${home}/t2; fastcgi_temp_path ${home}/t3; uwsgi_temp_path ${home}/t4; scgi_temp_path ${home}/t5;
log_format lines escape=json '{"time":"$time_iso8601","remote_addr":"$remote_addr","request_method":"$request_method","request_uri":"$request_uri","status":$status,"host":"$host","http_referer":"$http_referer","http_user_agent":"$http_user_agent"}';
log_format named '$host:$server_port $remote_addr - $remote_user [$time_local] "$request" $status $body_bytes_sent "$http_referer" "$http_user_agent"';
server { listen 127.0.0.1:${port}; access_log ${home}/combined.log; access_log ${home}/named.log named; access_log ${home}/lines.log lines;
location / { ${answer} } location = /nothing-here { return 404; } } }`,
  );
  const nginx = spawn('nginx', ['-c', join(home, 'nginx.conf')], { stdio: 'ignore' });
  await until(() =>
    ask(port, { path: '/nothing-here', ua: 'a look' }).then(
      () => true,
      () => false,
    ),
  );
  return { home, port, nginx };
};
const linesIn = (path: string) => (existsSync(path) ? readFileSync(path, 'utf8').split('\n').length - 1 : 0);

let server: Running;
let nginx: Awaited<ReturnType<typeof startNginx>>;
const processes: ChildProcess[] = [];
const logOf = (name: string) => readFileSync(join(nginx.home, name));
const hops = async () =>
  (await readJournal(server)).filter((record): record is HopRecord => record.kind === 'hop');

beforeAll(async () => {
  server = await startProcess();
  await fillFirst(server);
  nginx = await startNginx();
  processes.push(nginx.nginx);
  for (const one of asked) await ask(nginx.port, one);
  await until(() => linesIn(join(nginx.home, 'lines.log')) > asked.length);
});
afterAll(async () => {
  for (const one of processes) one.kill();
  await server.stop();
});

describe('a log of nginx, which answered links itself', () => {
  it('a dry run says what would be brought in and writes nothing', async () => {
    const before = await readJournal(server);
    const report = await readLogs(server, [inPieces('combined.log', logOf('combined.log'), 7)], {
      dryRun: true,
    });
    expect(report).toMatchObject({
      files: [{ name: 'combined.log', form: 'combined' }],
      fresh: { count: ofLinks.length, most: [['lnk_saturn', ofLinks.length]] },
      known: 0,
      noLink: { most: [['/nothing-here', expect.any(Number)]] },
      unread: { count: 0 },
    });
    expect(await readJournal(server)).toEqual(before);
  });

  it('brings each request of a link in as it was asked, with nobody’s address', async () => {
    const report = await readLogs(server, [inPieces('combined.log', logOf('combined.log'))]);
    expect(report.fresh.count).toBe(ofLinks.length);
    const found = await hops();
    expect(
      found.map(({ link, source, query, ua, from, method, status, device, host, branch, version }) => ({
        ...{ link, source, query, ua, from, method, status, device, host, branch, version },
      })),
    ).toEqual(
      ofLinks.map(({ path, ua, referrer = '', method = 'GET' }) => ({
        ...{
          link: 'lnk_saturn',
          ua,
          from: referrer,
          method,
          status: 302,
          host: see,
          branch: 'log',
          version: 0,
        },
        source: path.includes('~flyer') ? 'flyer' : path.includes('from=letter') ? 'letter' : '',
        query: path.includes('zone') ? 'zone=12' : path.includes('q=') ? 'q=%C3%BC' : '',
        device: ua === agents.phone ? 'phone' : 'desktop',
      })),
    );
    expect(new Set(found.map(({ click }) => click)).size).toBe(ofLinks.length);
    expect(new Set(found.map(({ visitor }) => visitor)).size).toBe(4);
    const text = JSON.stringify(await readJournal(server));
    expect(text).not.toMatch(/127\.0\.0\.\d/);
    await expect
      .poll(async () => (await readJournal(server)).filter((record) => record.kind === 'audit'))
      .toMatchObject([
        {
          event: 'access log',
          detail: `Test brought in ${ofLinks.length} requests from the access log combined.log.`,
        },
      ]);
  });

  it.each(['combined.log', 'named.log', 'lines.log', 'packed'])('knows them again in %s', async (name) => {
    const before = await hops();
    const bytes = name === 'packed' ? gzipSync(logOf('combined.log')) : logOf(name);
    const report = await readLogs(server, [inPieces(name, bytes), inPieces(`copy of ${name}`, bytes)]);
    expect(report).toMatchObject({ fresh: { count: 0 }, known: ofLinks.length * 2, unread: { count: 0 } });
    expect(await hops()).toEqual(before);
  });

  it('a copy of a log chosen beside it brings nothing in twice', async () => {
    const other = await startProcess();
    await fillFirst(other);
    const report = await readLogs(
      other,
      [inPieces('a.log', logOf('combined.log')), inPieces('b.log', logOf('lines.log'))],
      { dryRun: true },
    );
    expect(report).toMatchObject({ fresh: { count: ofLinks.length }, known: ofLinks.length });
    await other.stop();
  });

  it('the command says the same, and the traffic command counts it', async () => {
    const run = (program: string, ...args: string[]) =>
      execFileSync(process.execPath, [`dist/server/${program}.js`, '--data', server.dataDir, ...args], {
        encoding: 'utf8',
        env: { PATH: process.env['PATH'] ?? '', PORT: String(server.port) },
      });
    const report: unknown = JSON.parse(
      run('access-logs', '--dry-run', '--json', join(nginx.home, 'named.log')),
    );
    expect(report).toMatchObject({ fresh: { count: 0 }, known: ofLinks.length });
    expect(run('access-logs', '--dry-run', join(nginx.home, 'named.log'))).toMatch(
      /^named\.log: combined\n +0 {2}requests of links would be brought in\n +7 {2}are in the journal already/,
    );
    // The domain's day may have begun while that of UTC goes on.
    const dayFrom = (ms: number) => new Date(Date.now() + ms).toISOString().slice(0, 10);
    const days = ['--from', dayFrom(-86_400_000), '--to', dayFrom(86_400_000)];
    const counted = JSON.parse(run('traffic', '--by', 'branch', ...days, '--json')) as {
      whole: { requests: Record<string, number> };
      lines: { value: string }[];
    };
    expect(counted.lines.map(({ value }) => value)).toEqual(['log']);
    expect(Object.values(counted.whole.requests).reduce((a, b) => a + b)).toBe(ofLinks.length);
  });
});

describe('requests that this server answered', () => {
  it('are known in the log of a web server in front of it', async () => {
    const front = await startNginx(server.port);
    processes.push(front.nginx);
    const before = (await hops()).length;
    for (const one of ofLinks) await ask(front.port, one);
    await until(async () => (await hops()).length === before + ofLinks.length);
    await until(() => linesIn(join(front.home, 'named.log')) > ofLinks.length);
    const report = await readLogs(server, [
      inPieces('named.log', readFileSync(join(front.home, 'named.log'))),
    ]);
    expect(report).toMatchObject({ fresh: { count: 0 }, known: ofLinks.length });
    expect(await hops()).toHaveLength(before + ofLinks.length);
  });
});

it('a log of Caddy is brought in', async () => {
  const [home, port] = [freshFolder(), await freePort()];
  const [admin, log] = [await freePort(), join(home, 'caddy.log')];
  writeFileSync(
    join(home, 'Caddyfile'),
    `{\n admin 127.0.0.1:${admin}\n auto_https off\n}\nhttp://${see}:${port} {\n log {\n output file ${log}\n format json\n }\n redir /go https://shop.example/ 302\n redir https://shop.example/kit 302\n}\n`,
  );
  const caddy = spawn('caddy', ['run', '--config', join(home, 'Caddyfile'), '--adapter', 'caddyfile'], {
    stdio: 'ignore',
    env: { PATH: process.env['PATH'] ?? '', HOME: home },
  });
  processes.push(caddy);
  const other = await startProcess();
  await fillFirst(other);
  await until(() =>
    ask(port, { path: '/', ua: 'a look' }).then(
      () => true,
      () => false,
    ),
  );
  // Caddy writes down what names its port.
  for (const one of ofLinks) await ask(port, one, `${see}:${port}`);
  await until(() => linesIn(log) >= ofLinks.length);
  const report = await readLogs(other, [inPieces('caddy.log', readFileSync(log))]);
  expect(report).toMatchObject({
    files: [{ form: 'json' }],
    fresh: { count: ofLinks.length },
    unread: { count: 0 },
  });
  const found = (await readJournal(other)).filter((record): record is HopRecord => record.kind === 'hop');
  expect(found.map(({ ua, source }) => [ua, source])).toEqual(
    ofLinks.map(({ path, ua }) => [
      ua,
      path.includes('~flyer') ? 'flyer' : path.includes('from=letter') ? 'letter' : '',
    ]),
  );
  await other.stop();
});

describe('logs that are wrong', () => {
  const line = (time: string, target: string, more = '"-" "Mozilla/5.0 (X11; Linux x86_64)"') =>
    `192.0.2.9 - - [${time} +0000] "GET ${target} HTTP/1.1" 302 0 ${more}\n`;
  const read = (text: string | Uint8Array, reading = {}, pieceBytes = 50) =>
    readLogs(server, [inPieces('some.log', Buffer.from(text), pieceBytes)], { dryRun: true, ...reading });

  it('torn lines are told with their place, and spoil no other', async () => {
    const report = await read(
      line('24/Oct/2026:08:00:00', '/saturn-kit') +
        line('24/Oct/2026:08:00:01', '/saturn-kit').slice(0, 60) +
        '\n' +
        line('24/Oct/2026:08:00:02', '/saturn') +
        '\u0000\u0001\u0002\n' +
        `192.0.2.9 - - [31/Feb/2026:08:00:00 +0000] "GET /saturn HTTP/1.1" 302 0 "-" "x"\n` +
        line('24/Oct/2099:08:00:00', '/saturn') +
        line('24/Oct/2026:08:00:03', '/saturn').trimEnd(),
    );
    expect(report.fresh.count).toBe(3);
    expect(report.unread.first.map(({ line: n, why }) => [n, why.slice(0, 24)])).toEqual([
      [2, 'It is not written as a c'],
      [4, 'It is not written as a c'],
      [5, '31/Feb/2026:08:00:00 +00'],
      [6, 'Its time lies in the fut'],
    ]);
    expect(report.lines).toBe(7);
  });
  it.each<[string, Uint8Array, RegExp]>([
    ['a picture', Buffer.from([0x89, 0x50, 0x4e, 0x47, 0, 1, 2, 3]), /no access log/],
    ['nothing', new Uint8Array(), /no line/],
    ['a zip', Buffer.from([0x50, 0x4b, 3, 4, 9, 9]), /packed as zip/],
    [
      'a table of links',
      Buffer.from('slug,destination\nkit,https://shop.example/\n'),
      /It begins with: slug,dest/,
    ],
    [
      'a gzip cut off',
      gzipSync(Buffer.from(line('24/Oct/2026:08:00:00', '/saturn').repeat(3000))).subarray(0, 200),
      /cannot be unpacked/,
    ],
  ])('%s is refused in words', async (_, bytes, why) => {
    const [file] = (await read(bytes)).files;
    expect(file?.problem).toMatch(why);
  });
  it('a line of megabytes is passed over in its place', async () => {
    const report = await read(
      line('24/Oct/2026:08:00:00', '/saturn-kit') +
        `${'x'.repeat(300_000)}\n` +
        line('24/Oct/2026:08:00:01', '/saturn-kit'),
      {},
      40_000,
    );
    expect([report.fresh.count, report.unread.count, report.unread.first[0]?.line]).toEqual([2, 1, 2]);
  });
  it('where lines name no host and there are several domains, it is asked which', async () => {
    await sendChanges(server, [changeOf('domain', newDomain('dom_two', 'go.nightledge.localhost', 'UTC'))]);
    const log = line('24/Oct/2026:08:00:00', '/saturn-kit');
    expect(await read(log)).toMatchObject({ noHost: 1, fresh: { count: 0 } });
    expect(await read(log, { host: see })).toMatchObject({ noHost: 0, fresh: { count: 1 } });
    expect(await read(log, { host: 'go.nightledge.localhost' })).toMatchObject({ noLink: { count: 1 } });
    await expect(read(log, { host: 'stranger.example' })).rejects.toThrow(/400.*link domain of yours/);
    const named = `stranger.example:443 ${log}go.nightledge.localhost:80 ${log}`;
    expect(await read(named)).toMatchObject({
      otherHosts: { most: [['stranger.example', 1]] },
      noLink: { count: 1 },
    });
  });
});

describe('a reading', () => {
  const begin = (more = {}) =>
    askLogs(server)('', { dryRun: true, files: 1, ...more }) as Promise<{ id: string }>;
  const piece = (id: string, at: number, text = 'x\n') =>
    askLogs(server)(`/${id}?at=${at}`, Buffer.from(text));

  it('is one at a time, takes its pieces in order, each once, and ends when it is stopped', async () => {
    const { id } = await begin();
    await expect(begin()).rejects.toThrow(/409.*being read already/);
    await expect(piece(id, 0)).rejects.toThrow(/409.*Name a file first/);
    await askLogs(server)(`/${id}/file`, { name: 'a.log' });
    await piece(id, 0, 'xxxx');
    // An answer that was lost on its way is asked for again.
    await piece(id, 0, 'xxxx');
    await expect(piece(id, 9)).rejects.toThrow(/409.*begins at byte 4, not at 9/);
    await expect(askLogs(server)(`/${id}?at=-1`, Buffer.from('x'))).rejects.toThrow(/400/);
    await askLogs(server)(`/${id}/stop`, {});
    await expect(piece(id, 4)).rejects.toThrow(/404.*Begin again/);
    await askLogs(server)(`/${(await begin()).id}/stop`, {});
  });
  it.each([
    { dryRun: true },
    { dryRun: 'yes', files: 1 },
    { dryRun: true, files: 0 },
    { dryRun: true, files: 1, more: 1 },
  ])('is not begun by %j', async (body) => {
    await expect(askLogs(server)('', body)).rejects.toThrow(/400/);
  });
  it('needs the key', async () => {
    await expect(
      askLogs({ ...server, key: 'wrong-key-wrong-key' })('', { dryRun: true, files: 1 }),
    ).rejects.toThrow(/401/);
  });
});
