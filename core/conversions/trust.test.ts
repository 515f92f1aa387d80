import { describe, expect, it } from 'vitest';
import type { PostbackRecord } from '#core/visits';
import type { ConversionEvent } from './index.ts';
import { learnPostback, makeLedger, markOdd, readPostback, statusMeant } from './index.ts';
import { postbackRecord } from '../visits/testing/records.ts';

const at = Date.UTC(2026, 9, 5);
const click = '01M84BDPSKXE4HN0RD2V6W3PBC';
const plain = { fields: {}, statuses: {} };
const came = (seq: number, query: string, more: Partial<PostbackRecord> = {}): ConversionEvent =>
  readPostback(postbackRecord({ seq, at: at + seq, query, ...more }), plain, 'EUR').event;

describe('an amount without decimals', () => {
  const usual = [812, 860, 905, 870].map((cents, i) =>
    came(i + 1, `txn=u${i}&amount=${(cents / 100).toFixed(2)}&click=${click}`),
  );
  const oddOf = (query: string, others = usual) =>
    markOdd(makeLedger([...others, came(9, `txn=x&click=${click}&${query}`)])).find(({ txn }) => txn === 'x')
      ?.odd;

  it('is odd where a hundredth of it is usual', () => {
    expect(oddOf('amount=860')).toBe(860);
    expect(oddOf('amount=1400')).toBe(1400);
  });

  it.each([
    ['a point stands in it', 'amount=860.00'],
    ['it is usual as it is', 'amount=9'],
    ['its hundredth is not usual either', 'amount=90000'],
    ['its currency has no decimals', 'amount=860&currency=JPY'],
    ['another event is another matter', 'amount=860&event=yearly'],
  ])('is taken as it stands where %s', (_why, query) => expect(oddOf(query)).toBeUndefined());

  it('is taken as it stands where too few are known, or all come so', () => {
    expect(oddOf('amount=860', usual.slice(0, 2))).toBeUndefined();
    const whole = [810, 860, 905, 900].map((euros, i) => came(i + 1, `txn=u${i}&amount=${euros}`));
    expect(oddOf('amount=860', whole)).toBeUndefined();
  });
});

describe('a postback that is signed', () => {
  it('is read as far as the signature covers it', () => {
    const query = 'txn=1&amount=8.60&sig=ok';
    const body = 'amount=900.00&status=paid&click=x';
    const more = { via: 'POST' as const, body };
    expect(came(1, query, { ...more, signed: 'query' })).toMatchObject({
      amount: 860,
      status: 'pending',
      click: '',
    });
    expect(came(1, query, { ...more, signed: 'body' })).toMatchObject({
      txn: '',
      amount: 90_000,
      status: 'paid',
    });
    expect(came(1, query, { ...more, signed: 'both' })).toMatchObject({ txn: '1', amount: 860, click: 'x' });
  });
});

describe('a postback that is not verified', () => {
  const forged = came(3, 'txn=1&amount=900.00&status=paid', { unverified: 'pixel' });
  it('changes nothing of what the network said, in whatever order they came', () => {
    const real = came(1, 'txn=1&amount=8.60');
    for (const events of [
      [real, forged],
      [forged, real],
    ]) {
      const [only, ...rest] = makeLedger(events);
      expect(rest).toEqual([]);
      expect(only).toMatchObject({ amount: 860, status: 'pending' });
      expect(only?.unverified).toBeUndefined();
    }
  });
  it('stays unverified alone', () =>
    expect(makeLedger([forged])).toMatchObject([{ unverified: 'pixel', amount: 90_000 }]));
  it('is read under our own names where a page of the person’s sent it', () =>
    expect(
      readPostback(
        postbackRecord({ at, network: 'n', query: `click=${click}`, unverified: 'pixel' }),
        { fields: { click: 'ref1' }, statuses: {} },
        'EUR',
      ).event.click,
    ).toBe(click));
});

describe('an example of a postback', () => {
  const fields = (example: string) =>
    Object.fromEntries(learnPostback(example).map(({ name, field }) => [name, field]));
  it.each([
    [
      'https://me.example/in?subid={k1}&payout={payout}&tid={lead}&x=1',
      { subid: 'click', payout: 'amount', tid: 'txn', x: undefined },
    ],
    [
      'https://me.example/in?a=[[ref1]]&b=[[commission]]&c=[[order]]&d=[[state]]',
      { a: 'click', b: 'amount', c: 'txn', d: 'status' },
    ],
    ['a=%tag%&b=%reward%&c=%id%', { a: 'click', b: 'amount', c: 'txn' }],
    [
      `q=${click}&w=13.83&e=EUR&r=approved&t=2026-10-05T10:00:00Z&z=A-1`,
      { q: 'click', w: 'amount', e: 'currency', r: 'status', t: 'at', z: undefined },
    ],
    [
      `{"note":"${click.toLowerCase()}","order":"7","what":"sale"}`,
      { note: 'click', order: 'txn', what: 'event' },
    ],
    // What is something else of the kind is not taken for it, whichever comes first.
    [
      'a={sale_amount}&b={payout}&c={click_time}&d={ts}&e={offer_id}&f={order_id}&g={payout_currency}',
      { a: undefined, b: 'amount', c: undefined, d: 'at', e: undefined, f: 'txn', g: 'currency' },
    ],
    ['sale_amount=172.90&payout=13.83', { sale_amount: undefined, payout: 'amount' }],
    // Two that fit equally well are asked about.
    ['a=172.90&b=13.83', { a: undefined, b: undefined }],
    ['x={sub1}&y={sub2}', { x: undefined, y: undefined }],
    ['no postback at all', {}],
    ['{broken', {}],
  ])('%s', (example, wanted) => expect(fields(example)).toEqual(wanted));

  // Help pages as networks write them (common practice); the names are made up.
  it.each([
    [
      'a table of macros',
      'Macro\tDescription\n#s2#\tValue you passed in s2\n#sum#\tYour commission for the conversion\n#cur#\tThree-letter currency\n#ord#\tUnique ID of the order\n#geo#\tCountry',
      { click: '#s2#', amount: '#sum#', currency: '#cur#', txn: '#ord#' },
    ],
    [
      'an address within a help text',
      'Set your postback in Tools. Example: https://you.example/cb?cid=#s2#&payout={payout}&oid={order_id} (all are optional).',
      { click: '#s2#', amount: '{payout}', txn: '{order_id}' },
    ],
    [
      'a list with dashes',
      '{{transaction.id}} - transaction reference\n{{status}} - pending, approved or declined\n{{s2}} - sub ID 2\n{{revenue}} - amount',
      { click: '{{s2}}', amount: '{{revenue}}', txn: '{{transaction.id}}', status: '{{status}}' },
    ],
  ])('%s gives the placeholders', (_, text, wanted) => {
    const found = learnPostback(text, 's2').filter(({ field, placeholder }) => field && placeholder);
    expect(Object.fromEntries(found.map(({ field, value }) => [field, value]))).toEqual(wanted);
  });

  it('tells placeholders from values', () =>
    expect(learnPostback(`a={k1}&b=${click}&c=100%25`).map((pair) => pair.placeholder)).toEqual([
      true,
      false,
      false,
    ]));

  it('knows what words for a state usually mean', () =>
    expect(['Confirmed', 'VOID', 'on hold', 'settled', 'wobbly'].map(statusMeant)).toEqual([
      'approved',
      'reversed',
      'pending',
      'paid',
      undefined,
    ]));
});
