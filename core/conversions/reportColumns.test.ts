import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { commissionColumn, dateColumn } from './reportColumns.ts';

/** Four sales: order value, commission at 3 %, the network's fee at a fifth of it, and a number that is no money. */
const worth = ['100.00', '40.50', '20.00', '250.00'];
const paid = ['3.00', '1.22', '0.60', '7.50'];
const fee = ['0.60', '0.24', '0.12', '1.50'];
const percent = ['3', '3', '3', '3'];
const orders = ['81004', '81005', '81006', '81007'];

type Column = readonly [heading: string, cells: readonly string[]];
/** What becomes of the columns: the heading that was taken, or those that are asked about. */
const chosen = (columns: readonly Column[]) => {
  const header = columns.map(([heading]) => heading);
  const { column, candidates } = commissionColumn(
    header,
    columns.map(([, cells]) => cells),
  );
  return column === undefined ? { asks: candidates.map((i) => header[i]) } : header[column];
};

describe('the column of the commission', () => {
  it.each<[string, Column[], unknown]>([
    [
      'Commission',
      [
        ['Sale Amount', worth],
        ['Commission', paid],
      ],
      'Commission',
    ],
    [
      'Earnings',
      [
        ['Order value', worth],
        ['Earnings', paid],
      ],
      'Earnings',
    ],
    [
      'Payout',
      [
        ['Payout', paid],
        ['Basket total', worth],
      ],
      'Payout',
    ],
    [
      'Publisher commission',
      [
        ['Commission', worth],
        ['Publisher commission', paid],
      ],
      'Publisher commission',
    ],
    [
      'Your share',
      [
        ['Total commission', fee],
        ['Your share', paid],
      ],
      'Your share',
    ],
    [
      'Commission, not its rate',
      [
        ['Commission rate', percent],
        ['Commission', paid],
      ],
      'Commission',
    ],
    [
      'Commission, not what it is computed on',
      [
        ['Commissionable amount', worth],
        ['Commission', paid],
      ],
      'Commission',
    ],
    [
      'a fee beside a share',
      [
        ['Network fee', fee],
        ['Affiliate share', paid],
      ],
      'Affiliate share',
    ],
    [
      'the only amount',
      [
        ['Order', orders],
        ['Amount', paid],
      ],
      'Amount',
    ],
    [
      'order value × rate',
      [
        ['Order value', worth],
        ['Rate', percent],
        ['Amount', paid],
      ],
      'Amount',
    ],
    [
      'order value × rate as a part',
      [
        ['Sale amount', worth],
        ['Rate', percent.map(() => '0.03')],
        ['Total', paid],
      ],
      'Total',
    ],
    [
      'Provision',
      [
        ['Warenwert', worth],
        ['Netzwerkgebühr', fee],
        ['Provision', paid],
      ],
      'Provision',
    ],
    [
      'Rémunération',
      [
        ['Montant de la commande', worth],
        ['Rémunération', paid],
      ],
      'Rémunération',
    ],
    [
      'Comisión',
      [
        ['Importe del pedido', worth],
        ['Comisión', paid],
      ],
      'Comisión',
    ],
    [
      'Commissione',
      [
        ['Valore ordine', worth],
        ['Commissione', paid],
      ],
      'Commissione',
    ],
    [
      'Vergoeding',
      [
        ['Orderwaarde', worth],
        ['Vergoeding', paid],
      ],
      'Vergoeding',
    ],
    [
      'one of two that are the same',
      [
        ['Commission', paid],
        ['Commission (2)', paid],
      ],
      'Commission',
    ],
    // Nothing but a person decides between these.
    [
      'two amounts',
      [
        ['Amount', worth],
        ['Revenue', paid],
      ],
      { asks: ['Amount', 'Revenue'] },
    ],
    [
      'an order value and an amount',
      [
        ['Order value', worth],
        ['Amount', paid],
      ],
      { asks: ['Amount', 'Order value'] },
    ],
    ['an order value alone', [['Sale Amount', worth]], { asks: ['Sale Amount'] }],
    [
      'a price and something without a name',
      [
        ['Price', worth],
        ['Net', paid],
      ],
      { asks: ['Net', 'Price'] },
    ],
    [
      'two that are called commission',
      [
        ['Commission', paid],
        ['Commission total', fee],
      ],
      { asks: ['Commission', 'Commission total'] },
    ],
    [
      'a heading against its arithmetic',
      [
        ['Order value', worth],
        ['Rate', percent],
        ['Commission', fee],
        ['Amount', paid],
      ],
      { asks: ['Commission', 'Amount'] },
    ],
    [
      'no money at all',
      [
        ['Order', orders],
        ['State', orders.map(() => 'open')],
      ],
      { asks: [] },
    ],
  ])('%s', (_, columns, expected) => expect(chosen(columns)).toEqual(expected));

  it('says of the others what they are', () => {
    const { why } = commissionColumn(
      ['Order value', 'Rate', 'Network fee', 'Commission', 'Amount'],
      [worth, percent, fee, paid, paid],
    );
    expect([...why]).toEqual([
      [0, 'order value: not the commission'],
      [1, 'rate: not the commission'],
      [2, 'fee: not the commission'],
      [3, 'order value × rate'],
    ]);
  });

  it('is not the smaller number for being smaller, and three rows prove a product, two do not', () => {
    expect(
      chosen([
        ['Total', worth],
        ['Sum', paid],
      ]),
    ).toEqual({ asks: ['Total', 'Sum'] });
    const few = (cells: readonly string[]) => cells.slice(0, 2);
    const columns: Column[] = [
      ['Order value', few(worth)],
      ['Rate', few(percent)],
      ['Amount', few(paid)],
    ];
    expect(chosen(columns)).toEqual({ asks: ['Amount', 'Order value'] });
  });

  it('is right or asked about, whatever the order, the language and what stands beside it: property', () => {
    const words = {
      commission: [
        'Commission',
        'Payout',
        'Earnings',
        'Your reward',
        'Provision',
        'Vergütung',
        'Verdienst',
        'Prämie',
        'Rémunération',
        'Gains',
        'Comisión',
        'Ganancias',
        'Provvigione commissione',
        'Compenso',
        'Commissie',
        'Vergoeding',
        'Amount',
        'Revenue',
        'Betrag',
        'Montant',
        'Importe',
        'Importo',
        'Bedrag',
        'Total',
        'Net',
      ],
      value: [
        'Sale amount',
        'Order value',
        'Basket',
        'Turnover',
        'Gross',
        'Warenwert',
        'Bestellwert',
        'Nettoumsatz',
        'Montant de la commande',
        'Panier',
        'Importe del pedido',
        'Ventas',
        'Valore ordine',
        'Fatturato',
        'Orderwaarde',
        'Omzet',
        'Price',
        'Total',
        'Amount',
        'Commissionable amount',
      ],
      fee: [
        'Network fee',
        'Merchant commission',
        'Netzwerkgebühr',
        'Frais',
        'Comisión de la red',
        'Commissione della rete',
        'Netwerkkosten',
        'Tax',
      ],
      rate: [
        'Rate',
        'Commission rate',
        'Provisionssatz',
        'Taux de commission',
        '% comisión',
        'Percentuale',
        'Tarief',
      ],
      /** Numbers that are no money, whatever is written over them. */
      other: [
        'Commission ID',
        'Sale number',
        'Order no.',
        'Provision Nr',
        'Commission group',
        'Order quantity',
        'Sale',
        'Amount of items, count',
      ],
    };
    fc.assert(
      fc.property(
        fc.record({
          commission: fc.constantFrom(...words.commission),
          value: fc.option(fc.constantFrom(...words.value)),
          fee: fc.option(fc.constantFrom(...words.fee)),
          rate: fc.option(fc.constantFrom(...words.rate)),
          other: fc.option(fc.constantFrom(...words.other)),
          seed: fc.infiniteStream(fc.nat()),
        }),
        ({ commission, value, fee: cost, rate, other, seed }) => {
          const columns: Column[] = [
            [commission, paid],
            ...(value === null || value === commission ? [] : [[value, worth] as const]),
            ...(cost === null ? [] : [[cost, fee] as const]),
            ...(rate === null ? [] : [[rate, percent] as const]),
            ['Order', orders],
            ...(other === null ? [] : [[other, orders] as const]),
          ];
          const mixed = columns
            .map((column) => ({ column, at: seed.next().value }))
            .sort((a, b) => a.at - b.at)
            .map(({ column }) => column);
          const found = chosen(mixed);
          if (typeof found === 'object') expect(found.asks).toContain(commission);
          else expect(found).toBe(commission);
        },
      ),
      { numRuns: 2000 },
    );
  });
});

