import { codes, code as currencyCode } from 'currency-codes';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Status } from '#core/catalogue';
import type { PostbackRecord } from '#core/visits';
import { exponentOf, readAmount, writeAmount } from '#core/values';
import type { ConversionEvent } from './index.ts';
import { makeLedger, readPostback } from './index.ts';
import { postbackRecord } from '../visits/testing/records.ts';

describe('money', () => {
  // The `currency-codes` package carries the list of ISO 4217. Codes that have no minor unit are left out.
  it('knows the decimals of every currency of ISO 4217', () => {
    const money = codes().filter(
      (code) => !code.startsWith('X') || ['XAF', 'XOF', 'XPF', 'XCD'].includes(code),
    );
    expect(money.length).toBeGreaterThan(150);
    for (const code of money) expect([code, exponentOf(code)]).toEqual([code, currencyCode(code)?.digits]);
  });

  it.each([
    ['13.83', 'EUR', 1383],
    ['13.8', 'EUR', 1380],
    ['13.8300', 'EUR', 1383],
    ['1383', 'JPY', 1383],
    ['1383.00', 'JPY', 1383],
    ['1.234', 'KWD', 1234],
    ['-0.05', 'USD', -5],
    ['-0', 'USD', 0],
  ])('%s %s is %i', (text, currency, minor) =>
    expect(readAmount(text, currency)).toEqual({ ok: true, value: minor }),
  );

  it.each([
    ['13,83', 'EUR'],
    ['1.5', 'JPY'],
    ['0.005', 'EUR'],
    ['€13', 'EUR'],
    ['1e3', 'EUR'],
    ['', 'EUR'],
    ['999999999999999.99', 'EUR'],
  ])('%s %s is no amount, and says so', (text, currency) =>
    expect(readAmount(text, currency).ok).toBe(false),
  );

  it('is read as it was written, to the last unit', () =>
    fc.assert(
      fc.property(fc.maxSafeInteger(), fc.constantFrom('EUR', 'JPY', 'KWD', 'CLF'), (minor, currency) => {
        fc.pre(Math.abs(minor) < 1e14);
        expect(readAmount(writeAmount(minor, currency), currency)).toEqual({
          ok: true,
          value: minor === 0 ? 0 : minor,
        });
      }),
    ));
});

const profile = { fields: {}, statuses: { confirmed: 'approved', cancelled: 'reversed' } } as const;
const arrived = Date.parse('2026-11-02T10:00:00Z');
const came = (query: string, more: Partial<PostbackRecord> = {}): PostbackRecord =>
  postbackRecord({ seq: 7, at: arrived, query, ...more });

