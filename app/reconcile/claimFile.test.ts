import { strFromU8, unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { readTable } from '#core/formats';
import { claimFile } from './claimFile.ts';

describe('a claim file', () => {
  const line = {
    cause: 'not in report',
    because: 'We heard of it.',
    txn: '=HM-1</td><script>',
    event: 'sale',
    at: '2026-10-12T10:00:00.000Z',
    click: '01M84BDPSKXE4HN0RD2V6W3PBC',
    clickedAt: '2026-10-12T09:00:00.000Z',
    link: 'see.nightledge.example/kit',
    ourAmount: 1383,
    ourCurrency: 'EUR',
    theirAmount: null,
    theirCurrency: '',
    unverified: 'signature',
    theirState: '',
    postbacks: [{ at: '2026-10-12T10:00:01.000Z', via: 'GET', query: 'click=1', body: null }],
  };
  const files = unzipSync(claimFile('Harrowmead', '2026-10', 'see.nightledge.example', [line]));
  const text = (name: string) => strFromU8(files[name] ?? new Uint8Array());

  it('holds a summary, the rows and the evidence of each', () => {
    expect(Object.keys(files)).toEqual(['summary.html', 'rows.csv', 'evidence/0001-_HM-1__td__script_.json']);
    expect(JSON.parse(text('evidence/0001-_HM-1__td__script_.json'))).toEqual(line);
  });
  it('escapes what a network wrote, for the page and for a spreadsheet', () => {
    expect(text('summary.html')).not.toContain('<script>');
    expect(text('rows.csv')).toContain("'=HM-1");
    expect(readTable(text('rows.csv')).rows[0]?.slice(0, 3)).toEqual([
      'not in report',
      '=HM-1</td><script>',
      'sale',
    ]);
    expect(readTable(text('rows.csv')).rows[0]?.[7]).toBe('13.83');
  });
});
