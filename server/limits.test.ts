import { get } from 'node:http';
import { readdirSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { JournalRecord } from '#core/visits';
import { send } from '../standins/index.ts';
import { call, changeOf, readJournal, sendChanges } from './client.ts';
import type { Running } from './testing/process.ts';
import { askLogs } from './testing/accessLogs.ts';
import { startProcess } from './testing/process.ts';
import { anonymous, flood } from './testing/flood.ts';
import { fillForRequests } from './testing/generated.ts';
import type { Aim } from './testing/requests.ts';
import { Admission } from './http/admission.ts';
import { MinuteLimit } from './http/minuteLimit.ts';
import { makePeers } from './http/peer.ts';

const ofKind = <K extends JournalRecord['kind']>(records: readonly JournalRecord[], kind: K) =>
  records.filter((record): record is Extract<JournalRecord, { kind: K }> => record.kind === kind);

describe('a limit by address and minute', () => {
  const minute = 60_000;
  it('lets so many pass, and as many again in the next minute', () => {
    const limit = new MinuteLimit(2);
    const take = (at: number) => limit.take('192.0.2.1', at);
    expect([take(0), take(1), take(2), take(minute), take(minute), take(minute)]).toEqual([
      true,
      true,
      false,
      true,
      true,
      false,
    ]);
    expect(limit.take('192.0.2.2', 3)).toBe(true);
  });
  it('counts IPv6 by its /64, as a visitor is known', () => {
    const limit = new MinuteLimit(1);
    expect(limit.take('2001:db8:1:2::1', 0)).toBe(true);
    expect(limit.take('2001:db8:1:2:ffff::9', 0)).toBe(false);
    expect(limit.take('2001:db8:1:3::1', 0)).toBe(true);
  });
  it('holds no more than it may, whoever asks', () => {
    const limit = new MinuteLimit(3, 2);
    const taken = Array.from({ length: 10 }, (_, i) => limit.take(`192.0.2.${i}`, 0));
    // Two addresses have counts of their own; the others share one.
    expect(taken.filter(Boolean)).toHaveLength(2 + 3);
  });
});

describe('a proxy nobody named', () => {
  const from = (remoteAddress: string) => ({ socket: { remoteAddress } }) as never; // only this is looked at
  const admission = (trusted: string[] = []) =>
    new Admission({ peers: makePeers(trusted), recordsPerMinute: 1, append: () => undefined });
  it('inside the network makes everyone one address: nothing is limited, and it is told of', () => {
    const one = admission();
    for (let n = 0; n < 5; n++) expect(one.takes('127.0.0.1', true, from('127.0.0.1'), n)).toBe(true);
    expect(one.unnamedProxy).toEqual({ address: '127.0.0.1', at: 4 });
  });
  it('from outside is anybody who sends such a header, and lifts no limit', () => {
    const one = admission();
    const takes = () => one.takes('192.0.43.8', true, from('192.0.43.8'), 0);
    expect([takes(), takes()]).toEqual([true, false]);
    expect(one.unnamedProxy).toBeUndefined();
    one.tell();
  });
  it('that is named is none', () => {
    const one = admission(['127.0.0.1']);
    const takes = () => one.takes('192.0.43.8', true, from('127.0.0.1'), 0);
    expect([takes(), takes()]).toEqual([true, false]);
    one.tell();
  });
});

describe('beyond the limit', () => {
  it('hops go on, and how many were not written is told by link', async () => {
    const server = await startProcess({ env: { RECORDS_PER_MINUTE: '100', DISK_RESERVE_MB: '0' } });
    const { host, port, postbackKey } = await fillForRequests(server);
    const statuses = new Set<number>();
    // A minute of the clock may end meanwhile; the sum is the same.
    for (let n = 0; n < 500; n++) {
      const { status, body } = await send(`http://${host}:${port}/${n % 5 === 0 ? 'page' : 'kit'}`);
      statuses.add(status);
      // The second of two pages is no hop, written down or not.
      const again = /url=(\/page\?second-page=[^"]+)"/.exec(body)?.[1];
      if (again !== undefined) await send(`http://${host}:${port}${again.replaceAll('&amp;', '&')}`);
    }
    expect([...statuses].sort()).toEqual([200, 307]);
    expect((await send(`http://${host}:${port}/postback/${postbackKey}?txn=1`)).status).toBe(200);
    await server.stop();
    const again = await startProcess({ dataDir: server.dataDir });
    const journal = await readJournal(again);
    const hops = ofKind(journal, 'hop');
    const lost = ofKind(journal, 'lost');
    const lostOf = (link: string) => lost.reduce((sum, { links }) => sum + (links[link] ?? 0), 0);
    for (const [link, asked] of [
      ['lnk_page', 100],
      ['lnk_kit', 400],
    ] as const)
      expect(hops.filter((hop) => hop.link === link).length + lostOf(link)).toBe(asked);
    expect(hops.length).toBeLessThanOrEqual(200);
    expect(lost.every(({ why }) => why === 'limit')).toBe(true);
    const seconds = ofKind(journal, 'second').length;
    expect(lost.reduce((sum, { count }) => sum + count, 0)).toBe(600 - hops.length - seconds);
    expect(ofKind(journal, 'postback')).toHaveLength(1);
    await again.stop();
  });
});

describe('under a flood of anonymous requests', () => {
  let server: Running;
  let aim: Aim;
  beforeAll(async () => {
    server = await startProcess();
    aim = await fillForRequests(server);
  });
  afterAll(() => server.stop());

  it.each(['hop', 'unknown key', 'pixel', 'beacon', 'unknown slug', 'unknown host'] as const)(
    'of the kind %s, health answers and postbacks are acknowledged',
    async (kind) => {
      const request = anonymous(aim.host, aim.pixelKey, 'lnk_kit')[kind];
      const flooding = flood(aim.port, request, { ms: 1500 });
      const waits: number[] = [];
      for (let n = 0; n < 5; n++) {
        await new Promise((resolve) => setTimeout(resolve, 150));
        const began = performance.now();
        const health = await send(`http://localhost:${aim.port}/api/health`);
        waits.push(performance.now() - began);
        expect(health).toMatchObject({ status: 200, body: '{"ok":true}' });
        const txn = `${kind.replace(' ', '-')}-${n}`;
        const postback = await send(`http://localhost:${aim.port}/postback/${aim.postbackKey}?txn=${txn}`);
        expect(postback.status).toBe(200);
      }
      expect(await flooding).toBeGreaterThan(500);
      // The middle one: this machine may be taken away for a moment from either of us.
      expect(waits.sort((a, b) => a - b)[2]).toBeLessThan(200);
    },
  );

  it('the file of what was rejected stays small, and tells what it does not hold', async () => {
    const answer = await call(server, 'GET', '/rejected');
    const { rejected } = JSON.parse(answer.body) as { rejected: { why: string }[] };
    expect(rejected).toHaveLength(50);
    expect(rejected.some(({ why }) => /^and \d+ more, not kept$/.test(why) || why === 'unknown key')).toBe(
      true,
    );
  });
});

describe('the last room on the disk', () => {
  it('is the postbacks’: hops go on and wait, changes are refused, and all is written once there is room', async () => {
    // No disk has as much room as this asks for, so it is as if it were nearly full.
    const server = await startProcess({ env: { DISK_RESERVE_MB: '999999999' } });
    const { dataDir } = server;
    const low = await call(server, 'POST', '/changes', { changes: [] });
    expect([low.status, low.body]).toEqual([503, expect.stringContaining('kept for postbacks')]);
    await server.stop();

    const usual = await startProcess({ dataDir });
    const { host, postbackKey } = await fillForRequests(usual);
    await usual.stop();
    const full = await startProcess({ dataDir, env: { DISK_RESERVE_MB: '999999999' } });
    await expect(askLogs(full)('', { dryRun: false, files: 1 })).rejects.toThrow(/503.*nearly full/);
    const before = (await readJournal(full)).length;
    for (let n = 0; n < 5; n++)
      expect((await send(`http://${host}:${full.port}/kit~w${n}`)).status).toBe(307);
    expect((await send(`http://${host}:${full.port}/postback/${postbackKey}?txn=1`)).status).toBe(200);
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect((await readJournal(full)).slice(before).map(({ kind }) => kind)).toEqual(['postback']);
    const health = await call(full, 'GET', '/health');
    expect(JSON.parse(health.body)).toMatchObject({
      ok: false,
      problem: expect.stringContaining('postbacks') as string,
    });
    await full.stop();
    const again = await startProcess({ dataDir });
    const sources = ofKind(await readJournal(again), 'hop').map(({ source }) => source);
    expect(sources).toEqual(['w0', 'w1', 'w2', 'w3', 'w4']);
    await again.stop();
  });
});

describe('readings that are broken off', () => {
  it('leave no file open', async () => {
    const server = await startProcess();
    const { domain } = await fillForRequests(server).then(() => ({ domain: 'dom_see' }));
    const many = Array.from({ length: 900 }, (_, n) =>
      changeOf('link', {
        id: `lnk_many${n}`,
        domain,
        slug: `many-${n}`,
        aliases: [],
        title: 'Many',
        destination: `https://shop.example/?x=${'y'.repeat(4000)}`,
        asText: [],
        hop: {},
        marks: {},
        notes: '',
        createdAt: 0,
      }),
    );
    for (let n = 0; n < many.length; n += 300) await sendChanges(server, many.slice(n, n + 300));
    const files = () => readdirSync(`/proc/${server.child.pid ?? 0}/fd`).length;
    const before = files();
    for (let n = 0; n < 60; n++)
      await new Promise<void>((resolve) => {
        const request = get(
          `http://localhost:${server.port}/api/journal?after=0`,
          { headers: { Authorization: `Bearer ${server.key}` } },
          (response) => response.once('data', () => request.destroy()),
        );
        request.on('error', () => undefined);
        request.on('close', () => resolve());
      });
    await vi.waitFor(() => expect(files()).toBeLessThanOrEqual(before + 3), { timeout: 5000 });
    await server.stop();
  });
});
