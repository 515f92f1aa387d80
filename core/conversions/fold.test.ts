import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Status } from '#core/catalogue';
import type { Conversion, ConversionEvent } from './index.ts';
import { makeLedger, readPostback } from './index.ts';
import { postbackRecord } from '../visits/testing/records.ts';

const start = Date.UTC(2026, 9, 5);
const hour = 3_600_000;
const day = 24 * hour;
const plain = { fields: {}, statuses: {} };
const click = '01M84BDPSKXE4HN0RD2V6W3PBC';

/** A postback that came so many milliseconds after the beginning. */
const came = (after: number, query: string): ConversionEvent =>
  readPostback(postbackRecord({ seq: 1 + after, at: start + after, query }), plain, 'EUR').event;
/** One of transaction T: state, amount, hours after the first. */
const said = (status: Status, amount: string, hours: number, more = ''): ConversionEvent =>
  came(hours * hour, `click=${click}&txn=T&status=${status}&amount=${amount}${more}`);

const folded = (how: 'replace' | 'add', ...events: ConversionEvent[]): Conversion[] =>
  makeLedger(events, () => ({ amounts: how }));
const worth = ([one, ...others]: Conversion[]) => {
  expect(others).toEqual([]);
  return [one?.amount, one?.status, one?.repeats, one?.doubt?.amount];
};

describe.each(['replace', 'add'] as const)('money taken back, where amounts %s', (how) => {
  it('leaves nothing of a sale that is taken back whole, whatever state is said beside it', () => {
    for (const state of ['pending', 'approved', 'paid', 'reversed'] as const)
      expect(worth(folded(how, said('approved', '12.34', 0), said(state, '-12.34', 30)))).toEqual([
        0,
        'reversed',
        0,
        undefined,
      ]);
  });

  it('leaves the rest of one that is taken back in part, in the state it had', () => {
    for (const state of ['pending', 'approved', 'reversed'] as const)
      expect(worth(folded(how, said('approved', '35.00', 0), said(state, '-5.00', 30)))).toEqual([
        3000,
        'approved',
        0,
        undefined,
      ]);
  });

  it('takes back once what is sent again: at the same time by its word, or within a minute', () => {
    const refund = said('approved', '-5.00', 30, `&at=2026-10-06T06:00:00Z`);
    const again = { ...refund, seq: 99, arrived: refund.arrived + 20 * hour };
    expect(worth(folded(how, said('approved', '35.00', 0), refund, again))).toEqual([
      3000,
      'approved',
      1,
      undefined,
    ]);
    const untimed = (after: number) => came(after, `click=${click}&txn=T&status=approved&amount=-5.00`);
    expect(worth(folded(how, said('approved', '35.00', 0), untimed(day), untimed(day + 40_000)))).toEqual([
      3000,
      'approved',
      1,
      undefined,
    ]);
  });

  it('asks about a second refund of the same amount at another time', () => {
    const [sale] = folded(
      how,
      said('approved', '35.00', 0),
      said('approved', '-5.00', 30),
      said('approved', '-5.00', 60),
    );
    expect(sale).toMatchObject({ amount: 3000, status: 'approved' });
    expect(sale?.doubt).toMatchObject({ amount: 2500, status: 'approved' });
    expect(sale?.doubt?.because).toContain('-5.00 EUR came again at another time');
    // Two of other amounts leave no doubt.
    expect(
      worth(
        folded(
          how,
          said('approved', '35.00', 0),
          said('approved', '-5.00', 30),
          said('approved', '-6.00', 60),
        ),
      ),
    ).toEqual([2400, 'approved', 0, undefined]);
  });

  it('asks about one that takes back more than there is', () => {
    const [sale] = folded(how, said('approved', '10.00', 0), said('approved', '-12.00', 30));
    expect(sale).toMatchObject({
      amount: -200,
      status: 'reversed',
      doubt: { amount: -200, status: 'approved' },
    });
  });

  it('asks about the whole amount that comes again after a part was taken back', () => {
    const [sale] = folded(
      how,
      said('approved', '35.00', 0),
      said('approved', '-5.00', 30),
      said('paid', '35.00', 60),
    );
    if (how === 'replace')
      expect(sale).toMatchObject({ amount: 3000, status: 'paid', doubt: { amount: 3500 } });
    // Where each amount speaks of itself, the sale moved on and its refund stays.
    else expect(worth(sale ? [sale] : [])).toEqual([3000, 'paid', 0, undefined]);
  });

  it('is one of its own where no sale came, and worth what it takes back in any state', () => {
    for (const state of ['approved', 'reversed'] as const)
      expect(folded(how, said(state, '-5.00', 0))[0]).toMatchObject({
        amount: -500,
        status: 'approved',
        refundOnly: true,
      });
  });

  it('is taken off a sale that is dated after it', () =>
    expect(worth(folded(how, said('approved', '-5.00', 0), said('approved', '35.00', 1)))).toEqual([
      3000,
      'approved',
      0,
      undefined,
    ]));

  it('of a sale without an amount is asked about', () => {
    const [sale] = folded(how, said('approved', '', 0), said('approved', '-5.00', 30));
    expect(sale).toMatchObject({
      amount: null,
      status: 'approved',
      doubt: { amount: 0, status: 'reversed' },
    });
  });

  it('in another currency than the sale is asked about, and changes nothing until then', () => {
    const [sale] = folded(how, said('approved', '35.00', 0), said('approved', '-5.00', 30, '&currency=USD'));
    expect(sale).toMatchObject({ amount: 3500, currency: 'EUR', status: 'approved' });
    expect(sale?.doubt?.because).toContain('-5.00 USD later');
  });
});

