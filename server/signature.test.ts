import { createHmac } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import type { Network } from '#core/catalogue';
import type { PostbackRecord } from '#core/visits';
import { send } from '../standins/index.ts';
import { call, changeOf, fillFirst, readJournal, sendChanges } from './client.ts';
import type { Running } from './testing/process.ts';
import { startProcess } from './testing/process.ts';
import { verify } from './http/signature.ts';

describe('who sent a postback', () => {
  it('is looked up in the list of senders', () => {
    const senders = ['192.0.2.10', '198.51.100.0/24', '2001:db8::/32'];
    const doubt = (address: string) => verify({ senders }, address, '', null, 0).unverified;
    expect(['192.0.2.10', '::ffff:192.0.2.10', '198.51.100.77', '2001:db8::9'].map(doubt)).toEqual([
      undefined,
      undefined,
      undefined,
      undefined,
    ]);
    expect(['192.0.2.11', '2001:db9::1', 'nowhere', ''].map(doubt)).toEqual(Array(4).fill('sender'));
    expect(verify({}, '203.0.113.9', '', null, 0)).toEqual({});
  });

  // RFC 4231 §4.3 (test case 2), with the data as the query: key "Jefe", HMAC-SHA-256 as published there.
  it('is known by an HMAC-SHA-256 of what came, in hex or base64', () => {
    const signature = { parameter: 'sig', secret: 'Jefe' };
    const hex = '5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843';
    const doubt = (query: string, body: string | null = null) =>
      verify({ signature }, '', query, body === null ? null : Buffer.from(body), 0).unverified;
    const data = 'what do ya want for nothing?';
    expect(doubt(`${data}&sig=${hex}`)).toBeUndefined();
    expect(doubt(`sig=${hex.toUpperCase()}&${data}`)).toBeUndefined();
    expect(
      doubt(`${data}&sig=${encodeURIComponent(Buffer.from(hex, 'hex').toString('base64'))}`),
    ).toBeUndefined();
    expect(doubt('', `${data}&sig=${hex}`)).toBeUndefined();
    for (const bad of [
      data,
      `${data}!&sig=${hex}`,
      `${data}&sig=`,
      `${data}&sig=%`,
      `${data}&sig=%ff`,
      `${data}&sig=${hex}&sig=00`,
      `${data}&sig=${hex.slice(2)}`,
    ])
      expect(doubt(bad)).toBe('signature');
  });
});

describe('what a signature covers', () => {
  const signature = { parameter: 'sig', secret: 'quiet' };
  const mac = (text: string | Buffer) => createHmac('sha256', 'quiet').update(text).digest('hex');
  const at = 1_795_442_531_000;
  const check = (query: string, body: string | Buffer | null = null, more = {}) =>
    verify({ signature: { ...signature, ...more } }, '', query, body === null ? null : Buffer.from(body), at);

  it('is the part it stands in, and nothing else', () => {
    const signed = `txn=1&sig=${mac('txn=1')}`;
    expect(check(signed, 'amount=900')).toEqual({ signed: 'query', signature: mac('txn=1') });
    expect(check('amount=900', signed)).toEqual({ signed: 'body', signature: mac('txn=1') });
    expect(check(signed, `amount=2&sig=${mac('amount=2')}`)).toEqual({
      signed: 'both',
      signature: `${mac('txn=1')}.${mac('amount=2')}`,
    });
    expect(check(`${signed}&amount=900`)).toEqual({ unverified: 'signature' });
  });

  it('holds for bytes that are no text', () => {
    const bytes = Buffer.from([0x74, 0x3d, 0xff, 0xfe]);
    const body = Buffer.concat([bytes, Buffer.from(`&sig=${mac(bytes)}`)]);
    expect(check('', body)).toMatchObject({ signed: 'body' });
    const latin = Buffer.from('t=\xe9', 'latin1');
    expect(check(`t=\xe9&sig=${mac(latin)}`)).toMatchObject({ signed: 'query' });
  });

  it('may have to carry a time within a window, signed with the rest', () => {
    const time = { time: { parameter: 'ts', windowSeconds: 300 } };
    const sent = (ts: string) => check(`txn=1&ts=${ts}&sig=${mac(`txn=1&ts=${ts}`)}`, null, time).unverified;
    const seconds = at / 1000;
    for (const good of [seconds, seconds - 300, seconds + 299, at + 5, new Date(at).toISOString()])
      expect([good, sent(String(good))]).toEqual([good, undefined]);
    expect(sent(encodeURIComponent('2026-11-23T18:42:11+01:00'))).toBe(
      Math.abs(Date.parse('2026-11-23T18:42:11+01:00') - at) <= 300_000 ? undefined : 'time',
    );
    for (const bad of [seconds - 301, seconds + 301, '', 'now', '2026-11-23T18:42:11'])
      expect([bad, sent(String(bad))]).toEqual([bad, 'time']);
    expect(check(`txn=1&sig=${mac('txn=1')}`, `ts=${seconds}`, time).unverified).toBe('time');
  });
});

