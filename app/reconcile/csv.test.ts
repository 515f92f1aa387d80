import { describe, expect, it } from 'vitest';
import { readTable } from '#core/formats';
import type { LedgerLine } from '#core/queries';
import { balanceCsv, ledgerCsv, queueCsv } from './csv.ts';

const at = Date.UTC(2026, 9, 12, 10);
const addressOf = (id: string) => `see.nightledge.example/go/${id}`;
/** The rows of a CSV, each by the names of its columns. */
const records = (csv: string) => {
  const { header, rows } = readTable(csv);
  return rows.map((row) => Object.fromEntries(header.map((name, i) => [name, row[i]])));
};

describe('the ledger as CSV', () => {
  const line: LedgerLine = {
    click: '01M84BDPSKXE4HN0RD2V6W3PBC',
    unit: {
      id: 'A',
      network: 'net_h',
      program: '',
      link: 'kit',
      source: 'mail',
      match: { level: 'folded', row: 3, because: '' },
      flags: ['before its click'],
      cause: 'below terms',
      ours: {
        amount: 600,
        currency: 'EUR',
        status: 'approved',
        counts: true,
        at,
        month: '2026-10',
        priced: true,
      },
      theirs: {
        amount: 450,
        currency: 'EUR',
        status: 'pending',
        counts: true,
        at,
        month: '2026-10',
        priced: false,
      },
    },
  };
  it('has the words of the screen, the zone of its times, and links with domain and group', () =>
    expect(records(ledgerCsv([line], 'Asia/Kolkata', addressOf))).toEqual([
      {
        'at, Asia/Kolkata': '2026-10-12T15:30:00+05:30',
        transaction: '',
        event: '',
        link: 'see.nightledge.example/go/kit',
        source: 'mail',
        'we heard': '6.00',
        'currency heard': 'EUR',
        'our state': 'approved',
        'priced by terms': 'yes',
        'they report': '4.50',
        'currency reported': 'EUR',
        'their state': 'pending',
        click: 'case changed',
        'click ID': '01M84BDPSKXE4HN0RD2V6W3PBC',
        differs: 'below terms, before its click',
        unverified: '',
      },
    ]));
});

describe('a balance as CSV', () => {
  it('adds up row by row: what we recorded, the pieces and the unexplained come to what they report', () => {
    const bridge = {
      ours: 12,
      theirs: 9,
      unexplained: -1,
      reported: true,
      pieces: [{ cause: 'sent twice' as const, value: -2, count: 2 }],
    };
    const rows = records(
      balanceCsv({
        clicks: { ours: 40, theirs: 0, unexplained: -40, reported: false, pieces: [] },
        conversions: bridge,
        commission: [{ currency: 'JPY', bridge: { ...bridge, ours: 1200, theirs: 900, unexplained: -298 } }],
        covered: { from: '', until: '' },
      }),
    );
    for (const [what, currency] of [
      ['conversions', ''],
      ['commission', 'JPY'],
    ]) {
      const own = rows.filter((row) => row['what'] === what && row['currency'] === currency);
      const theirs = Number(own.find(({ part }) => part === 'they report')?.['value']);
      const others = own.filter(({ part }) => part !== 'they report');
      expect(others.reduce((sum, row) => sum + Number(row['value']), 0)).toBe(theirs);
      expect(others.map(({ part }) => part)).toEqual(['we recorded', 'sent twice', 'unexplained']);
    }
    // Where nothing was reported, nothing is said of it.
    expect(rows.find(({ what, part }) => what === 'clicks' && part === 'they report')?.['value']).toBe('');
  });
});

describe('what waits as CSV', () => {
  it('says what it is, why, and what can be done', () =>
    expect(
      records(
        queueCsv(
          [
            {
              one: {
                id: 'x',
                kind: 'placeholder not filled',
                unit: 'A',
                network: 'net_h',
                month: '2026-10',
                at,
                worth: -450,
                currency: 'EUR',
                because: 'It came as {click}.',
                proposal: { does: 'Accept the click', safe: true, as: 'accept' },
              },
              txn: '=HM-1',
              event: 'sale',
              link: 'kit',
            },
          ],
          'UTC',
          addressOf,
        ),
      ),
    ).toEqual([
      {
        what: 'Click ID not filled',
        'at, UTC': '2026-10-12T10:00:00+00:00',
        transaction: '=HM-1',
        event: 'sale',
        link: 'see.nightledge.example/go/kit',
        worth: '-4.50',
        currency: 'EUR',
        why: 'It came as {click}.',
        'what can be done': 'Accept the click',
        'safe to accept': 'yes',
      },
    ]));
});