describe('amounts that are added', () => {
  it('are not added by a state that moves on', () => {
    expect(worth(folded('add', said('pending', '9.00', 0), said('approved', '9.00', 30)))).toEqual([
      900,
      'approved',
      0,
      undefined,
    ]);
    // Two items, open and then approved one by one, stay two.
    const items = [said('pending', '9.00', 0), said('pending', '9.00', 1)];
    const approved = [said('approved', '9.00', 30), said('approved', '9.00', 31)];
    expect(worth(folded('add', ...items, ...approved))).toEqual([1800, 'approved', 0, undefined]);
    // Or both at once, by their sum.
    expect(worth(folded('add', ...items, said('approved', '18.00', 30)))).toEqual([
      1800,
      'approved',
      0,
      undefined,
    ]);
  });

  it('lose what is reversed of them, and all where nothing is left', () => {
    const items = [said('pending', '9.00', 0), said('pending', '4.00', 1)];
    expect(worth(folded('add', ...items, said('reversed', '4.00', 30)))).toEqual([
      900,
      'pending',
      0,
      undefined,
    ]);
    expect(folded('add', ...items, said('reversed', '13.00', 30))[0]?.status).toBe('reversed');
    expect(folded('add', ...items, said('reversed', '', 30))[0]?.status).toBe('reversed');
    expect(folded('add', ...items, said('reversed', '5.00', 30))[0]?.doubt).toMatchObject({ amount: 800 });
  });
});