describe('over HTTP', () => {
  let server: Running;
  let network: Network;
  let revision = 1;
  beforeAll(async () => {
    server = await startProcess();
    ({ network } = await fillFirst(server));
  });
  afterAll(() => server.stop());

  const set = async (postback: Partial<Network['postback']>) => {
    network = { ...network, postback: { ...network.postback, ...postback } };
    const answer = await sendChanges(server, [changeOf('network', network, ++revision)]);
    expect(answer.refused).toEqual([]);
  };
  const post = (key: string, query: string) =>
    send(`http://see.nightledge.localhost:${server.port}/postback/${key}?${query}`);
  const newest = async (): Promise<PostbackRecord | undefined> => {
    const records = await readJournal(server);
    const found = records.findLast((record) => record.kind === 'postback');
    return found?.kind === 'postback' ? found : undefined;
  };

  it('a key that was rolled is good until its time is over, and said to be the old one', async () => {
    const old = network.postback.key;
    const key = 'k'.repeat(32);
    await set({ key, previousKey: { key: old, until: Date.now() + 60_000 } });
    expect((await post(old, 'txn=old')).status).toBe(200);
    expect(await newest()).toMatchObject({ query: 'txn=old', oldKey: true });
    expect((await post(key, 'txn=new')).status).toBe(200);
    expect(await newest()).not.toHaveProperty('oldKey');
    await set({ key, previousKey: { key: old, until: Date.now() - 1 } });
    expect((await post(old, 'txn=late')).status).toBe(404);
    expect((await post(key, 'txn=on')).status).toBe(200);
  });

  it('what is not verified is kept and acknowledged all the same', async () => {
    await set({ senders: ['192.0.2.10'] });
    expect((await post(network.postback.key, 'txn=s')).status).toBe(200);
    expect(await newest()).toMatchObject({ query: 'txn=s', unverified: 'sender' });
    await set({ senders: [], signature: { parameter: 'sig', secret: 'quiet' } });
    expect((await post(network.postback.key, 'txn=t&sig=00')).status).toBe(200);
    expect(await newest()).toMatchObject({ unverified: 'signature' });
    const sig = createHmac('sha256', 'quiet').update('txn=u').digest('hex');
    await post(network.postback.key, `txn=u&sig=${sig}`);
    expect(await newest()).not.toHaveProperty('unverified');
    // Bytes that no decoder takes are a wrong signature and no reason to lose the postback.
    expect((await post(network.postback.key, 'txn=v&sig=%ff')).status).toBe(200);
    expect(await newest()).toMatchObject({ query: 'txn=v&sig=%ff', unverified: 'signature' });
    // What was captured once forges nothing: what stands in the address is not signed, and said not to be.
    await send(
      `http://see.nightledge.localhost:${server.port}/postback/${network.postback.key}?amount=900`,
      { method: 'POST', headers: { 'Content-Type': 'application/x-www-form-urlencoded' } },
      `txn=u&sig=${sig}`,
    );
    expect(await newest()).toMatchObject({ query: 'amount=900', signed: 'body', signature: sig });
  });

  it('refuses senders and secrets that are none', async () => {
    for (const postback of [{ senders: ['anywhere'] }, { signature: { parameter: 'sig', secret: '' } }]) {
      const value = { ...network, postback: { ...network.postback, ...postback } };
      const answer = await sendChanges(server, [changeOf('network', value, revision + 1)]);
      expect(answer.refused).toHaveLength(1);
    }
  });

  it.each([
    ['GET', 'click=A&txn=1', { via: 'GET', query: 'click=A&txn=1' }],
    ['form', 'click=A&txn=2', { via: 'POST', body: 'click=A&txn=2' }],
    ['JSON', '{"txn":"3"}', { via: 'POST', body: '{"txn":"3"}', type: 'application/json' }],
  ])('a sample by %s goes the way of a real one and is marked', async (via, text, kept) => {
    await set({ senders: [] });
    const body = { network: network.id, host: 'see.nightledge.localhost', via, text };
    const answer = await call(server, 'POST', '/sample', body);
    expect(JSON.parse(answer.body)).toMatchObject({ status: 200, says: 'ok' });
    expect(await newest()).toMatchObject({ ...kept, sample: true });
  });

  it('no sample goes to where no domain of ours is, and nobody else can mark one', async () => {
    const body = { network: network.id, host: 'elsewhere.example', via: 'GET', text: '' };
    expect((await call(server, 'POST', '/sample', body)).status).toBe(400);
    await send(`http://see.nightledge.localhost:${server.port}/postback/${network.postback.key}?txn=4`, {
      headers: { 'Fernhop-Sample': 'guess' },
    });
    expect(await newest()).not.toHaveProperty('sample');
  });

  it('raw Latin-1 and a query of a megabyte: kept, or refused and kept among the rejected', async () => {
    const raw = (bytes: Buffer) =>
      new Promise<string>((resolve) => {
        let text = '';
        const socket = connect(server.port, '127.0.0.1', () => socket.write(bytes));
        socket.setEncoding('latin1').on('data', (part: string) => {
          text += part;
          socket.end();
        });
        socket.on('close', () => resolve(text));
        socket.on('error', () => undefined);
      });
    const request = (query: Buffer) =>
      Buffer.concat([
        Buffer.from(`GET /postback/${network.postback.key}?`),
        query,
        Buffer.from(' HTTP/1.1\r\nHost: see.nightledge.localhost\r\n\r\n'),
      ]);
    const latin = await raw(request(Buffer.from('txn=caf\xe9', 'latin1')));
    expect(latin).toMatch(/^HTTP\/1\.1 (?:200|400)/);
    if (latin.startsWith('HTTP/1.1 200')) expect((await newest())?.query).toContain('txn=caf');
    const long = await raw(request(Buffer.alloc(1024 * 1024, 'a')));
    expect(long).toMatch(/^HTTP\/1\.1 431/);
    await vi.waitFor(() =>
      expect(readFileSync(`${server.dataDir}/rejected.ndjson`, 'utf8')).toContain('HPE_HEADER_OVERFLOW'),
    );
    expect((await post(network.postback.key, 'txn=after')).status).toBe(200);
  });
});
