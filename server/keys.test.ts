import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { AuditRecord } from '#core/visits';
import { send } from '../standins/index.ts';
import { AdminKey, writeNewKey } from './adminKey.ts';
import { builtFile } from './built.ts';
import { call, readJournal, sendChanges, changeOf } from './client.ts';
import { lockFolder } from './dataDir.ts';
import type { Running } from './testing/process.ts';
import { freshFolder, startProcess } from './testing/process.ts';
import { fillForRequests } from './testing/generated.ts';

const audits = async (server: Running): Promise<AuditRecord[]> =>
  (await readJournal(server)).filter((record) => record.kind === 'audit');
const withKey = (server: Running, key: string, path = '/about') =>
  send(`http://localhost:${server.port}/api${path}`, { headers: { Authorization: `Bearer ${key}` } });

describe('the key of the server', () => {
  let server: Running;
  beforeAll(async () => {
    server = await startProcess();
  });
  afterAll(() => server.stop());

  it('is not printed where output goes to a file, and lies in one that only its owner reads', () => {
    const line = spawnSync(process.execPath, [builtFile('key.js'), '--data', server.dataDir], {
      encoding: 'utf8',
    });
    expect(line.stdout).toContain(`#key=${server.key}\n`);
    expect(statSync(join(server.dataDir, 'key')).mode & 0o077).toBe(0);
    expect(server.log()).not.toContain(server.key);
    const none = spawnSync(process.execPath, [builtFile('key.js'), '--data', freshFolder()], {
      encoding: 'utf8',
    });
    expect([none.status, none.stderr]).toEqual([1, expect.stringContaining('makes one at its first start')]);
  });

  it('opens nothing but a bare health without it', async () => {
    expect((await send(`http://localhost:${server.port}/api/health`)).body).toBe('{"ok":true}');
    expect((await withKey(server, 'wrong', '/health')).body).toBe('{"ok":true}');
    expect(JSON.parse((await withKey(server, server.key, '/health')).body)).toMatchObject({
      ok: true,
      seq: 0,
    });
  });

  it('is renewed by the file or by a call, without a restart; the one before counts no longer', async () => {
    const before = server.key;
    execFileSync(process.execPath, [builtFile('key.js'), '--data', server.dataDir, '--renew']);
    const next = readFileSync(join(server.dataDir, 'key'), 'utf8').trim();
    expect(next).not.toBe(before);
    await vi.waitFor(async () => expect((await withKey(server, next)).status).toBe(200), { timeout: 3000 });
    expect((await withKey(server, before)).status).toBe(401);
    const place = { port: server.port, key: next };
    const { key } = JSON.parse((await call(place, 'POST', '/key', { renew: true })).body) as { key: string };
    expect((await withKey(server, next)).status).toBe(401);
    expect((await withKey(server, key)).status).toBe(200);
    expect(readFileSync(join(server.dataDir, 'key'), 'utf8').trim()).toBe(key);
    // What tests and samples carry stays: a browser that holds it goes on making tests.
    expect((await call({ port: server.port, key }, 'POST', '/key', { renew: 'yes' })).status).toBe(400);
  });

  it('that is wrong is slowed down after a few tries, and a right one never', async () => {
    // Tries count within a minute of the clock: none may end in the middle of this.
    const leftMs = 60_000 - (Date.now() % 60_000);
    if (leftMs < 12_000) await new Promise((resolve) => setTimeout(resolve, leftMs + 50));
    const key = readFileSync(join(server.dataDir, 'key'), 'utf8').trim();
    const began = performance.now();
    const tries = await Promise.all(Array.from({ length: 20 }, () => withKey(server, 'guess-guess-guess')));
    expect(performance.now() - began).toBeGreaterThan(900);
    expect(new Set(tries.map(({ status }) => status))).toEqual(new Set([401]));
    const right = performance.now();
    expect((await withKey(server, key)).status).toBe(200);
    expect(performance.now() - right).toBeLessThan(500);
    // Health tells a right key from a wrong one too, so it is as slow.
    const health = performance.now();
    expect((await withKey(server, 'guess-guess-guess', '/health')).body).toBe('{"ok":true}');
    expect(performance.now() - health).toBeGreaterThan(900);
    expect((await send(`http://localhost:${server.port}/api/health`)).status).toBe(200);
    const many = await Promise.all(Array.from({ length: 150 }, () => withKey(server, 'guess-guess-guess')));
    expect(many.some(({ status }) => status === 429)).toBe(true);
  });

  it('given by the environment is not renewed here', () => {
    const key = new AdminKey(freshFolder(), 'given-from-outside');
    expect(key.is('given-from-outside')).toBe(true);
    expect(() => key.renew()).toThrow('FERNHOP_KEY');
  });

  it('stays as it is where its file is taken away or emptied', () => {
    vi.useFakeTimers();
    const folder = freshFolder();
    const key = new AdminKey(folder, undefined);
    const made = key.value;
    writeFileSync(join(folder, 'key'), '');
    vi.advanceTimersByTime(1000);
    expect(key.is(made)).toBe(true);
    const next = writeNewKey(folder);
    vi.advanceTimersByTime(1000);
    expect([key.is(made), key.is(next)]).toEqual([false, true]);
    vi.useRealTimers();
  });
});