describe('the column of the date', () => {
  const day = ['2026-10-01', '2026-10-02', '2026-10-03'];
  const later = ['2026-11-01', '2026-11-02', '2026-11-03'];
  const of = (columns: readonly Column[]) => {
    const header = columns.map(([heading]) => heading);
    const { column, candidates } = dateColumn(
      header,
      columns.map(([, cells]) => cells),
    );
    return column === undefined ? { asks: candidates.map((i) => header[i]) } : header[column];
  };
  it.each<[Column[], unknown]>([
    [
      [
        ['Click date', day],
        ['Event date', later],
      ],
      'Event date',
    ],
    [
      [
        ['Date', day],
        ['Approved on', later],
      ],
      'Date',
    ],
    [
      [
        ['Modified', later],
        ['Transaction date', day],
        ['Date paid', later],
      ],
      'Transaction date',
    ],
    [
      [
        ['Klickdatum', day],
        ['Bestelldatum', later],
      ],
      'Bestelldatum',
    ],
    [
      [
        ['Date du clic', day],
        ['Date de vente', later],
      ],
      'Date de vente',
    ],
    [
      [
        ['Fecha', day],
        ['Fecha de pago', later],
      ],
      'Fecha',
    ],
    [
      [
        ['Date', day],
        ['Day', day],
      ],
      'Date',
    ],
    [
      [
        ['Date', day],
        ['Day', later],
      ],
      { asks: ['Date', 'Day'] },
    ],
    [[['Click date', day]], { asks: ['Click date'] }],
    [
      [
        ['Created at', ['1791840160', '1791840161']],
        ['Order', ['1791840160', '1791840161']],
      ],
      'Created at',
    ],
    [[['Order', ['46307', '46308']]], { asks: [] }],
    [[['Order', orders]], { asks: [] }],
  ])('of %j is %j', (columns, expected) => expect(of(columns)).toEqual(expected));
});
