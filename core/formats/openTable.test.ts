import ExcelJS from 'exceljs';
import { strToU8 } from 'fflate';
import { describe, expect, it } from 'vitest';
import { workbook } from '../../standins/index.ts';
import { openTable } from './index.ts';

describe('a report file', () => {
  it('is read from a workbook, and one that was cut off says so', async () => {
    const bytes = workbook([
      ['Order', 'Date', 'Commission'],
      ['HM-1', '12.10.2026', 13.83],
      ['HM-2', '13.10.2026', 4],
    ]);
    expect(await openTable(bytes)).toEqual({
      ok: true,
      format: 'XLSX, its first sheet',
      table: {
        header: ['Order', 'Date', 'Commission'],
        rows: [
          ['HM-1', '12.10.2026', '13.83'],
          ['HM-2', '13.10.2026', '4'],
        ],
        lines: [2, 3],
        aside: [],
        headerLine: 1,
      },
    });
    expect(await openTable(bytes.slice(0, bytes.length / 2))).toMatchObject({
      ok: false,
      message: expect.stringContaining('cut off'),
    });
  });

  it('is read from JSON lines, and a line that is none is named', async () => {
    const text = '{"id":"os-1","reward":13.83}\n\n{"id":"os-2","status":"ok"}\n';
    expect(await openTable(strToU8(text))).toMatchObject({
      ok: true,
      table: {
        header: ['id', 'reward', 'status'],
        rows: [
          ['os-1', '13.83', ''],
          ['os-2', '', 'ok'],
        ],
        lines: [1, 3],
      },
    });
    expect(await openTable(strToU8('{"id":1}\n{oops\n'))).toMatchObject({
      ok: false,
      message: expect.stringContaining('Line 2'),
    });
  });

  it('is refused with the reason when it is something else', async () => {
    for (const [bytes, words] of [
      [new Uint8Array(), 'empty'],
      [strToU8('<!doctype html><p>log in'), 'web page without a table'],
      [strToU8('%PDF-1.7\n%âãÏÓ'), 'PDF, made to be printed'],
      [strToU8('[1, 2]'), 'without a list of rows'],
      [strToU8('Order;Commission\n'), 'no row under a heading'],
      [Uint8Array.of(0xd0, 0xcf, 0x11, 0xe0), 'old kind'],
      [strToU8('<?xml version="1.0"?><report><row id="1"/></report>'), 'This is XML'],
      [strToU8('Order   Day          Payout\nA1      2026-10-01   3.00\n'), 'Nothing parts the lines'],
      [Uint8Array.of(1, 0, 2, 0), 'no text'],
    ] as const)
      expect(await openTable(bytes)).toMatchObject({ ok: false, message: expect.stringContaining(words) });
  });
});

/** The table of a file and what was set aside, with the reasons. */
const opened = async (text: string, headerLine?: number) => {
  const file = await openTable(strToU8(text), headerLine);
  if (!file.ok) throw new Error(file.message);
  const { header, rows, lines, aside } = file.table;
  return { format: file.format, header, rows, lines, aside: aside.map(({ line, why }) => [line, why]) };
};
const orders = [
  'HM-1;12.10.2026;13,83',
  'HM-2;13.10.2026;4,00',
  'HM-3;14.10.2026;0,60',
  'HM-4;15.10.2026;2,00',
];
const header = 'Order;Date;Commission';