describe('reading a postback', () => {
  it('maps the network’s words', () => {
    const { event, problems } = readPostback(
      came(
        'click=01M84BDPSKXE4HN0RD2V6W3PBC&status=Confirmed&amount=13.83&txn=HM-1&at=2026-11-01T12:00:00%2B01:00',
      ),
      profile,
      'EUR',
    );
    expect(problems).toEqual([]);
    expect(event).toMatchObject({
      click: '01M84BDPSKXE4HN0RD2V6W3PBC',
      event: 'sale',
      status: 'approved',
      amount: 1383,
      currency: 'EUR',
      txn: 'HM-1',
      at: Date.parse('2026-11-01T11:00:00Z'),
      arrived,
    });
  });

  it('takes fields under the network’s names', () =>
    expect(
      readPostback(
        came('sub=ABC&payout=2'),
        { ...profile, fields: { click: 'sub', amount: 'payout' } },
        'EUR',
      ).event,
    ).toMatchObject({ click: 'ABC', amount: 200 }));

  it.each([
    ['application/x-www-form-urlencoded', 'click=ABC&amount=5'],
    ['application/json; charset=utf-8', '{"click":"ABC","amount":5,"__proto__":{"status":"paid"}}'],
  ])('reads a POST of %s', (type, body) =>
    expect(readPostback(came('', { via: 'POST', body, type }), profile, 'EUR').event).toMatchObject({
      click: 'ABC',
      amount: 500,
      status: 'pending',
    }),
  );

  it.each([
    ['click={click}', 'click', 'did not replace'],
    ['click=[[ref1]]', 'click', 'did not replace'],
    ['click=%25sub1%25', 'click', 'did not replace'],
    ['amount=12,50&click=A', 'amount', 'is no amount'],
    ['status=Wobbly&click=A', 'status', 'Say what it means'],
    ['at=03/04/2026&click=A', 'at', 'time of arrival'],
    ['status=constructor&click=A', 'status', 'Say what it means'],
    ['', 'click', 'No click ID'],
  ])('%s: says what is wrong with %s and keeps the rest', (query, path, message) => {
    const { problems, event } = readPostback(came(query), profile, 'EUR');
    expect(problems.find((p) => p.path === path)?.message).toContain(message);
    expect(event.seq).toBe(7);
  });

  it('keeps a placeholder that came instead of a click ID, and takes it for none', () => {
    const { event } = readPostback(came('click=[[ref1]]&amount=5'), profile, 'EUR');
    expect([event.click, event.unfilled]).toEqual(['', '[[ref1]]']);
    expect(readPostback(came('amount=5'), profile, 'EUR').event).not.toHaveProperty('unfilled');
  });

  it('tells transactions apart that came percent-encoded in Latin-1', () => {
    const txn = (query: string) => readPostback(came(query), profile, 'EUR').event.txn;
    expect(txn('txn=caf%E9-1&click=A')).toBe('café-1');
    expect(txn('txn=caf%E8-1&click=A')).toBe('cafè-1');
    expect(txn('txn=caf%C3%A9-1&click=A')).toBe('café-1');
  });

  it('survives a body that is not what it says', () =>
    expect(
      readPostback(came('click=A', { via: 'POST', type: 'application/json', body: '{' }), profile, 'EUR')
        .event.click,
    ).toBe('A'));
});

const day = 86_400_000;
const event = (more: Partial<ConversionEvent>): ConversionEvent => ({
  network: 'net_h',
  click: 'A',
  event: 'sale',
  status: 'pending',
  whole: false,
  amount: 1000,
  currency: 'EUR',
  txn: 'T1',
  at: 0,
  timed: true,
  arrived: 0,
  seq: 1,
  ...more,
});

