import { Window } from 'happy-dom';
import { describe, expect, it } from 'vitest';
import { readTable } from '#core/formats';
import type { StatementEntry, Writers } from '#core/queries';
import { statementOf, writerKey, writerName } from './statement.ts';
import { statementPage, statementTable } from './statementFile.ts';

const entry = (more: Partial<StatementEntry> = {}): StatementEntry => ({
  owner: 'Maren <m>',
  tag: 'nl-5520',
  network: 'net_h',
  changes: undefined,
  link: 'lnk_kit',
  txn: '=HM-1',
  // 31 October, 23:30 in Berlin.
  at: Date.UTC(2026, 9, 31, 22, 30),
  currency: 'EUR',
  isSale: true,
  isUnpriced: false,
  approved: 1234,
  pending: 0,
  worth: 0,
  ...more,
});
const entries = [
  entry(),
  entry({ txn: 'HM-2', at: Date.UTC(2026, 9, 3, 12), approved: 0, pending: 1000, worth: 866.6 }),
  entry({ txn: 'HM-3', approved: -200, isSale: false }),
  entry({ txn: 'HM-4', approved: 0, isUnpriced: true, link: '' }),
  entry({ txn: 'HM-0', changes: '2026-09', isSale: false, approved: -550, pending: 0 }),
  entry({ txn: 'KV-1', network: 'net_k', tag: '77', currency: 'JPY', approved: 1500 }),
  entry({ owner: '', tag: 'nl-9', approved: 99 }),
];
const writers: Writers = {
  sums: [],
  entries,
  networks: [
    { network: 'net_h', closedAt: Date.UTC(2026, 10, 3) },
    { network: 'net_k', closedAt: undefined },
    { network: 'net_x', closedAt: undefined },
  ],
};
const names = {
  link: (id: string) => (id === '' ? 'no link' : id.slice(4)),
  network: (id: string) => ({ net_h: 'Harrowmead', net_k: 'Kelvane' })[id] ?? id,
  zone: () => 'Europe/Berlin',
  hosts: ['see.nightledge.example'],
};
const statement = statementOf(writers, '2026-10', 'Maren <m>');
if (!statement) throw new Error('she earned');

describe('a statement', () => {
  it('has what one writer earned, by currency and by link; changes of earlier months beside', () => {
    expect(statement.sums).toEqual([
      {
        ...{ currency: 'EUR', sales: 3, unpriced: 1, approved: 1034, earlier: -550 },
        ...{ pending: 1000, worth: 866.6 },
      },
      { currency: 'JPY', sales: 1, unpriced: 0, approved: 1500, earlier: 0, pending: 0, worth: 0 },
    ]);
    expect(statement.lines.map(({ link, currency, approved }) => [link, currency, approved])).toEqual([
      ['lnk_kit', 'EUR', 1034],
      ['', 'EUR', 0],
      ['lnk_kit', 'JPY', 1500],
    ]);
    expect(statement.networks.map(({ network }) => network)).toEqual(['net_h', 'net_k']);
  });

  it('of a tag that nobody registered is found by the tag; without one it is nobody’s', () => {
    const [tagged, bare] = [entry({ owner: '', tag: 'nl-9' }), entry({ owner: '', tag: '' })];
    expect([tagged, bare].map(writerKey)).toEqual(['#nl-9', '#']);
    expect([tagged, bare].map(writerName)).toEqual(['Not registered: nl-9', 'Nobody: no tag']);
    expect(statementOf(writers, '2026-10', '#nl-9')?.sums[0]?.approved).toBe(99);
    expect(statementOf(writers, '2026-10', 'Nobody else')).toBeUndefined();
  });

  it('is a table of every conversion, which comes back as it was', () => {
    const text = statementTable(statement, names);
    // No spreadsheet computes a transaction.
    expect(text).toContain("'=HM-1");
    const { header, rows: lines } = readTable(text);
    const shown = ['day', 'transaction', 'kind', 'of month', 'currency', 'approved', 'pending'];
    const rows = lines.map((row) => shown.map((name) => row[header.indexOf(name)]));
    expect(rows).toEqual([
      ['2026-10-03', 'HM-2', 'sale', '2026-10', 'EUR', '0.00', '10.00'],
      ['2026-10-31', '=HM-1', 'sale', '2026-10', 'EUR', '12.34', '0.00'],
      ['2026-10-31', 'HM-0', 'change', '2026-09', 'EUR', '-5.50', '0.00'],
      ['2026-10-31', 'HM-3', 'refund', '2026-10', 'EUR', '-2.00', '0.00'],
      ['2026-10-31', 'HM-4', 'sale', '2026-10', 'EUR', '0.00', ''],
      ['2026-10-31', 'KV-1', 'sale', '2026-10', 'JPY', '1500', '0'],
    ]);
  });

  it('is a page in which a name is no markup, with what is closed and what is not', () => {
    const { document } = new Window();
    document.write(statementPage(statement, names));
    expect(document.querySelector('h1')?.textContent).toBe('Maren <m>, October 2026');
    const [sums] = document.querySelectorAll('table');
    const cells = [...(sums?.querySelectorAll('tbody tr') ?? [])].map((row) =>
      [...row.querySelectorAll('td')].map((cell) => cell.textContent),
    );
    expect(cells).toEqual([
      ['EUR', '3', '10.34', '-5.50', '4.84', '10.00', '8.67'],
      ['JPY', '1', '1500', '0', '1500', '0', '0'],
    ]);
    const text = document.body.textContent;
    expect(text).toContain('Harrowmead: closed on 2026-11-03');
    expect(text).toContain('Kelvane: the month is not closed yet');
    expect(text).toContain('Of one sale nobody has said yet what it pays');
    expect([...document.querySelectorAll('h2')].map((h) => h.textContent)).toEqual([
      'By link',
      'Earlier months, changed since',
      'Conversions',
    ]);
  });
});