describe('a table in a report file', () => {
  it('is found under title lines, and what stands before it is set aside', async () => {
    expect(
      await opened(['Report of conversions', 'Account;nl-4471', '', header, ...orders].join('\n')),
    ).toMatchObject({
      header: ['Order', 'Date', 'Commission'],
      lines: [5, 6, 7, 8],
      aside: [
        [1, 'before the heading'],
        [2, 'before the heading'],
      ],
    });
  });

  it('is read by the delimiter a sep line tells, also where it is none of the usual', async () => {
    expect(await opened(`sep=^\n${[header, ...orders].join('\n').replaceAll(';', '^')}`)).toMatchObject({
      header: ['Order', 'Date', 'Commission'],
      rows: orders.map((order) => order.split(';')),
      lines: [3, 4, 5, 6],
    });
  });

  it.each([
    ['by its word', 'Total;;20,43'],
    ['by its word in another language', 'Gesamtsumme;;20,43'],
    ['by its word, with a date', 'Summe;31.10.2026;20,43'],
    ['by being the sum, without a word', ';;20,43'],
    ['by being the sum, with a date', ';31.10.2026;20,43'],
  ])('has a total: %s', async (_, total) => {
    expect(await opened([header, ...orders, total].join('\n'))).toMatchObject({
      lines: [2, 3, 4, 5],
      aside: [[6, 'a total']],
    });
  });

  it('keeps rows that only look like a total, and sets notes aside', async () => {
    const rows = [
      ...orders,
      // An order number of its own, a shop called so, an amount that is no sum.
      'HM-5;16.10.2026;20,43',
      'Total Optics 7;17.10.2026;1,00',
      'HM-6;;9,99',
    ];
    expect(await opened([header, ...rows, '', 'All times are those of Berlin'].join('\n'))).toMatchObject({
      lines: [2, 3, 4, 5, 6, 7, 8],
      aside: [[10, 'a note']],
    });
  });

  it('has the heading a person points at, or none', async () => {
    const text = ['Kind;When;What', header, ...orders].join('\n');
    expect((await opened(text, 2)).header).toEqual(['Order', 'Date', 'Commission']);
    expect((await opened(orders.join('\n'), 0)).header).toEqual(['Column 1', 'Column 2', 'Column 3']);
    expect((await opened(orders.join('\n'))).rows).toHaveLength(4);
  });

  it('is read from JSON: a list, one inside an object, objects inside of its rows', async () => {
    const list = [
      { id: 'os-1', commission: { amount: '13.83', currency: 'EUR' } },
      { id: 'os-2', commission: { amount: '4.00', currency: 'JPY' }, status: 'ok' },
    ];
    const table = {
      header: ['id', 'commission.amount', 'commission.currency', 'status'],
      rows: [
        ['os-1', '13.83', 'EUR', ''],
        ['os-2', '4.00', 'JPY', 'ok'],
      ],
    };
    expect(await opened(JSON.stringify(list))).toMatchObject(table);
    expect(
      await opened(JSON.stringify({ meta: { pages: [1] }, data: { rows: list } }, undefined, 2)),
    ).toMatchObject(table);
  });

  it('is read from a table of a page that was saved under another name', async () => {
    const cells = (line: string, tag: string) =>
      `<tr>${line
        .split(';')
        .map((cell) => `<${tag}>${cell}</${tag}>`)
        .join('')}</tr>`;
    const page = `<html><body><table><tr><td>menu</td></tr></table><table><thead>${cells(header, 'th')}</thead><tbody>${orders.map((order) => cells(order, 'td')).join('')}</tbody></table></body></html>`;
    expect(await opened(page)).toMatchObject({
      format: 'a table of a web page',
      header: ['Order', 'Date', 'Commission'],
      rows: orders.map((order) => order.split(';')),
    });
  });
});

