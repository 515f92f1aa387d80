import { mkdtempSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { Network } from './network.ts';
import { fillPlaceholders, sendPostbacks } from './postback.ts';
import { reportOf } from './report.ts';

const start = Date.parse('2026-11-01T23:30:00Z');
const books = () => join(mkdtempSync(join(tmpdir(), 'harrowmead-')), 'books.json');
const click = (more: object = {}) => ({
  at: start,
  account: 'nl-4471',
  deal: '2093',
  ref1: '01M84BDPSKXE4HN0RD2V6W3PBC',
  ref2: 'newsletter',
  visitor: 'v1',
  ...more,
});

describe('the simulated network', () => {
  it('counts the same visitor on the same offer once in ten minutes', () => {
    const network = new Network(books());
    const first = network.click(click());
    expect(network.click(click({ at: start + 60_000, ref2: 'video' })).number).toBe(first.number);
    expect(network.click(click({ at: start + 11 * 60_000 })).number).not.toBe(first.number);
    expect(network.click(click({ deal: '2111' })).number).not.toBe(first.number);
    expect(network.clicks).toHaveLength(3);
  });

  it('keeps 26 characters of a sub-ID', () =>
    expect(new Network(books()).click(click({ ref1: 'x'.repeat(40) })).ref1).toHaveLength(26));

  it('pays its percentage of a sale to a click it knows, and finds its books again', () => {
    const path = books();
    const network = new Network(path);
    const { number } = network.click(click());
    expect(network.sale(number, 17_290, start)).toMatchObject({ commissionCents: 1383, state: 'open' });
    expect(network.sale('hm1', 17_290, start)).toBeUndefined();
    expect(new Network(path).transactions).toHaveLength(1);
  });

  it('fills its placeholders, encoded, and leaves those it does not know', () =>
    expect(
      fillPlaceholders('http://x/p?a=[[ref1]]&b=%5B%5Bstate%5D%5D&c=[[what]]', {
        ref1: 'a b',
        state: 'open',
      }),
    ).toBe('http://x/p?a=a%20b&b=open&c=[[what]]'));

  it('reports days of Berlin and decimal commas', () => {
    const network = new Network(books());
    network.sale(network.click(click()).number, 17_290, start);
    expect(reportOf(network, 'nl-4471').split('\r\n')[1]).toBe(
      'HM-881204;02.11.2026 00:30:00;2093;01M84BDPSKXE4HN0RD2V6W3PBC;newsletter;172,90;13,83;EUR;open',
    );
    expect(reportOf(network, 'nl-5520').trim().split('\r\n')).toHaveLength(1);
  });
});

describe('its postbacks', () => {
  /** A receiver that answers with these states, one after the other. */
  const receive = async (answers: number[], set: (network: Network, url: string) => void) => {
    const asked: string[] = [];
    const server = createServer((request, response) => {
      asked.push(request.url ?? '');
      response.writeHead(answers.shift() ?? 200);
      response.end();
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const network = new Network(books());
    set(network, `http://see.nightledge.localhost:${(server.address() as AddressInfo).port}/postback/k`); // it listens on a port
    const sale = network.sale(network.click(click()).number, 17_290, start);
    if (sale) await sendPostbacks(network, sale, () => start, [5, 5]);
    server.close();
    return { asked, deliveries: network.deliveries };
  };

  it('are tried three times until they are answered 200', async () => {
    const all = await receive([503, 500, 200], (network, url) =>
      network.setPostback('nl-4471', '', `${url}?txn=[[order]]`),
    );
    expect(all.asked).toEqual(Array.from({ length: 3 }, () => '/postback/k?txn=HM-881204'));
    expect(all.deliveries.map((d) => d.answer)).toEqual(['503', '500', '200']);
    const gone = await receive([503, 503, 503, 503], (network, url) =>
      network.setPostback('nl-4471', '', url),
    );
    expect(gone.asked).toHaveLength(3);
  });

  it('fire twice when set for the account and for the offer', async () => {
    const { asked } = await receive([], (network, url) => {
      network.setPostback('nl-4471', '', `${url}?a`);
      network.setPostback('nl-4471', '2093', `${url}?b`);
    });
    expect(asked.sort()).toEqual(['/postback/k?a', '/postback/k?b']);
  });
});
