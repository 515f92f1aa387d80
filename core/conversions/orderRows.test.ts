import { describe, expect, it } from 'vitest';
import { knownNetworks } from '#core/link-parts';
import type { Network } from '#core/catalogue';
import type { ReportTable } from './index.ts';
import { guessReport, readReport } from './index.ts';

const [known] = knownNetworks;
if (!known) throw new Error('networks ship');
const { report: _, ...network }: Network = {
  ...known,
  id: 'net_h',
  zone: 'Europe/Berlin',
  currency: 'EUR',
  postback: { ...known.postback, statuses: {}, key: 'k', pixelKey: 'p' },
};
const table = (header: string, rows: readonly string[], more: Partial<ReportTable> = {}): ReportTable => ({
  header: header.split(';'),
  rows: rows.map((row) => row.split(';')),
  lines: rows.map((_, i) => i + 2),
  ...more,
});
const now = Date.UTC(2026, 10, 27);
const read = (of: ReportTable, profile = guessReport(of, network, {}, now).profile) => {
  const { rows, bad, sums, twiceHour } = readReport(of, profile, network);
  return {
    asks: guessReport(of, network, {}, now).asks,
    rows: rows.map(({ txn, amount, status }) => [txn, amount, status]),
    times: rows.map(({ at }) => new Date(at).toISOString()),
    bad: bad.map(({ problems }) => problems.map(({ message }) => message).join(' ')),
    sums: sums.map(({ status, rows: n, minor }) => `${status} ${n} ${minor}`),
    twiceHour,
    profile,
  };
};
const head = 'Order ID;Date;Commission;Status';

describe('several rows of one order', () => {
  it('are items where rows of the same day and state have other amounts: they are added up', () => {
    const found = read(
      table(head, [
        'A1;13.10.2026;3,00;open',
        'A1;13.10.2026;4,50;open',
        'A2;14.10.2026;1,00;open',
        'A2;14.10.2026;1,00;declined',
      ]),
    );
    expect(found).toMatchObject({ asks: [], bad: [], sums: ['pending 3 850', 'reversed 1 100'] });
    expect(found.rows).toEqual([
      ['A1', 750, 'pending'],
      ['A2', 100, 'pending'],
    ]);
  });

  it('are items where a column of items says so, and an order is as far as its last item', () => {
    const found = read(
      table('Order ID;Article;Date;Commission;Status', [
        'A1;Lamp;13.10.2026;3,00;paid',
        'A1;Shade;13.10.2026;3,00;confirmed',
        'A1;Bulb;13.10.2026;3,00;declined',
      ]),
    );
    expect(found).toMatchObject({ asks: [], rows: [['A1', 600, 'approved']] });
  });

  it('are states of one sale where only day and state move on: the newest counts, whatever the order of rows', () => {
    const rows = [
      'A1;13.10.2026;3,00;open',
      'A1;20.10.2026;3,00;confirmed',
      'A2;14.10.2026;1,00;open',
      'A2;15.10.2026;1,00;declined',
    ];
    for (const order of [rows, rows.toReversed()]) {
      const found = read(table(head, order));
      expect(found).toMatchObject({ asks: [], bad: [], sums: ['approved 1 300', 'reversed 1 100'] });
      expect(found.rows.toSorted()).toEqual([
        ['A1', 300, 'approved'],
        ['A2', 100, 'reversed'],
      ]);
    }
  });

  it('that leave it open are asked about, and refused without an answer', () => {
    const of = table(head, [
      'A1;13.10.2026;3,00;open',
      'A1;20.10.2026;4,00;confirmed',
      'A2;14.10.2026;1,00;open',
    ]);
    const found = read(of);
    expect(found.asks).toEqual(['orders']);
    expect(found.bad).toEqual([
      'A1 stands in the file more than once.',
      'A1 stands in the file more than once.',
    ]);
    expect(read(of, { ...found.profile, orders: 'items' }).rows[0]).toEqual(['A1', 700, 'pending']);
    expect(read(of, { ...found.profile, orders: 'newest' }).rows[0]).toEqual(['A1', 400, 'approved']);
  });

  it('that contradict what earlier reports of the network were are asked about anew', () => {
    const items = table(head, ['A1;13.10.2026;3,00;open', 'A1;13.10.2026;4,50;open']);
    const states = table(head, [
      'A1;13.10.2026;3,00;open',
      'A1;20.10.2026;3,00;paid',
      'A2;13.10.2026;1,00;open',
      'A2;20.10.2026;1,00;paid',
    ]);
    const report = guessReport(items, network, {}, now).profile;
    expect(report.orders).toBe('items');
    expect(guessReport(items, { ...network, report }, {}, now).asks).toEqual([]);
    expect(guessReport(states, { ...network, report }, {}, now).asks).toEqual(['orders']);
  });

  it('letter for letter the same are asked about: two of a kind, or one written twice', () => {
    const of = table(head, ['A1;13.10.2026;3,00;open', 'A1;13.10.2026;3,00;open']);
    const found = read(of);
    expect(found.asks).toEqual(['twins']);
    expect(found.bad[0]).toBe('A1 stands in the file more than once, letter for letter.');
    expect(read(of, { ...found.profile, twins: 'each' })).toMatchObject({
      rows: [['A1', 600, 'pending']],
      bad: [],
    });
    expect(read(of, { ...found.profile, twins: 'once' })).toMatchObject({
      rows: [['A1', 300, 'pending']],
      bad: [],
    });
  });

  it('of two programs, or in two currencies, are refused with words that fit', () => {
    expect(
      read(
        table('Order ID;Program;Date;Commission', [
          '1001;Oakhollow;13.10.2026;3,00',
          '1001;Quillmarsh;13.10.2026;4,00',
        ]),
      ).bad[0],
    ).toBe('1001 stands in the file for Oakhollow and for Quillmarsh.');
    expect(
      read(
        table('Order ID;Date;Commission;Currency', ['1001;13.10.2026;3,00;EUR', '1001;13.10.2026;4,00;USD']),
      ).bad[0],
    ).toBe('1001 stands in the file in EUR and in USD.');
  });

  it('are many in a file whose transactions are all the same, and read all the same', () => {
    const rows = Array.from({ length: 150_000 }, (_, i) => `A1;13.10.2026;${i % 7},00;open`);
    const of = table(head, rows);
    const began = performance.now();
    const found = read(of, { ...guessReport(of, network, {}, now).profile, twins: 'each', orders: 'items' });
    expect([found.rows.length, found.bad.length]).toEqual([1, 0]);
    // With each row looked at once for each other it would take minutes.
    expect(performance.now() - began).toBeLessThan(20_000);
  });

  it('below zero take back and stay rows of their own, twice where they stand twice', () => {
    const of = table(head, [
      'A1;13.10.2026;9,00;paid',
      'A1;15.10.2026;-3,00;paid',
      'A1;15.10.2026;-3,00;open',
    ]);
    expect(read(of)).toMatchObject({
      asks: [],
      rows: [
        ['A1', 900, 'paid'],
        ['A1', -300, 'paid'],
        ['A1', -300, 'pending'],
      ],
      sums: ['paid 1 900', 'refund 2 -600'],
    });
  });
});

