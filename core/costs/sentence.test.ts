import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Cost } from '#core/catalogue';
import { checkRecord } from '#core/catalogue';
import { readCostSentence } from './index.ts';

const today = '2026-11-30';
const read = (text: string, more: object = {}) =>
  readCostSentence({
    text,
    sources: ['bought-oct-a', 'flyer', 'newsletter', 'saturn-kit', 'video-12'],
    links: [
      { id: 'lnk_saturn', slug: 'saturn-kit' },
      { id: 'lnk_lamp', slug: 'red-lamp' },
    ],
    ...{ currency: 'EUR', today, ...more },
  });
const costIn = (text: string, more: object = {}): object => {
  const found = read(text, more);
  if (!found.ok) throw new Error(`${text}: ${found.problem}`);
  // Whatever is read is a record that is taken.
  expect(checkRecord('cost', { id: 'cst_a', ...found.cost })).toMatchObject({ ok: true });
  return found.cost;
};
const source = (name: string) => ({ kind: 'source', source: name });

describe('a cost in a sentence', () => {
  it.each([
    [
      '€310 for bought-oct-a from 14 to 16 Oct',
      '310',
      'EUR',
      'all',
      source('bought-oct-a'),
      '2026-10-14',
      '2026-10-16',
    ],
    [
      '310 EUR for bought-oct-a, 14–16 October 2026',
      '310',
      'EUR',
      'all',
      source('bought-oct-a'),
      '2026-10-14',
      '2026-10-16',
    ],
    [
      'I paid 1,200.50 € for flyer on Oct 14th',
      '1200.50',
      'EUR',
      'all',
      source('flyer'),
      '2026-10-14',
      '2026-10-14',
    ],
    [
      '$0.045 a click for video-12 since 1 Oct',
      '0.045',
      'USD',
      'click',
      source('video-12'),
      '2026-10-01',
      undefined,
    ],
    [
      '0,045 EUR per click for video-12 since 2026-10-01',
      '0.045',
      'EUR',
      'click',
      source('video-12'),
      '2026-10-01',
      undefined,
    ],
    [
      '£3.50 per 1000 clicks for newsletter in October',
      '3.50',
      'GBP',
      'thousand',
      source('newsletter'),
      '2026-10-01',
      '2026-10-31',
    ],
    [
      '3.50 CPM for newsletter in February 2024',
      '3.50',
      'EUR',
      'thousand',
      source('newsletter'),
      '2024-02-01',
      '2024-02-29',
    ],
    [
      '5 a day for link saturn-kit from 28 Dec to 3 Jan',
      '5',
      'EUR',
      'day',
      { kind: 'link', link: 'lnk_saturn' },
      '2026-12-28',
      '2027-01-03',
    ],
    [
      '5 € daily for red-lamp from yesterday',
      '5',
      'EUR',
      'day',
      { kind: 'link', link: 'lnk_lamp' },
      '2026-11-29',
      undefined,
    ],
    [
      '30 % of the commission for source saturn-kit since 3 December 2025',
      '30',
      'EUR',
      'share',
      source('saturn-kit'),
      '2025-12-03',
      undefined,
    ],
    [
      '¥5000 for placement 206 of bought-oct-a on 5 Dec',
      '5000',
      'JPY',
      'all',
      { kind: 'placement', source: 'bought-oct-a', placement: '206' },
      '2026-12-05',
      '2026-12-05',
    ],
    ['€9 for source yet-to-come from today', '9', 'EUR', 'all', source('yet-to-come'), today, undefined],
    [
      "CHF 1'250 for Newsletter from 30 Sept until 2 Oct 2025",
      '1250',
      'CHF',
      'all',
      source('newsletter'),
      '2025-09-30',
      '2025-10-02',
    ],
    [
      '€12 for flyer from 1. Oktober to 3. März',
      '12',
      'EUR',
      'all',
      source('flyer'),
      '2026-10-01',
      '2027-03-03',
    ],
  ])('is read: %s', (text, amount, currency, per, of, from, until) => {
    expect(costIn(text)).toEqual({
      of,
      per,
      amount,
      currency,
      from,
      ...(until !== undefined && { until }),
      note: '',
    });
  });

  it('has its note behind a colon, and who bills what', () => {
    expect(
      costIn('€0.05 a click for flyer since 1 Oct, all clicks billed: the printer’s offer: second round'),
    ).toMatchObject({
      per: 'click',
      billsAll: true,
      note: 'the printer’s offer: second round',
    });
    expect(costIn('$5 for flyer on 1 Oct', { currency: 'CAD' })).toMatchObject({ currency: 'CAD' });
  });

  it.each([
    ['for flyer from 14 to 16 Oct', /^How much was it\?/],
    ['€310 from 14 to 16 Oct', /^What was it for\?/],
    ['€310 for flyer', /^Which days was it for\?/],
    ['-€310 for flyer on 14 Oct', /is below nothing/],
    ['€-310 for flyer on 14 Oct', /is below nothing/],
    ['€0 for flyer on 14 Oct', /is no amount/],
    ['€1,200 for flyer on 14 Oct', /^Is 1,200 the number 1200, or a little more than 1\?/],
    ['€310 for flier on 14 Oct', /^No source and no link is called flier\./],
    ['€310 for saturn-kit on 14 Oct', /is a source and a link/],
    ['€310 for link nowhere on 14 Oct', /^No link is called nowhere\./],
    ['€310 for flyer on 31 Feb', /^There is no day 31 Feb/],
    ['€310 for flyer on 14 Octember', /^There is no day/],
    ['€310 for flyer on 4/5', /may be two different days/],
    ['€310 for flyer on 04.05.2026', /may be two different days/],
    ['€310 for flyer from 16 Oct 2026 to 14 Oct 2026', /before/],
    ['€5 a click a day for flyer on 14 Oct', /^Is it by click or by day\?/],
    ['€5 % for flyer a day on 14 Oct', /^A share is of the commission/],
    ['120 % of commission for flyer on 14 Oct', /at most 100/],
    ['€5 for flyer on 14 Oct all clicks billed', /by click or thousand only/],
    ['310 XYZ for flyer on 14 Oct', /XYZ is no currency/],
    ['€310 and €20 for flyer on 14 Oct', /"€20" is not understood/],
    ['€310 for flyer on 14 Oct, half of it later', /is not understood/],
    ['', /^Which days/],
  ])('is asked about where it is not sure: %s', (text, words) => {
    expect(read(text)).toEqual({ ok: false, problem: expect.stringMatching(words) });
  });

  it('is read the same in every way of writing it', () => {
    const pad = (n: number) => String(n).padStart(2, '0');
    const names = [
      'January',
      'February',
      'March',
      'April',
      'May',
      'June',
      'July',
      'August',
      'September',
      'October',
      'November',
      'December',
    ];
    const day = fc.record({
      y: fc.integer({ min: 2024, max: 2027 }),
      m: fc.integer({ min: 1, max: 12 }),
      d: fc.integer({ min: 1, max: 28 }),
    });
    const writeDay = ({ y, m, d }: { y: number; m: number; d: number }, form: number): string => {
      const name = names[m - 1] ?? '';
      return (
        [
          `${y}-${pad(m)}-${pad(d)}`,
          `${d} ${name} ${y}`,
          `${d}. ${name.slice(0, 3)} ${y}`,
          `${name} ${d}, ${y}`,
          `${name.slice(0, 3)} ${d} ${y}`,
        ][form] ?? ''
      );
    };
    fc.assert(
      fc.property(
        fc.constantFrom('310', '0.045', '12.5', '99.99', '1234567.89'),
        fc.constantFrom('EUR', 'USD', 'JPY'),
        fc.nat(3),
        fc.constantFrom('all', 'click', 'thousand', 'day'),
        fc.nat(2),
        day,
        fc.option(fc.nat(400)),
        fc.nat(4),
        fc.nat(4),
        fc.boolean(),
        (amount, currency, money, per, basis, first, length, form, other, ends) => {
          const from = `${first.y}-${pad(first.m)}-${pad(first.d)}`;
          const untilDate = new Date(Date.parse(from) + (length ?? 0) * 86_400_000);
          const last = {
            y: untilDate.getUTCFullYear(),
            m: untilDate.getUTCMonth() + 1,
            d: untilDate.getUTCDate(),
          };
          const sign = { EUR: '€', USD: 'US$', JPY: '¥' }[currency];
          const sum =
            [`${sign}${amount}`, `${amount} ${currency}`, `${currency} ${amount}`, `${amount} ${sign}`][
              money
            ] ?? '';
          const by =
            {
              all: ['', ' in all', ''],
              click: [' a click', '/click', ' per click'],
              thousand: [' per thousand', ' a thousand clicks', ' per 1,000'],
              day: [' a day', ' daily', ' per day'],
            }[per]?.[basis] ?? '';
          const when =
            length === null
              ? `since ${writeDay(first, form)}`
              : `from ${writeDay(first, form)} to ${writeDay(last, other)}`;
          const text = ends ? `${sum}${by} for flyer ${when}` : `${when} we paid ${sum}${by} for flyer`;
          const expected: Omit<Cost, 'id'> = {
            of: { kind: 'source', source: 'flyer' },
            ...{ per: per as Cost['per'], amount, currency, from, note: '' },
            ...(length !== null && { until: untilDate.toISOString().slice(0, 10) }),
          };
          expect([text, costIn(text)]).toEqual([text, expected]);
        },
      ),
      { numRuns: 2000 },
    );
  });
});