describe('events without a transaction', () => {
  const lead = (after: number, query: string) => came(after, `event=lead&${query}`);

  it('of one click and amount are one conversion within a day, and two orders of it two', () => {
    const by = (hours: number, query: string) => came(hours * hour, `click=${click}&${query}`);
    expect(folded('replace', by(0, 'amount=9.00'), by(20, 'amount=9.00&status=approved'))).toHaveLength(1);
    expect(folded('replace', by(0, 'amount=9.00'), by(24, 'amount=9.00'))).toHaveLength(2);
    expect(folded('replace', by(0, 'amount=9.00'), by(1, 'amount=4.00'))).toHaveLength(2);
  });

  it('of one click without an amount belong to the only one there is', () => {
    const by = (hours: number, query: string) => came(hours * hour, `click=${click}&${query}`);
    expect(folded('replace', by(0, 'amount=9.00'), by(20, 'status=approved'))).toMatchObject([
      { amount: 900, status: 'approved' },
    ]);
    expect(folded('replace', by(0, 'status=pending'), by(20, 'status=approved&amount=9.00'))).toMatchObject([
      { amount: 900, status: 'approved' },
    ]);
    // Of two it may be either.
    expect(
      folded('replace', by(0, 'amount=9.00'), by(1, 'amount=4.00'), by(2, 'status=approved')),
    ).toHaveLength(3);
  });

  it('that take back belong to the sale of that click that was worth as much, also weeks later', () => {
    const by = (hours: number, query: string) => came(hours * hour, `click=${click}&${query}`);
    expect(
      folded('replace', by(0, 'amount=9.00'), by(1, 'amount=4.00'), by(500, 'amount=-4.00')).map(
        ({ amount, status }) => [amount, status],
      ),
    ).toEqual([
      [900, 'pending'],
      [0, 'reversed'],
    ]);
    expect(
      folded('replace', by(0, 'amount=9.00'), by(1, 'amount=4.00'), by(500, 'amount=-3.00'))[2],
    ).toMatchObject({ refundOnly: true, amount: -300 });
  });

  it('and without a click are three customers, unless the same bytes come within a minute', () => {
    expect(
      folded('replace', lead(0, 'amount=6.00'), lead(hour, 'amount=6.00'), lead(2 * hour, 'amount=6.00')),
    ).toHaveLength(3);
    expect(folded('replace', lead(0, 'amount=6.00'), lead(59_000, 'amount=6.00'))).toHaveLength(1);
    expect(folded('replace', lead(0, 'amount=6.00'), lead(61_000, 'amount=6.00'))).toHaveLength(2);
    // Other bytes, which the profile gives no meaning to, are another customer.
    expect(folded('replace', lead(0, 'amount=6.00&n=1'), lead(1000, 'amount=6.00&n=2'))).toHaveLength(2);
    // The ID does not rest on which of them was taken first.
    const ids = folded('replace', lead(0, 'amount=6.00&n=1'), { ...lead(0, 'amount=6.00&n=2'), seq: 2 });
    expect(new Set(ids.map(({ id }) => id)).size).toBe(2);
  });
});

describe('transactions', () => {
  const of = (txn: string, after = 0) =>
    came(after, `click=${click}&amount=9.00&txn=${encodeURIComponent(txn)}`);

  it('are the same whatever their case and the spaces around them', () =>
    expect(folded('replace', of('ORD-1'), of(' ord-1 ', hour), of('Ord-1', 30 * hour))).toHaveLength(1));

  it('are two by their case where the network says so', () =>
    expect(
      makeLedger([of('aB1'), of('Ab1', hour)], () => ({ amounts: 'replace', caseMatters: true })),
    ).toHaveLength(2));
});

it('the ledger is the same in whatever order postbacks with refunds arrive', () => {
  const some = fc.record({
    txn: fc.constantFrom('', 'T1', 't1', 'T2'),
    click: fc.constantFrom('A', 'a', 'B', ''),
    at: fc.integer({ min: 0, max: 6 }).map((n) => n * (day / 2)),
    status: fc.constantFrom<Status>('pending', 'approved', 'paid', 'reversed'),
    amount: fc.constantFrom(null, 100, 200, -100, -50),
    currency: fc.constantFrom('EUR', 'EUR', 'USD'),
  });
  fc.assert(
    fc.property(
      fc.array(some, { maxLength: 10 }),
      fc.constantFrom<'replace' | 'add'>('replace', 'add'),
      fc.infiniteStream(fc.nat()),
      fc.boolean(),
      (list, amounts, keys, isRecurring) => {
        const plainly = (events: typeof list) =>
          makeLedger(
            events.map((e, i) => ({
              network: 'net_h',
              event: 'sale',
              whole: false,
              timed: true,
              ...e,
              seq: i + 1,
              arrived: i,
            })),
            () => ({ amounts, recurs: isRecurring ? ['sale'] : [] }),
          ).map(({ steps, ...rest }) => ({
            ...rest,
            steps: steps.map(({ status, amount, at, did }) => ({ status, amount, at, did })),
          }));
        const order = list.map((e) => ({ e, key: keys.next().value ?? 0 })).sort((a, b) => a.key - b.key);
        expect(plainly(order.map(({ e }) => e))).toEqual(plainly(list));
      },
    ),
    { numRuns: 5000 },
  );
});