describe('words for states', () => {
  it('nobody knows are asked about, each once with its rows, and none becomes pending', () => {
    const of = table(head, [
      'A1;13.10.2026;3,00;Stage 2',
      'A2;13.10.2026;3,00;stage 2',
      'A3;13.10.2026;3,00;',
      'A4;13.10.2026;3,00;Tier C',
    ]);
    const { states, asks } = guessReport(of, network, {}, now);
    expect([asks, states]).toEqual([
      ['states'],
      [
        { word: 'stage 2', rows: 2 },
        { word: 'tier c', rows: 1 },
      ],
    ]);
    expect(read(of)).toMatchObject({
      rows: [['A3', 300, 'pending']],
      bad: Array(3).fill(expect.stringMatching(/is no state this network is known to use/)),
    });
  });
  it('of the network come before those that are usual', () => {
    const own = { ...network, postback: { ...network.postback, statuses: { valid: 'pending' as const } } };
    const of = table(head, ['A1;13.10.2026;3,00;Valid', 'A2;13.10.2026;3,00;Validée']);
    const { profile } = guessReport(of, own, {}, now);
    expect(readReport(of, profile, own).rows.map(({ status }) => status)).toEqual(['pending', 'approved']);
  });
});

describe('a heading', () => {
  const of = (heading: string, cells: readonly string[]) =>
    table(
      `Order ID;Date;${heading}`,
      cells.map((cell, i) => `A${i};13.10.2026;${cell}`),
    );
  it.each([
    ['Commission (USD)', ['3.00', '4.50'], 'USD', [300, 450]],
    ['Commission in £', ['3.00', '4.50'], 'GBP', [300, 450]],
    ['Commission ALL', ['3.00', '4.50'], 'EUR', [300, 450]],
    ['Commission SKU', ['€3.00', '$4.50'], 'EUR', [300, 450]],
    ['commission_cents', ['300', '450'], 'EUR', [300, 450]],
    ['Payout JPY', ['300', '1,450'], 'JPY', [300, 1450]],
  ])('%s says what its amounts are', (heading, cells, currency, amounts) => {
    const { profile } = guessReport(of(heading, cells), network, {}, now);
    const { rows, bad } = readReport(
      of(heading, cells),
      { ...profile, columns: { ...profile.columns, [heading]: 'amount' } },
      network,
    );
    expect(bad).toEqual([]);
    expect([rows[0]?.currency, rows.map(({ amount }) => amount)]).toEqual([currency, amounts]);
  });
});

