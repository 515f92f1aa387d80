import ExcelJS from 'exceljs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import * as v from 'valibot';
import type { Cost } from '#core/catalogue';
import { recordSchemas } from '#core/catalogue';
import { openTable } from '#core/formats';
import { dayName, dayNumber } from '#core/hop';
import type { CostFileChoices } from './index.ts';
import { readCostFile } from './index.ts';

const sources = ['bought-a', 'bought-b', 'flyer'];
const opened = async (text: string | Uint8Array) => {
  const found = await openTable(typeof text === 'string' ? new TextEncoder().encode(text) : text);
  if (!found.ok) throw new Error(found.message);
  return found.table;
};
const read = async (text: string | Uint8Array, choices: CostFileChoices = {}) =>
  readCostFile(await opened(text), sources, 'EUR', choices);
/** A cost in a line: what, how much, and when. */
const told = ({ of, per, amount, currency, from, until, note }: Omit<Cost, 'id'>): string =>
  [
    'source' in of
      ? of.source + (of.kind === 'placement' ? `/${of.placement}` : '')
      : of.kind === 'link'
        ? of.link
        : of.promotion,
    `${amount} ${currency} ${per}`,
    from === until ? from : `${from} to ${until}`,
    ...(note === '' ? [] : [note]),
  ].join('; ');