describe('the ledger', () => {
  it('follows a sale from pending to paid in one line', () => {
    const [sale, ...others] = makeLedger([
      event({ at: 0 }),
      event({ at: day, status: 'approved', seq: 2 }),
      event({ at: 2 * day, status: 'paid', seq: 3 }),
    ]);
    expect(others).toEqual([]);
    expect(sale).toMatchObject({ status: 'paid', amount: 1000, repeats: 0 });
    expect(sale?.steps.map((step) => step.did)).toEqual(['first', 'state', 'state']);
  });

  it('remembers the placeholder that came until a click ID does', () => {
    const unfilled = event({ click: '', unfilled: '{k1}' });
    expect(makeLedger([unfilled, event({ click: '', at: day, seq: 2 })])[0]?.unfilled).toBe('{k1}');
    const [found] = makeLedger([unfilled, event({ click: 'A', at: day, seq: 2 })]);
    expect(found?.click).toBe('A');
    expect(found).not.toHaveProperty('unfilled');
  });

  it('folds a postback that came twice', () => {
    const [sale] = makeLedger([event({}), event({ seq: 2, arrived: 5 })]);
    expect(sale).toMatchObject({ amount: 1000, repeats: 1 });
  });

  it('takes a new amount as an adjustment, or adds it where the network does so', () => {
    const events = [event({}), event({ at: day, amount: 800, seq: 2 })];
    expect(makeLedger(events)[0]).toMatchObject({ amount: 800 });
    expect(makeLedger(events, () => ({ amounts: 'add' }))[0]).toMatchObject({ amount: 1800 });
    expect(
      makeLedger([...events, event({ at: day, amount: 800, seq: 3 })], () => ({ amounts: 'add' }))[0],
    ).toMatchObject({
      amount: 1800,
    });
  });

  it('understands that a reversal was undone', () =>
    expect(
      makeLedger([
        event({ at: 2 * day, status: 'approved' }),
        event({ at: day, status: 'reversed' }),
        event({}),
      ])[0]?.status,
    ).toBe('approved'));

  it('keeps events of one transaction apart by kind', () =>
    expect(makeLedger([event({ event: 'lead' }), event({ event: 'sale' })])).toHaveLength(2));

  it('chains events without a transaction while less than a day lies between them', () => {
    const at = (hours: number) => event({ txn: '', at: hours * 3600_000 });
    expect(makeLedger([at(0), at(20), at(40)])).toHaveLength(1);
    expect(makeLedger([at(0), at(24)])).toHaveLength(2);
  });

  it('takes each renewal under one transaction for a conversion of its own, and moves on the last', () => {
    const renewal = (days: number, status: Status, seq: number) =>
      event({ event: 'renewal', txn: 'SUB-1', click: '', at: days * day, status, seq });
    const events = [
      renewal(0, 'pending', 1),
      renewal(0, 'pending', 2),
      renewal(14, 'approved', 3),
      renewal(30, 'pending', 4),
      renewal(44, 'reversed', 5),
      renewal(60, 'pending', 6),
    ];
    const ledger = makeLedger(events, () => ({ amounts: 'replace', recurs: ['renewal'] }));
    expect(ledger.map(({ at, status, repeats }) => [at / day, status, repeats])).toEqual([
      [0, 'approved', 1],
      [30, 'reversed', 0],
      [60, 'pending', 0],
    ]);
    // What does not recur is one sale whose state moves.
    expect(makeLedger(events)).toHaveLength(1);
  });

  it('never mixes currencies into one amount', () =>
    expect(
      makeLedger([event({}), event({ at: 1, currency: 'USD', amount: 5 })], () => ({ amounts: 'add' }))[0],
    ).toMatchObject({
      amount: 1000,
      currency: 'EUR',
    }));

  it('comes out the same in whatever order the postbacks arrive', () => {
    const some = fc.record({
      txn: fc.constantFrom('', 'T1', 'T2'),
      click: fc.constantFrom('A', 'a', 'B', ''),
      at: fc.integer({ min: 0, max: 4 }).map((n) => n * (day / 2)),
      status: fc.constantFrom<Status>('pending', 'approved', 'paid', 'reversed'),
      amount: fc.constantFrom(null, 100, 200),
      currency: fc.constantFrom('EUR', 'USD'),
    });
    fc.assert(
      fc.property(
        fc.array(some, { maxLength: 12 }),
        fc.constantFrom<'replace' | 'add'>('replace', 'add'),
        fc.infiniteStream(fc.nat()),
        fc.boolean(),
        (list, amounts, keys, recurring) => {
          // Arrival order decides only `seq` and `arrived`, so those are left out of the comparison.
          const plain = (events: ConversionEvent[]) =>
            makeLedger(
              events.map((e, i) => ({ ...e, seq: i + 1, arrived: i })),
              () => ({ amounts, recurs: recurring ? ['sale'] : [] }),
            ).map(({ steps, ...rest }) => ({
              ...rest,
              steps: steps.map(({ status, amount, at, did }) => ({ status, amount, at, did })),
            }));
          const events = list.map((e) => event(e));
          const order = events.map((e) => ({ e, key: keys.next().value ?? 0 })).sort((a, b) => a.key - b.key);
          expect(plain(order.map(({ e }) => e))).toEqual(plain(events));
        },
      ),
    );
  });
});
