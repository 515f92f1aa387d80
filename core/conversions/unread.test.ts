import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { exponentOf, readReportAmount } from '#core/values';
import { amountChoices, readPostback } from './index.ts';
import { postbackRecord } from '../visits/testing/records.ts';

const plain = { fields: {}, statuses: {} };
const read = (
  fields: Record<string, string>,
  profile: Parameters<typeof readPostback>[1] = plain,
  currency = 'EUR',
) =>
  readPostback(
    postbackRecord({ query: new URLSearchParams({ click: 'A', txn: 'T', ...fields }).toString() }),
    profile,
    currency,
  );

describe('a postback that cannot be read surely', () => {
  it.each(['12,34', '€12.34', '1.234,56', '1,234.56', '12.34 EUR', 'twelve', '1.234', '{payout}', '12.34-5'])(
    'is asked about where its amount is %s',
    (amount) => {
      const { unread, event, raw } = read({ amount });
      expect([unread, event.amount, raw.amount]).toEqual([['amount'], null, amount]);
    },
  );

  it.each(['invoiced', 'closed', '1', 'true', '[status]', 'prüfend'])(
    'is asked about where its state is %s',
    (status) => expect(read({ status }).unread).toEqual(['status']),
  );

  it.each(['XQZ', 'EU', 'euro', '$', '978', '{currency}'])(
    'is asked about where its currency is %s',
    (currency) => expect(read({ currency }).unread).toEqual(['currency']),
  );

  it('is read where the words leave no doubt', () => {
    expect(read({ amount: '12.34', status: 'Bestätigt', currency: 'eur' })).toMatchObject({
      unread: [],
      event: { amount: 1234, status: 'approved', currency: 'EUR' },
    });
    expect(read({ amount: '12.34', currency: '€' }).event).toMatchObject({ amount: 1234, currency: 'EUR' });
    expect(read({ amount: '12.34', currency: '$' }, plain, 'CAD').event.currency).toBe('CAD');
    // What did not come at all is no riddle: the state is open, and the terms give the price.
    expect(read({})).toMatchObject({ unread: [], event: { amount: null, status: 'pending' } });
  });

  it('is read once the network’s way was taught', () => {
    const taught = {
      ...plain,
      decimal: ',',
      currencies: { euro: 'EUR' },
      statuses: { closed: 'approved' },
    } as const;
    expect(read({ amount: '1.234,56', currency: 'Euro', status: 'closed' }, taught)).toMatchObject({
      unread: [],
      event: { amount: 123_456, currency: 'EUR', status: 'approved' },
    });
    // A plain number stays what it is to everybody.
    expect(read({ amount: '12.34' }, taught).event.amount).toBe(1234);
    expect(read({ amount: '€12.34' }, { ...plain, decimal: '.' }).event.amount).toBe(1234);
    // One that mixes both ways needs no second teaching: what only the other sign can read leaves no choice.
    expect(read({ amount: '€12.34' }, taught).event.amount).toBe(1234);
    expect(read({ amount: '€1.234' }, taught).event.amount).toBe(123_400);
    // What neither way reads is asked about still.
    expect(read({ amount: '12.34.5' }, taught).unread).toEqual(['amount']);
  });

  it('is asked about where the amount names another currency than is said', () => {
    const taught = { ...plain, decimal: '.' } as const;
    expect(read({ amount: '€12.34', currency: 'USD' }, taught).unread).toEqual(['amount']);
    expect(read({ amount: '€12.34' }, taught, 'USD').event).toMatchObject({ amount: 1234, currency: 'EUR' });
    expect(read({ amount: '12.34 XQZ' }, taught).unread).toEqual(['amount']);
  });

  it('offers the readings there are', () => {
    const of = (text: string) =>
      amountChoices(text, 'EUR').map(({ decimal, amount }) => `${decimal} ${amount}`);
    expect(of('12,34')).toEqual([', 1234']);
    expect(of('1.234,56')).toEqual([', 123456']);
    expect(of('€12.34')).toEqual(['. 1234']);
    // One that has two readings is not decided by us.
    expect(of('1,234')).toEqual(['. 123400']);
    expect(amountChoices('1,234', 'KWD').map(({ amount }) => amount)).toEqual([1_234_000, 1234]);
    expect(of('twelve')).toEqual([]);
  });
});

// Other programs' output: what `Intl.NumberFormat` (CLDR, as Node carries it) writes in these locales.
const locales = [
  'en-US',
  'de-DE',
  'de-CH',
  'de-AT',
  'fr-FR',
  'fr-CH',
  'es-ES',
  'it-IT',
  'nl-NL',
  'pl-PL',
  'pt-BR',
  'sv-SE',
  'nb-NO',
  'da-DK',
  'fi-FI',
  'cs-CZ',
  'en-IN',
  'ja-JP',
  'hu-HU',
  'tr-TR',
];

describe('amounts as locales write them', () => {
  const drawn = fc.record({
    locale: fc.constantFrom(...locales),
    currency: fc.constantFrom('EUR', 'USD', 'JPY', 'KWD', 'CHF'),
    minor: fc.integer({ min: -99_999_999, max: 99_999_999 }),
    display: fc.constantFrom('symbol', 'code', 'narrowSymbol', 'none' as const),
    taught: fc.constantFrom('.' as const, ',' as const),
    useGrouping: fc.boolean(),
  });

  it('are read right or asked about, whatever way was taught', () => {
    let right = 0;
    fc.assert(
      fc.property(drawn, ({ locale, currency, minor, display, taught, useGrouping }) => {
        const places = exponentOf(currency);
        const options: Intl.NumberFormatOptions = {
          useGrouping,
          minimumFractionDigits: places,
          maximumFractionDigits: places,
          ...(display !== 'none' && { style: 'currency', currency, currencyDisplay: display }),
        };
        const format = new Intl.NumberFormat(locale, options);
        const text = format.format(minor / 10 ** places);
        const decimal = format.formatToParts(1.5).find(({ type }) => type === 'decimal')?.value;
        const found = read({ amount: text, currency }, { ...plain, decimal: taught }, 'EUR');
        if (found.unread.length > 0) return;
        // Three decimals look like thousands to whoever was taught the other sign: nobody can know.
        if (places === 3 && taught !== decimal) return;
        expect([text, found.event.amount]).toEqual([text, minor === 0 ? 0 : minor]);
        right += 1;
      }),
      { numRuns: 5000 },
    );
    expect(right).toBeGreaterThan(3000);
  });
});

describe('an amount in a report', () => {
  it.each([
    ['13.83', ','],
    ['12 34', '.'],
    ['1,23', '.'],
    ['12-34', '.'],
    ['12.-', '.'],
    ['1.234 567,5', '.'],
    ['12.3 4', '.'],
    ['.50', '.'],
  ] as const)('%s is not read with %s before its decimals', (text, decimal) =>
    expect(readReportAmount(text, decimal, 'EUR')).toBeUndefined(),
  );

  it.each([
    ['1 234,56', ',', 123_456],
    ['1\u202F234,56\u00A0€', ',', 123_456],
    ['1’234.56'.replace('’', "'"), '.', 123_456],
    ['12,34,567.80', '.', 123_456_780],
    ['(12.34)', '.', -1234],
    ['12.34-', '.', -1234],
    ['\u221212.34', '.', -1234],
    ['EUR 5', '.', 500],
  ] as const)('%s is read with %s before its decimals', (text, decimal, minor) =>
    expect(readReportAmount(text, decimal, 'EUR')).toBe(minor),
  );
});
