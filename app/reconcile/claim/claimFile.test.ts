import { strFromU8, unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { openTable, readTable } from '#core/formats';
import type { ClaimLine } from '#core/reconcile';
import { claimFile } from './claimFile.ts';

const line: ClaimLine = {
  ref: '00ff00ff00ff00ff',
  cause: 'not in report',
  because: 'We heard of it.',
  asks: 'Add it to your report, or say why it is not in it.',
  program: 'Polehouse Optics',
  programCode: '4471',
  account: 'nl-4471',
  txn: '=HM-1</td><script>',
  event: 'sale',
  at: '2026-10-12T12:00:00+02:00',
  click: '01M84BDPSKXE4HN0RD2V6W3PBC',
  clickedAt: '2026-10-12T11:00:00+02:00',
  link: 'see.nightledge.example/go/kit',
  heardAmount: 1383,
  heardCurrency: 'EUR',
  ourState: 'approved',
  termsAmount: null,
  termsCurrency: '',
  terms: '',
  theirAmount: null,
  theirCurrency: '',
  theirState: '',
  claimed: 1383,
  claimedCurrency: 'EUR',
  unverified: 'signature',
  postbacks: [{ record: 1900, at: '2026-10-12T12:00:01+02:00', via: 'GET', query: 'click=1', body: null }],
};
const priced: ClaimLine = {
  ...line,
  ref: '11ff00ff00ff00ff',
  cause: 'below terms',
  asks: 'Pay what your terms say, or say which terms hold.',
  txn: 'HM-2',
  heardAmount: null,
  heardCurrency: '',
  termsAmount: 600,
  termsCurrency: 'EUR',
  terms: '6.00 EUR for each, from 2026-03-01 on',
  theirAmount: 450,
  theirCurrency: 'EUR',
  theirState: 'approved',
  report: { file: 'october.csv', line: 17, broughtIn: '2026-11-02T01:00:00+01:00' },
  claimed: 150,
};
const hash = '4f'.repeat(32);
const head = {
  network: 'Harrowmead',
  zone: 'Europe/Berlin',
  month: '2026-10',
  hosts: ['see.nightledge.example', 'go.nightledge.example'],
  at: Date.UTC(2026, 10, 24, 12),
};
const filesOf = (...args: Parameters<typeof claimFile>) => {
  const files = unzipSync(claimFile(...args));
  return { names: Object.keys(files), text: (name: string) => strFromU8(files[name] ?? new Uint8Array()) };
};

describe('a claim file', () => {
  const { names, text } = filesOf(head, [line, priced]);

  it('holds a letter, a page, the rows, what their columns are, and the evidence of each', () => {
    expect(names).toEqual([
      'letter.txt',
      'claim.html',
      'rows.csv',
      'columns.csv',
      'evidence/0001-_HM-1__td__script_.json',
      'evidence/0002-HM-2.json',
    ]);
    expect(JSON.parse(text('evidence/0002-HM-2.json'))).toEqual(priced);
  });

  it('can be answered from what it says: account, money by currency, terms, file and line, zone', () => {
    const letter = text('letter.txt');
    expect(letter).toContain('account nl-4471');
    expect(letter).toContain('by our records 15.33 EUR are missing');
    expect(letter).toContain('We have 19.83 EUR, you report 4.50 EUR for them.');
    expect(letter).toContain('- below terms: 1, 1.50 EUR. Pay what your terms say, or say which terms hold.');
    expect(letter).toContain('Every time is in Europe/Berlin');
    expect(letter).toContain('see.nightledge.example, go.nightledge.example');
    const page = text('claim.html');
    expect(page).toContain('no amount; 6.00 EUR by the terms');
    expect(page).toContain('october.csv, line 17; 6.00 EUR for each, from 2026-03-01 on');
    expect(page).toContain('see.nightledge.example/go/kit');
    expect(page).toContain('<tr><td>EUR</td><td>19.83</td><td>4.50</td><td>15.33</td></tr>');
    const columns = readTable(text('columns.csv')).rows;
    expect(columns.find(([name]) => name === 'at')?.[2]).toBe(
      'ISO 8601 in Europe/Berlin, with the offset from UTC',
    );
    // Every column of the rows is explained, and no other.
    expect(columns.map(([name]) => name)).toEqual(readTable(text('rows.csv')).header);
  });

  it('names the journal’s seal, and what came after it', () => {
    const seal = { hash, seq: 1812, at: Date.UTC(2026, 10, 24, 10) };
    const sealed = filesOf({ ...head, seal }, [line, priced]);
    for (const name of ['letter.txt', 'claim.html'])
      expect(sealed.text(name)).toContain(
        `sealed at 2026-11-24T11:00:00+01:00 up to record 1812, SHA-256 ${hash}: no record up to it can be altered without that seal no longer fitting. 2 postbacks of this claim came after it.`,
      );
    expect(text('claim.html')).not.toContain('sealed at');
  });

  it('escapes what a network wrote, for the page and for a spreadsheet, and comes back as it went', async () => {
    expect(text('claim.html')).not.toContain('<script>');
    expect(text('rows.csv')).toContain("'=HM-1");
    const opened = await openTable(new TextEncoder().encode(text('rows.csv')));
    if (!opened.ok) throw new Error(opened.message);
    const cell = (name: string) => opened.table.rows[0]?.[opened.table.header.indexOf(name)];
    expect([
      cell('claim'),
      cell('transaction'),
      cell('we heard'),
      cell('claimed'),
      cell('account tag'),
    ]).toEqual(['00ff00ff00ff00ff', '=HM-1</td><script>', '13.83', '13.83', 'nl-4471']);
  });
});
