import { mkdtempSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { knownNetworks } from '#core/link-parts';
import { guessReport, readPostback, readReport } from '#core/conversions';
import { readTable } from '#core/formats';
import type { PostbackRecord } from '#core/visits';
import { harrowmead, kelvane, kinds, osprenet, vennor } from '../kinds/index.ts';
import type { Kind } from './kind.ts';
import { SimulatedNetwork } from './network.ts';
import { fillPlaceholders, sendPostbacks } from './postback.ts';
import { reportOf } from './report.ts';

const start = Date.parse('2026-11-01T23:30:00Z');
const clickId = '01M84BDPSKXE4HN0RD2V6W3PBC';
const books = () => join(mkdtempSync(join(tmpdir(), 'network-')), 'books.json');
const open = (kind: Kind = harrowmead) => new SimulatedNetwork(kind, books());
const clickOn = (network: SimulatedNetwork, more: object = {}) => {
  const { accounts, offers, slots } = network.kind;
  return network.click({
    at: start,
    account: accounts[0],
    offer: offers[0]?.code ?? '',
    slots: { [slots[0] ?? '']: clickId },
    visitor: 'v1',
    ...more,
  });
};
const sell = (network: SimulatedNetwork, at = start) =>
  network.sale(
    clickOn(network, { visitor: `v${at}` }).number,
    { minor: 17_290, currency: 'EUR' },
    network.kind === kelvane ? 'trial' : 'sale',
    at,
  );

describe('a simulated network', () => {
  it('counts the same visitor on the same offer once in ten minutes', () => {
    const network = open();
    const first = clickOn(network);
    expect(clickOn(network, { at: start + 60_000 }).number).toBe(first.number);
    expect(clickOn(network, { at: start + 11 * 60_000 }).number).not.toBe(first.number);
    expect(clickOn(network, { offer: '2111' }).number).not.toBe(first.number);
    expect(network.clicks).toHaveLength(3);
  });

  it.each([
    [harrowmead, clickId.slice(0, 20)],
    [kelvane, clickId],
    [osprenet, clickId.toLowerCase()],
    [vennor, clickId],
  ])('keeps of a sub-ID what it keeps: $0.name', (kind, kept) =>
    expect(Object.values(clickOn(open(kind)).slots)[0]).toBe(kept),
  );

  it('pays a click it knows, corrects, and finds its books again', () => {
    const path = books();
    const network = new SimulatedNetwork(harrowmead, path);
    const sale = sell(network);
    expect(sale).toMatchObject({ commission: { minor: 1383, currency: 'EUR' }, state: 'pending' });
    expect(network.sale('hm1', { minor: 17_290, currency: 'EUR' }, 'sale', start)).toBeUndefined();
    expect(network.correct(sale?.order ?? '', 900, start)?.commission.minor).toBe(900);
    expect(new SimulatedNetwork(harrowmead, path).transactions).toMatchObject([
      { commission: { minor: 900 } },
    ]);
  });

  it('takes back one order in twelve where that is its habit', () => {
    const network = open(osprenet);
    const states = Array.from({ length: 24 }, (_, i) => sell(network, start + i)).map(
      (sale) => network.settle(sale?.order ?? '', 'approved', start)?.state,
    );
    expect(states.flatMap((state, i) => (state === 'reversed' ? [i] : []))).toEqual([11, 23]);
  });

  it('fills its placeholders, encoded, and leaves those it does not know', () => {
    const values = { ref1: 'a b', state: 'open', id: '7' };
    expect(fillPlaceholders('http://x/p?a=[[ref1]]&b=%5B%5Bstate%5D%5D&c=[[what]]', harrowmead, values)).toBe(
      'http://x/p?a=a%20b&b=open&c=[[what]]',
    );
    expect(fillPlaceholders('http://x/p?a=%id%&b=%20%tag%', osprenet, values)).toBe(
      'http://x/p?a=7&b=%20%tag%',
    );
  });
});

describe('the report of each', () => {
  it.each(kinds.map((kind) => [kind.name, kind] as const))('%s is read as what it says', (name, kind) => {
    const known = knownNetworks.find((one) => one.name === name);
    if (!known) throw new Error(`${name} ships`);
    const network = open(kind);
    const sale = sell(network);
    // A second one on a day that cannot be a month, so that the order of dates shows.
    sell(network, start + 20 * 86_400_000);
    const profiled = { ...known, postback: { ...known.postback, key: '', pixelKey: '' } };
    const table = readTable(reportOf(network, kind.accounts[0]));
    const { profile, asks } = guessReport(table, profiled);
    const { bad, rows } = readReport(table, profile, profiled);
    expect([asks, bad]).toEqual([[], []]);
    expect(rows[0]).toMatchObject({
      txn: sale?.order,
      click: kind.keeps(clickId, kind.slots[0] ?? ''),
      status: 'pending',
      amount: sale?.commission.minor,
      currency: sale?.commission.currency,
    });
    // Vennor writes no seconds.
    expect(Math.abs((rows[0]?.at ?? 0) - start)).toBeLessThan(60_000);
    expect(readTable(reportOf(network, 'nobody')).rows).toHaveLength(0);
  });
});

describe('its postbacks', () => {
  /** What a receiver that answers with these states, one after the other, was asked. */
  const receive = async (
    answers: number[],
    work: (network: SimulatedNetwork, url: string) => Promise<void> | void,
    kind: Kind = harrowmead,
  ) => {
    const asked: { url: string; body: string }[] = [];
    const server = createServer((request, response) => {
      let body = '';
      request.setEncoding('utf8').on('data', (text: string) => (body += text));
      request.on('end', () => {
        asked.push({ url: request.url ?? '', body });
        response.writeHead(answers.shift() ?? 200);
        response.end();
      });
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo; // it listens on a port
    const network = open(kind);
    await work(network, `http://see.nightledge.localhost:${port}/postback/k`);
    server.close();
    return { asked, urls: asked.map(({ url }) => url), network };
  };
  const deliver = async (network: SimulatedNetwork) => {
    const sale = sell(network, start + network.transactions.length);
    if (sale) await sendPostbacks(network, sale, () => start, [5, 5]);
  };
  const addressOf = (kind: Kind, url: string) => {
    const { placeholders = {} } = knownNetworks.find(({ name }) => name === kind.name)?.postback ?? {};
    return `${url}?${Object.entries(placeholders)
      .map(([field, text]) => `${field}=${text}`)
      .join('&')}`;
  };

  it('are tried three times until they are answered 200', async () => {
    const all = await receive([503, 500, 200], (network, url) => {
      network.setPostback('nl-4471', '', `${url}?txn=[[order]]`);
      return deliver(network);
    });
    expect(all.urls).toEqual(Array.from({ length: 3 }, () => '/postback/k?txn=HM-881204'));
    expect(all.network.deliveries.map((d) => d.answer)).toEqual(['503', '500', '200']);
    const gone = await receive([503, 503, 503, 503], (network, url) => {
      network.setPostback('nl-4471', '', url);
      return deliver(network);
    });
    expect(gone.asked).toHaveLength(3);
  });

  it('fire twice when set for the account and for the offer', async () => {
    const { urls } = await receive([], (network, url) => {
      network.setPostback('nl-4471', '', `${url}?a`);
      network.setPostback('nl-4471', '2093', `${url}?b`);
      return deliver(network);
    });
    expect(urls.sort()).toEqual(['/postback/k?a', '/postback/k?b']);
  });

  it.each(kinds.map((kind) => [kind.name, kind] as const))(
    '%s sends what its shipped address asks for',
    async (name, kind) => {
      const { asked, network } = await receive(
        [],
        (network, url) => {
          network.setPostback(kind.accounts[0], '', addressOf(kind, url));
          return deliver(network);
        },
        kind,
      );
      const known = knownNetworks.find((one) => one.name === name);
      const [first] = asked;
      const [, query = ''] = first?.url.split('?') ?? [];
      const record: PostbackRecord = {
        seq: 1,
        kind: 'postback',
        at: start,
        network: 'net',
        via: kind.via,
        query,
        body: kind.via === 'POST' ? (first?.body ?? '') : null,
        ip: '',
      };
      const { event, problems } = readPostback(
        record,
        { fields: known?.postback.fields ?? {}, statuses: known?.postback.statuses ?? {} },
        known?.currency ?? '',
      );
      const [sale] = network.transactions;
      expect(problems).toEqual([]);
      expect(event).toMatchObject({
        click: kind.keeps(clickId, kind.slots[0] ?? ''),
        txn: sale?.order,
        status: 'pending',
        // A merchant's own program that names no amounts.
        amount: kind === vennor ? null : sale?.commission.minor,
        currency: kind === vennor ? 'GBP' : sale?.commission.currency,
      });
    },
  );

  it('can be kept back and sent late, or never sent at all', async () => {
    const { urls, network } = await receive([], async (network, url) => {
      network.setPostback('nl-4471', '', `${url}?[[order]]=[[state]]`);
      network.setSending('late');
      await deliver(network);
      network.setSending('broken');
      await deliver(network);
      expect(network.setSending('on')).toEqual([]);
      network.setSending('late');
      await deliver(network);
      const waiting = network.setSending('on');
      expect(waiting).toEqual([{ order: 'HM-881206', state: 'pending' }]);
      await deliver(network);
    });
    expect(urls).toEqual(['/postback/k?HM-881207=open']);
    expect(network.sending).toBe('on');
  });

  it('come again from one that now and then does not hear the answer, and never of a reversal', async () => {
    const { urls } = await receive(
      [],
      async (network, url) => {
        network.setPostback('nightledge', '', `${url}?%id%=%status%`);
        for (let n = 0; n < 12; n++) await deliver(network);
        const sale = network.settle('os-38lw', 'reversed', start) ?? network.transactions[0];
        if (sale) await sendPostbacks(network, { ...sale, state: 'reversed' }, () => start, [5, 5]);
      },
      osprenet,
    );
    expect(urls).toHaveLength(13);
    expect(new Set(urls).size).toBe(12);
    expect(urls.some((url) => url.endsWith('=void'))).toBe(false);
  });
});