describe('a cost of a promotion in a sentence', () => {
  const promotions = [
    { id: 'prm_oct', name: 'October mailing', from: '2026-10-10', until: '2026-10-20' },
    { id: 'prm_day', name: '14 Oct (club) *', from: '2026-10-14' },
    { id: 'prm_long', name: 'October mailing, again', from: '2026-11-01' },
  ];
  it('goes by its name, whatever stands in it, and is for its own days where none are named', () => {
    const of = (id: string) => ({ kind: 'promotion', promotion: id });
    expect(costIn('€310 for promotion October mailing', { promotions })).toMatchObject({
      ...{ of: of('prm_oct'), per: 'all', amount: '310', from: '2026-10-10', until: '2026-10-20' },
    });
    expect(costIn('in October 20 EUR a day for the promotion october MAILING', { promotions })).toMatchObject(
      {
        ...{ of: of('prm_oct'), per: 'day', from: '2026-10-01', until: '2026-10-31' },
      },
    );
    expect(costIn('€5 for promotion October mailing, again on 3 Nov', { promotions })).toMatchObject({
      ...{ of: of('prm_long'), from: '2026-11-03', until: '2026-11-03' },
    });
    const open = costIn('0.05 € a click for promotion 14 Oct (club) *: the flyer', { promotions });
    expect(open).toMatchObject({ of: of('prm_day'), per: 'click', from: '2026-10-14', note: 'the flyer' });
    expect(open).not.toHaveProperty('until');
  });

  it('is asked about where no promotion is called so, or two are', () => {
    expect(read('€310 for promotion September', { promotions })).toEqual({
      ok: false,
      problem:
        'No promotion is called so. There are: October mailing, 14 Oct (club) *, October mailing, again.',
    });
    expect(read('€310 for promotion September')).toEqual({
      ok: false,
      problem: 'There is no promotion yet. Make one first, or write for source or for link.',
    });
    const twice = [...promotions, { id: 'prm_b', name: 'october mailing', from: '2026-11-01' }];
    expect(read('€310 for promotion October mailing', { promotions: twice })).toEqual({
      ok: false,
      problem: 'Two promotions are called October mailing. Rename one of them.',
    });
  });
});