describe('what happens around keys and files', () => {
  it('stands in the journal, the first at once and repetitions as one record', async () => {
    const server = await startProcess();
    const { host, postbackKey } = await fillForRequests(server);
    for (let n = 0; n < 8; n++) await withKey(server, 'guess-guess-guess');
    await send(`http://${host}:${server.port}/postback/${'k'.repeat(30)}?txn=1`);
    await call(server, 'POST', '/exported', { what: 'everything as JSON, secrets included', by: 'Ines' });
    await send(`http://localhost:${server.port}/api/waiting-list?link=lnk_kit`, {
      method: 'DELETE',
      headers: {
        Authorization: `Bearer ${server.key}`,
        Origin: `http://localhost:${server.port}`,
        'Content-Type': 'application/json',
      },
    });
    const [, network] = JSON.parse((await call(server, 'GET', '/changes?after=0')).body).changes as {
      value: { id: string; postback: object };
    }[];
    if (!network) throw new Error('a network was made');
    const signed = {
      ...network.value,
      postback: { ...network.value.postback, signature: { parameter: 'sig', secret: 's' } },
    };
    await sendChanges(server, [changeOf('network', signed, 2)]);
    expect((await send(`http://${host}:${server.port}/postback/${postbackKey}?txn=2&sig=%ff`)).status).toBe(
      200,
    );
    await vi.waitFor(
      async () =>
        expect((await audits(server)).map(({ event }) => event)).toEqual([
          'wrong key',
          'refused postback',
          'export',
          'erasure',
          'bad signature',
        ]),
      { timeout: 3000 },
    );
    await server.stop();
    const again = await startProcess({ dataDir: server.dataDir });
    const all = await audits(again);
    expect(all.filter(({ event }) => event === 'wrong key').map(({ count }) => count)).toEqual([1, 7]);
    expect(all.find(({ event }) => event === 'export')?.detail).toBe(
      'Ines saved everything as JSON, secrets included.',
    );
    expect(JSON.stringify(all)).not.toContain('127.0.0.1');
    expect(JSON.stringify(all)).not.toContain('guess');
    await again.stop();
  });
});

describe('parameters of the API', () => {
  let server: Running;
  beforeAll(async () => {
    server = await startProcess();
    await fillForRequests(server);
  });
  afterAll(() => server.stop());
  const ask = (method: string, path: string) =>
    send(`http://localhost:${server.port}/api${path}`, {
      method,
      headers: {
        Authorization: `Bearer ${server.key}`,
        Origin: `http://localhost:${server.port}`,
        'Content-Type': 'application/json',
      },
    });

  it.each([
    ['DELETE', '/waiting-list?link=a&link=b'],
    ['DELETE', '/waiting-list?link=lnk_a&link=lnk_b'],
    ['DELETE', '/waiting-list?link='],
    ['DELETE', '/waiting-list?lnk=lnk_a'],
    ['DELETE', '/waiting-list?link[]=lnk_a'],
    ['GET', '/changes?after=1&after=2'],
    ['GET', '/changes?after=-1'],
    ['GET', '/journal?after=x'],
    ['GET', '/journal?until=5'],
    ['GET', '/waiting-list?x=1'],
  ])('%s %s is refused and erases nothing', async (method, path) => {
    const before = join(server.dataDir, 'waiting-list.ndjson');
    writeFileSync(before, '{"at":1,"link":"lnk_a","mail":"anna@reader.example","consent":"Yes."}\n');
    expect((await ask(method, path)).status).toBe(400);
    expect(readFileSync(before, 'utf8')).toContain('anna');
  });

  it('a torn line of a file is passed over, and the rest is given', async () => {
    const torn = '{"at":1,"why":"unkn';
    const whole = '{"at":2,"why":"unknown key","text":"GET /postback/x"}';
    writeFileSync(
      join(server.dataDir, 'rejected.ndjson'),
      `${torn}\n${whole}\n[1]\nnull\n{"at":"x"}\n${torn}`,
    );
    const answer = await ask('GET', '/rejected');
    expect(JSON.parse(answer.body)).toEqual({ rejected: [JSON.parse(whole)] });
    writeFileSync(
      join(server.dataDir, 'waiting-list.ndjson'),
      `${torn}\n{"at":1,"link":"a","mail":"b@c.example","consent":""}\n{"a`,
    );
    expect(JSON.parse((await ask('GET', '/waiting-list')).body)).toMatchObject({
      waitingList: [{ mail: 'b@c.example' }],
    });
  });
});

describe('the lock of a data folder', () => {
  it('of a process that was killed and not yet reaped is taken over', async () => {
    const folder = freshFolder();
    // The child reads until its input ends, which is once the shell has become a program that never waits for it; then it
    // stays in the state Z.
    const script = `exec 3<&0; cat <&3 & echo $!; exec sleep 20`;
    const child = spawn('bash', ['-c', script], {
      stdio: ['pipe', 'pipe', 'ignore'],
    });
    const pid = await new Promise<string>((resolve) =>
      child.stdout.once('data', (text: Buffer) => resolve(text.toString().trim())),
    );
    await vi.waitFor(() => expect(readFileSync(`/proc/${child.pid}/comm`, 'utf8')).toBe('sleep\n'), {
      timeout: 10_000,
    });
    child.stdin.end();
    await vi.waitFor(() => expect(readFileSync(`/proc/${pid}/stat`, 'utf8')).toContain(') Z '), {
      timeout: 10_000,
    });
    const start = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ')[19] ?? '';
    writeFileSync(join(folder, 'lock'), `${pid} ${start}`);
    const unlock = await lockFolder(folder, 0);
    unlock();
    child.kill();
    expect(existsSync(join(folder, 'lock'))).toBe(false);
  });

  it('that is held is waited for, and then refused by one line', async () => {
    const folder = freshFolder();
    const unlock = await lockFolder(folder);
    const began = performance.now();
    setTimeout(unlock, 400);
    const again = await lockFolder(folder);
    expect(performance.now() - began).toBeGreaterThan(300);
    await expect(lockFolder(folder, 100)).rejects.toThrow(/is in use by process \d+\. Stop it first/);
    again();
  });
});