describe('days written as numbers', () => {
  // 12 October 2026 by both ways of counting (ECMA-376 §18.17.4.1).
  it.each([
    ['46307', undefined, [], '2026-10-11T22:00:00.000Z'],
    ['44845', true, [], '2026-10-11T22:00:00.000Z'],
    ['44845', undefined, ['epoch'], '2022-10-10T22:00:00.000Z'],
  ] as const)('%s, said to be from 1904: %s', (cell, since1904, asks, expected) => {
    const of = table(
      'Order ID;Date;Commission',
      [`A1;${cell};3.00`, `A2;${cell}.5;1.25`],
      since1904 && { since1904 },
    );
    expect(read(of)).toMatchObject({ asks, times: [expected, expect.any(String)] });
  });
});

describe('days of which earlier reports counted from 1904', () => {
  it('are asked about where they would lie years ahead', () => {
    const of = (cell: string) => table('Order ID;Date;Commission', [`A1;${cell};3.00`, `A2;${cell}.5;1.25`]);
    const report = { ...guessReport(of('44845'), network, {}, now).profile, since1904: true };
    expect(guessReport(of('44845'), { ...network, report }, {}, now).asks).toEqual([]);
    expect(guessReport(of('46307'), { ...network, report }, {}, now).asks).toEqual(['epoch']);
  });
});

describe('an hour that comes twice', () => {
  // Clocks in Berlin go back from 3:00 to 2:00 on 25 October 2026 (IANA time zones).
  const times = (...clocks: readonly string[]) =>
    read(
      table(
        'Order ID;Date;Commission',
        clocks.map((clock, i) => `A${i};25.10.2026 ${clock};1,00`),
      ),
    );
  it('is told by the order of rows where a clock goes back among them', () => {
    const rising = times('01:30', '02:10', '02:50', '02:20', '03:10');
    expect([rising.times.map((time) => time.slice(11, 16)), rising.twiceHour]).toEqual([
      ['23:30', '00:10', '00:50', '01:20', '02:10'],
      0,
    ]);
    const falling = times('03:10', '02:20', '02:50', '01:30');
    expect([falling.times.map((time) => time.slice(11, 16)), falling.twiceHour]).toEqual([
      ['02:10', '01:20', '00:50', '23:30'],
      0,
    ]);
  });
  it('is the first, and said to be unsure, where nothing tells', () => {
    const found = times('01:30', '02:10', '03:10');
    expect([found.times[1], found.twiceHour]).toEqual(['2026-10-25T00:10:00.000Z', 1]);
    expect(times('02:10+01:00', '02:20+02:00').twiceHour).toBe(0);
  });
});

describe('a click ID inside a longer value', () => {
  const [one, two] = ['01M3SM4FM0F794THTRE9Z590YN', '01M3WM8N40Z3QTXXA32HEB4VJM'];
  it.each([
    ['letter|ID', (id: string) => `letter|${id}`, (id: string) => id],
    ['ID_label', (id: string) => `${id}_oct_a`, (id: string) => id],
    ['ID-2', (id: string) => `${id}-2`, (id: string) => id],
    [
      'a_b_ID, cut and small',
      (id: string) => `a_b_${id.slice(0, 20).toLowerCase()}`,
      (id: string) => id.slice(0, 20).toLowerCase(),
    ],
    ['ID alone', (id: string) => id, (id: string) => id],
    ['words', () => 'newsletter-october-2026', () => 'newsletter-october-2026'],
  ])('%s', (_name, write, expected) => {
    const of = table(
      'Order ID;SubID;Date;Commission',
      [one, two].map((id, i) => `A${i};${write(id)};13.10.2026;1,00`),
    );
    const { profile } = guessReport(of, network, {}, now);
    expect(readReport(of, profile, network).rows.map(({ click }) => click)).toEqual(
      [one, two].map((id) => expected(id)),
    );
  });
  it('is found in whatever column holds it, whatever that is called', () => {
    const of = table(
      'Order ID;SubID;Remark;Date;Commission',
      [one, two].map((id, i) => `A${i};letter;${id};13.10.2026;1,00`),
    );
    expect(guessReport(of, network, {}, now).profile.columns).toMatchObject({
      SubID: 'nothing',
      Remark: 'click',
    });
  });
});