describe('a table that another program wrote', () => {
  const rows = [
    ['A1', '2026-10-13', 3],
    ['A2', '2026-10-14', 4.5],
  ] as const;
  const names = ['Order', 'Day', 'Payout'];
  const expected = {
    header: names,
    rows: [
      ['A1', '2026-10-13', '3'],
      ['A2', '2026-10-14', '4.5'],
    ],
  };
  const records = rows.map((row) => Object.fromEntries(names.map((name, i) => [name, row[i]])));
  // The shapes in which data frames and interfaces of programs write JSON; *common practice*.
  it.each([
    ['a list of records', records],
    ['a list inside of objects', { meta: { page: 1 }, data: { rows: records } }],
    ['lines of cells with a heading', [names, ...rows]],
    ['lines of cells with their headings beside them', { columns: names, index: [0, 1], data: rows }],
    [
      'columns of cells by the number of the row',
      Object.fromEntries(names.map((name, i) => [name, { 0: rows[0][i], 1: rows[1][i] }])),
    ],
    ['records by the number of the row', { 10: records[0], 11: records[1] }],
  ])('as %s is read', async (what, json) => {
    const opened = await openTable(strToU8(JSON.stringify(json)));
    const table = opened.ok ? opened.table : { header: [], rows: [] };
    // Where records have keys, these are a column too.
    const from = what.startsWith('records by') ? 1 : 0;
    expect({ header: table.header.slice(from), rows: table.rows.map((row) => row.slice(from)) }).toEqual(
      expected,
    );
  });

  it('with the items of an order inside of it has a row for each', async () => {
    const order = {
      id: 'A1',
      day: '2026-10-13',
      items: [
        { sku: 'lamp', payout: 3 },
        { sku: 'shade', payout: 4.5 },
      ],
    };
    expect(await openTable(strToU8(JSON.stringify([order])))).toMatchObject({
      table: {
        header: ['id', 'day', 'items.sku', 'items.payout'],
        rows: [
          ['A1', '2026-10-13', 'lamp', '3'],
          ['A1', '2026-10-13', 'shade', '4.5'],
        ],
      },
    });
  });

  it.each(['utf16le', 'utf16be'] as const)('in %s without a mark is read', async (encoding) => {
    const bytes = Buffer.from('Order,Payout\nA1,3.00\nA2,4.50\n', 'utf16le');
    expect(await openTable(new Uint8Array(encoding === 'utf16be' ? bytes.swap16() : bytes))).toMatchObject({
      table: {
        header: ['Order', 'Payout'],
        rows: [
          ['A1', '3.00'],
          ['A2', '4.50'],
        ],
      },
    });
  });

  it('by another writer of workbooks is read from its longest sheet, with what formulas came to', async () => {
    const book = new ExcelJS.Workbook();
    book.addWorksheet('About').addRow(['Transactions of October']);
    const sheet = book.addWorksheet('Data');
    sheet.addRow(names);
    for (const [order, day, payout] of rows) {
      const row = sheet.addRow([
        order,
        new Date(`${day}T00:00:00Z`),
        { formula: 'D2*0.07', result: payout + 1e-15 },
      ]);
      row.getCell(2).numFmt = 'd mmm yyyy';
    }
    expect(await openTable(new Uint8Array(await book.xlsx.writeBuffer()))).toMatchObject({
      format: 'XLSX, its sheet Data',
      table: expected,
    });
  });

  it('and that lacks most of its cells is no list of notes', async () => {
    const opened = await openTable(strToU8('Order,Day,Payout\nA1,,\nA2,,\nA3,2026-10-13,3.00\n'));
    expect(opened).toMatchObject({
      table: { rows: [{ length: 3 }, { length: 3 }, { length: 3 }], aside: [] },
    });
  });

  it('under headings that every object has by itself, or that never end, has columns of its own', async () => {
    const opened = await openTable(
      strToU8(`__proto__,constructor,${'long '.repeat(100)}\n1,2026-10-13,3.00\n`),
    );
    const header = opened.ok ? opened.table.header : [];
    expect(header.slice(0, 2)).toEqual(['__proto__ (1)', 'constructor (1)']);
    expect(header[2]?.length).toBeLessThanOrEqual(200);
  });

  it('with any sign between its cells, or one that it names, is parted by it', async () => {
    for (const sign of [',', ';', '\t', '|', '^', '~', '¦'])
      expect(
        await openTable(strToU8([names, ...rows].map((row) => row.join(sign)).join('\n'))),
      ).toMatchObject({ table: expected });
    expect(
      await openTable(strToU8(`sep=#\n${[names, ...rows].map((row) => row.join('#')).join('\n')}`)),
    ).toMatchObject({ table: expected });
    // Decimals with commas part lines too, and not their heading.
    expect(
      await openTable(
        strToU8('Order;Value;Payout;Day\nA1;100,00;3,00;1\nA2;40,50;1,22;2\nA3;20,00;0,60;3\n'),
      ),
    ).toMatchObject({ table: { header: ['Order', 'Value', 'Payout', 'Day'] } });
  });
});
