import { describe, expect, it } from 'vitest';
import { openTable } from '#core/formats';
import { readBank } from './bank.ts';
import type { BankChoices } from './bank.ts';

const networks = [
  { id: 'net_h', name: 'Harrowmead' },
  { id: 'net_k', name: 'Kelvane' },
  { id: 'net_k2', name: 'Kelvane Nord' },
];
const read = async (text: string, choices: BankChoices = {}, encoding: 'utf8' | 'latin1' = 'utf8') => {
  const opened = await openTable(new Uint8Array(Buffer.from(text, encoding)));
  if (!opened.ok) throw new Error(opened.message);
  return readBank(opened.table, networks, 'EUR', choices);
};
const short = ({ rows }: Awaited<ReturnType<typeof read>>) =>
  rows.map(({ day, amount, currency, network }) => [day, amount, currency, network]);

/** Files as banks of several countries give them. Their headings are common practice; what stands in them is made up. */
describe('what arrived, from a bank’s file', () => {
  it('with the day of entry and that of value, one signed amount and a balance', async () => {
    const file = [
      '"Auftragskonto";"Buchungstag";"Valutadatum";"Buchungstext";"Verwendungszweck";"Zahlungspflichtiger";"IBAN";"Betrag";"Währung";"Saldo"',
      '"DE00 1234";"20.11.26";"21.11.26";"GUTSCHRIFT";"PROVISION 10/2026";"HARROWMEAD GMBH";"DE99";"1.250,00";"EUR";"3.402,11"',
      '"DE00 1234";"21.11.26";"21.11.26";"LASTSCHRIFT";"Strom";"Stadtwerke";"DE98";"-80,15";"EUR";"3.321,96"',
      '"DE00 1234";"22.11.26";"22.11.26";"GUTSCHRIFT";"Erstattung";"Laden";"DE97";"19,90";"EUR";"3.341,86"',
    ].join('\r\n');
    const reading = await read(file, {}, 'latin1');
    expect(reading.asks).toEqual([]);
    expect(short(reading)).toEqual([
      ['2026-11-20', 125_000, 'EUR', 'net_h'],
      ['2026-11-22', 1990, 'EUR', ''],
    ]);
    expect(reading.left).toBe(1);
    expect(reading.rows[0]?.text).toContain('PROVISION 10/2026');
  });

  it('with what came in and what went out in columns of their own, in US order', async () => {
    const file = [
      'Date,Description,Money out,Money in,Balance',
      '11/13/2026,"KELVANE NORD PAYOUT",,"2,001.50","4,000.00"',
      '11/14/2026,"RENT",900.00,,"3,100.00"',
      '11/15/2026,"Payout of Kelvane",0.00,12.00,"3,112.00"',
    ].join('\n');
    const reading = await read(file);
    expect(reading.asks).toEqual([]);
    // Two networks' names stand in the first: whose it is has to be said.
    expect(short(reading)).toEqual([
      ['2026-11-13', 200_150, 'EUR', ''],
      ['2026-11-15', 1200, 'EUR', 'net_k'],
    ]);
    expect(reading.left).toBe(1);
  });

  it('with a word for the direction, and the day as one number', async () => {
    const file = [
      '"Datum";"Naam / Omschrijving";"Rekening";"Af Bij";"Bedrag (EUR)";"Mededelingen"',
      '"20261120";"Harrowmead";"NL00";"Bij";"310,25";"oktober"',
      '"20261121";"Winkel";"NL00";"Af";"12,50";""',
    ].join('\n');
    const reading = await read(file);
    expect(short(reading)).toEqual([['2026-11-20', 31_025, 'EUR', 'net_h']]);
    expect(reading.left).toBe(1);
  });

  it('under title lines, with credit and debit in French', async () => {
    const file = [
      'Compte courant n° 000123;;;;',
      'Solde au 23/11/2026;;;;1 234,56',
      ';;;;',
      "Date;Date d'opération;Libellé;Débit euros;Crédit euros",
      '21/11/2026;20/11/2026;VIREMENT HARROWMEAD;;1 050,00',
      '22/11/2026;22/11/2026;CARTE;-35,20;',
    ].join('\n');
    const reading = await read(file);
    expect(reading.asks).toEqual([]);
    expect(short(reading)).toEqual([['2026-11-20', 105_000, 'EUR', 'net_h']]);
  });

  it('with amounts in several currencies, named row by row', async () => {
    const file = [
      'Booking date,Amount,Currency,Payer',
      '2026-11-20,15000,JPY,Kelvane',
      '2026-11-21,12.345,KWD,Kelvane',
      '2026-11-22,7.10,USD,Harrowmead',
    ].join('\n');
    expect(short(await read(file))).toEqual([
      ['2026-11-20', 15_000, 'JPY', 'net_k'],
      ['2026-11-21', 12_345, 'KWD', 'net_k'],
      ['2026-11-22', 710, 'USD', 'net_h'],
    ]);
  });

  it('asks which of two columns it is, and how they are written, and gives nothing until then', async () => {
    const file = [
      'Transaction date,Value date,Sum,Original sum,Who',
      '03/04/2026,04/04/2026,"1,250","1,300",Harrowmead',
    ].join('\n');
    const open = await read(file);
    expect(open.asks).toEqual(['day', 'amount']);
    expect(open.candidates).toEqual({
      day: ['Transaction date', 'Value date'],
      amount: ['Sum', 'Original sum'],
    });
    expect(open.rows).toEqual([]);
    const half = await read(file, { day: 'Value date', amount: 'Sum' });
    expect([half.asks, half.days]).toEqual([['dates', 'decimal'], ['04/04/2026']]);
    expect(half.rows).toEqual([]);
    const whole = await read(file, { day: 'Value date', amount: 'Sum', dates: 'dmy', decimal: '.' });
    expect(short(whole)).toEqual([['2026-04-04', 125_000, 'EUR', 'net_h']]);
  });

  it('keeps what cannot be read apart, with why', async () => {
    const file = [
      'Booked,Amount,Payer',
      '2026-11-20,12.00,Kelvane',
      '2026-11-31,5.00,Kelvane',
      '2026-11-22,abc,Kelvane',
    ];
    const { rows, bad } = await read(file.join('\n'));
    expect(rows).toHaveLength(1);
    expect(bad.map(({ line, problems }) => [line, problems[0]?.path])).toEqual([
      [3, 'day'],
      [4, 'amount'],
    ]);
  });

  it('knows a row again by its content, and two that are the same from each other', async () => {
    const rows = ['2026-11-20,12.00,Kelvane', '2026-11-20,12.00,Kelvane', '2026-11-21,12.00,Kelvane'];
    const head = 'Booked,Amount,Payer';
    const keys = async (list: readonly string[]) =>
      (await read([head, ...list].join('\n'))).rows.map(({ key }) => key);
    const all = await keys(rows);
    expect(new Set(all).size).toBe(3);
    expect(await keys(rows.slice(1))).toEqual([all[0], all[2]]);
  });
});