describe('a file of what a seller took', () => {
  it('is read below title lines, and its line of totals is compared instead of added', async () => {
    const { asks, rows, totals, bad, free } = await read(
      [
        'Spending by day',
        'Account;Nightledge',
        '',
        'Datum;Kampagne;Klicks;Ausgaben (EUR)',
        '14.10.2026;bought-a;120;103,40',
        '15.10.2026;bought-a;98;1.206,60',
        '16.10.2026;bought-b;0;0,00',
        'Gesamt;;218;1.310,00',
      ].join('\n'),
    );
    expect([asks, bad, free]).toEqual([[], [], 1]);
    expect(rows.map(({ cost }) => told(cost))).toEqual([
      'bought-a; 103.4 EUR all; 2026-10-14',
      'bought-a; 1206.6 EUR all; 2026-10-15',
    ]);
    expect(totals).toEqual([{ line: 8, agrees: true }]);
  });

  it.each<[what: string, since1904: boolean, written: 'day' | 'number']>([
    ['with days', false, 'day'],
    ['with days that count from 1904', true, 'day'],
    ['with days as bare numbers', false, 'number'],
    ['with days as bare numbers that count from 1904', true, 'number'],
  ])('is read from a workbook of another program, %s', async (_, since1904, written) => {
    const book = new ExcelJS.Workbook();
    if (since1904) book.properties.date1904 = true;
    const sheet = book.addWorksheet('Invoice');
    sheet.addRow(['Invoice 2026-311']);
    sheet.addRow(['First day', 'Last day', 'Source', 'Price per click', 'Currency']);
    const first = since1904 ? Date.UTC(1904, 0, 1) : Date.UTC(1899, 11, 30);
    const cellOf = (day: string) =>
      written === 'day'
        ? new Date(`${day}T00:00:00Z`)
        : (Date.parse(`${day}T00:00:00Z`) - first) / 86_400_000;
    for (const [from, until] of [
      ['2026-10-01', '2026-10-14'],
      ['2026-10-15', '2026-10-31'],
    ] as const) {
      const row = sheet.addRow([cellOf(from), cellOf(until), 'flyer', 0.0475, 'GBP']);
      if (written === 'day') for (const n of [1, 2]) row.getCell(n).numFmt = 'dd/mm/yyyy';
    }
    const { asks, bad, rows } = await read(new Uint8Array(await book.xlsx.writeBuffer()));
    expect([asks, bad]).toEqual([[], []]);
    expect(rows.map(({ cost }) => told(cost))).toEqual([
      'flyer; 0.0475 GBP click; 2026-10-01 to 2026-10-14',
      'flyer; 0.0475 GBP click; 2026-10-15 to 2026-10-31',
    ]);
  });

  it('says that a line of totals is not what the others come to', async () => {
    const { totals, rows } = await read(
      'Day,Source,Spent\n2026-10-14,flyer,10.50\n2026-10-15,flyer,4.50\nTotal,,25.00\n',
    );
    expect([rows.length, totals]).toEqual([2, [{ line: 4, agrees: false }]]);
  });

  it('is read by the price of a click, with more decimals than money has, by placement', async () => {
    const { asks, per, rows } = await read(
      'Start,End,Source,Zone,Clicks,CPC\n10/14/2026,10/16/2026,bought-a,204,1200,$0.0455\n10/14/2026,10/16/2026,bought-a,207,13,$0.12\n',
    );
    expect([asks, per]).toEqual([[], 'click']);
    expect(rows.map(({ cost }) => told(cost))).toEqual([
      'bought-a/204; 0.0455 USD click; 2026-10-14 to 2026-10-16',
      'bought-a/207; 0.12 USD click; 2026-10-14 to 2026-10-16',
    ]);
  });

  it('is known again: the same rows have the same keys, and two rows alike are two', async () => {
    const file = 'Day,Source,Spent\n2026-10-14,flyer,10.50\n2026-10-14,flyer,10.50\n2026-10-15,flyer,4.50\n';
    const keys = async (text: string) => (await read(text)).rows.map(({ key }) => key);
    const first = await keys(file);
    expect(new Set(first).size).toBe(3);
    expect(await keys(file)).toEqual(first);
    // A week later the file is longer, in another order of columns, and with semicolons.
    const later =
      'Source;Day;Spent\nflyer;2026-10-14;10.50\nflyer;2026-10-14;10.50\nflyer;2026-10-15;4.50\nflyer;2026-10-16;9\n';
    expect((await keys(later)).slice(0, 3)).toEqual(first);
  });

  it.each<[what: string, text: string, asks: string[], choices: CostFileChoices, says: string[]]>([
    [
      'which of two columns was paid',
      'Day,Source,Net cost,Gross cost\n2026-10-14,flyer,10.00,11.90\n',
      ['amount'],
      { amount: 'Gross cost' },
      ['flyer; 11.9 EUR all; 2026-10-14'],
    ],
    [
      'which number of a date is the day',
      'Day,Source,Spent\n01/02/2026,flyer,11.90\n03/04/2026,flyer,1.50\n',
      ['dates'],
      { dates: 'mdy' },
      ['flyer; 11.9 EUR all; 2026-01-02', 'flyer; 1.5 EUR all; 2026-03-04'],
    ],
    [
      'what stands before the decimals',
      'Day,Source,Spent\n2026-10-14,flyer,"1,234"\n',
      ['decimal'],
      { decimal: '.' },
      ['flyer; 1234 EUR all; 2026-10-14'],
    ],
    [
      'of which source it is, where no column names one that is known',
      'Day,Campaign,Spent\n2026-10-14,Autumn in the garden,11.90\n',
      ['source'],
      { source: { name: 'flyer' } },
      ['flyer; 11.9 EUR all; 2026-10-14; Autumn in the garden'],
    ],
    [
      'of which days it is, where no column tells it',
      'Source,Spent\nflyer,11.90\n',
      ['span'],
      { span: { from: '2026-10-01', until: '2026-10-31' } },
      ['flyer; 11.9 EUR all; 2026-10-01 to 2026-10-31'],
    ],
    [
      'which of two days it goes by',
      'Billed,Delivered on,Source,Spent\n2026-11-01,2026-10-14,flyer,11.90\n',
      ['day'],
      { day: 'Delivered on' },
      ['flyer; 11.9 EUR all; 2026-10-14'],
    ],
  ])('asks %s, and gives no row until it is answered', async (_, text, asks, choices, says) => {
    const open = await read(text);
    expect([open.asks, open.rows]).toEqual([asks, []]);
    const answered = await read(text, choices);
    expect(answered.asks).toEqual([]);
    expect(answered.rows.map(({ cost }) => told(cost))).toEqual(says);
  });

  it('refuses what is below nothing, no day, no amount, no source, and days turned round, each in its line', async () => {
    const { bad, rows } = await read(
      [
        'From,Until,Source,Spent,Currency',
        '2026-10-14,2026-10-16,flyer,-5.00,EUR',
        'soon,2026-10-16,flyer,5.00,EUR',
        '2026-10-14,2026-10-16,flyer,five,EUR',
        '2026-10-14,2026-10-16,,5.00,EUR',
        '2026-10-16,2026-10-14,flyer,5.00,EUR',
        '2026-10-16,2026-10-18,flyer,12345678.00,EUR',
        '2026-10-16,2026-10-18,flyer,5.00,EUR',
      ].join('\n'),
    );
    expect(rows).toHaveLength(1);
    expect(
      bad.map(({ line, problems }) => `${line}: ${problems.map(({ message }) => message).join(' ')}`),
    ).toEqual([
      '2: -5 is below nothing. What a seller gives back is no cost: note what was paid.',
      '3: “soon” is no date, read as year, month, day.',
      '4: “five” is no amount.',
      '5: It names no source.',
      '6: Its last day, 2026-10-14, lies before its first, 2026-10-16.',
      '7: 12345678 is finer or larger than a cost can be.',
    ]);
  });

  it('says the same of every dialect it is sure of, and asks in the others: 400 drawn files', async () => {
    const dialect = fc.record({
      sign: fc.constantFrom('.' as const, ','),
      between: fc.constantFrom(',', ';', '\t'),
      order: fc.constantFrom('ymd' as const, 'dmy', 'mdy'),
      words: fc.constantFrom(
        ['Date', 'Source', 'Spent', 'Clicks', 'Total'],
        ['Datum', 'Quelle', 'Kosten', 'Klicks', 'Summe'],
        ['Fecha', 'Campaña', 'Gasto', 'Clics', 'Total'],
        ['Jour', 'Campagne', 'Coût', 'Clics', 'Total'],
      ),
      titles: fc.integer({ min: 0, max: 3 }),
      currency: fc.constantFrom('heading', 'column', 'cell', 'none'),
      total: fc.boolean(),
      grouped: fc.boolean(),
    });
    const row = fc.record({
      day: fc.integer({ min: 0, max: 80 }),
      source: fc.constantFrom(...sources),
      cents: fc.integer({ min: 1, max: 999_999 }),
      clicks: fc.nat(5000),
    });
    let [sure, asked] = [0, 0];
    await fc.assert(
      fc.asyncProperty(dialect, fc.array(row, { minLength: 1, maxLength: 12 }), async (how, drawn) => {
        const [date = '', source = '', spent = '', clicks = '', total = ''] = how.words;
        const amountOf = (cents: number): string => {
          const whole = String(Math.floor(cents / 100));
          const parted = how.grouped
            ? whole.replace(/\B(?=(\d{3})+$)/g, how.sign === '.' ? ',' : '.')
            : whole;
          const text = `${parted}${how.sign}${String(cents % 100).padStart(2, '0')}`;
          return how.currency === 'cell' ? `${text} USD` : text;
        };
        const dayOf = (n: number): string => {
          const [year = '', month = '', day = ''] = dayName(dayNumber('2026-09-01') + n).split('-');
          return {
            ymd: `${year}-${month}-${day}`,
            dmy: `${day}.${month}.${year}`,
            mdy: `${month}/${day}/${year}`,
          }[how.order];
        };
        const quoted = (cell: string) => (cell.includes(how.between) ? `"${cell}"` : cell);
        const line = (cells: readonly string[]) => cells.map(quoted).join(how.between);
        const more = how.currency === 'column' ? ['USD'] : [];
        const text = [
          ...Array.from({ length: how.titles }, (_, i) => `Report ${i + 1} of what you spent`),
          line([
            date,
            source,
            clicks,
            how.currency === 'heading' ? `${spent} (USD)` : spent,
            ...(how.currency === 'column' ? ['Currency'] : []),
          ]),
          ...drawn.map(({ day, source: of, cents, clicks: n }) =>
            line([dayOf(day), of, String(n), amountOf(cents), ...more]),
          ),
          ...(how.total
            ? [
                line([
                  total,
                  '',
                  '',
                  amountOf(drawn.reduce((sum, { cents }) => sum + cents, 0)),
                  ...more.map(() => ''),
                ]),
              ]
            : []),
        ].join('\n');
        const found = await read(text);
        if (found.asks.length > 0) {
          asked += 1;
          // Only what can be read in two ways is asked about.
          expect(found.asks.every((one) => one === 'dates' || one === 'decimal')).toBe(true);
          return;
        }
        sure += 1;
        expect(found.bad).toEqual([]);
        expect(found.totals.map(({ agrees }) => agrees)).toEqual(how.total ? [true] : []);
        expect(found.rows.map(({ cost }) => told(cost))).toEqual(
          drawn.map(({ day, source: of, cents }) => {
            const amount = String(cents / 100);
            const currency = how.currency === 'none' ? 'EUR' : 'USD';
            return `${of}; ${amount} ${currency} all; ${dayName(dayNumber('2026-09-01') + day)}`;
          }),
        );
        for (const { cost } of found.rows)
          expect(v.is(recordSchemas.cost, { id: 'cst_one', ...cost })).toBe(true);
      }),
      { numRuns: 400, seed: 2026 },
    );
    expect([sure > 200, asked > 10]).toEqual([true, true]);
  });
});
