import { describe, expect, it } from 'vitest';
import type { Program } from '#core/catalogue';
import type { Conversion, Reported } from '#core/conversions';
import type { Outcome } from '#core/visits';
import { nameCauses, nameRepeats } from './causeStage.ts';
import { flagPairs } from './flagStage.ts';
import type { ReportMatch } from './join.ts';
import { lookupOf } from './lookup.ts';
import type { Clicks } from './matchStage.ts';
import { matchPairs } from './matchStage.ts';
import { priceSides } from './priceStage.ts';
import { makeUnits } from './units.ts';

const day = 86_400_000;
const noon = Date.UTC(2026, 9, 12, 12);
const ids = ['01M84BDPSKXE4HN0RD2V6W3PBC', '01M84BDPSKXE4HN0RD2V6W3PZZ'];
const outcomes: readonly Outcome[] = ['counted', 'bot'];

/** Two clicks on the eve: one of a person on the kit, one of a machine on the chart. */
const clicks: Clicks = {
  beginningWith: (text) => {
    const rows = ids.flatMap((id, row) => (text !== '' && id.startsWith(text.toUpperCase()) ? [row] : []));
    return { count: rows.length, row: (n) => rows[n] ?? -1 };
  },
  click: (row) => ids[row] ?? '',
  networkOf: () => 'net_h',
  isOf: () => true,
  covers: () => true,
  isRolledUp: () => false,
  at: () => noon - day,
  link: (row) => ['lnk_kit', 'lnk_chart'][row] ?? '',
  source: () => 'flyer',
  sourceOf: (name) => name,
  outcome: (row) => outcomes[row] ?? 'counted',
  programOf: (row) => ['prg_kit', 'prg_chart'][row] ?? '',
  between: () => [],
  someRolledUp: () => false,
};
const conversion = (more: Partial<Conversion> = {}): Conversion => ({
  id: 'sale',
  network: 'net_h',
  click: ids[0] ?? '',
  event: 'sale',
  txn: 'T1',
  currency: 'EUR',
  status: 'approved',
  amount: 1000,
  at: noon,
  steps: [],
  repeats: 0,
  whole: false,
  ...more,
});
const reported = (more: Partial<Reported> = {}): Reported => ({
  network: 'net_h',
  key: 'T1|sale',
  txn: 'T1',
  click: '',
  program: '',
  event: 'sale',
  status: 'approved',
  amount: 1000,
  currency: 'EUR',
  at: noon,
  reportedAt: noon + day,
  earlier: [],
  ...more,
});
const tiered: Program = {
  id: 'prg_kit',
  network: 'net_h',
  name: 'Kits',
  code: '71',
  hosts: [],
  state: 'joined',
  terms: [
    {
      from: '2026-01-01',
      event: '',
      kind: 'tiers',
      currency: 'EUR',
      steps: [
        { from: 1, amount: 500 },
        { from: 3, amount: 800 },
      ],
    },
  ],
};
const holding = [
  {
    id: 'lnk_kit',
    network: 'net_h',
    program: 'prg_kit',
    coupons: { codes: ['FERN10', 'BOTH'], source: 'letter' },
  },
  { id: 'lnk_chart', network: 'net_h', coupons: { codes: ['BOTH'], source: '' } },
];
const lookup = lookupOf(
  [],
  [tiered],
  [{ network: 'net_h', from: '2026-10-01', until: '2026-10-31' }],
  holding,
);
const none: ReadonlyMap<string, string> = new Map();
const matched = (pairs: readonly ReportMatch[], chosen = none) => matchPairs(pairs, clicks, lookup, chosen);

describe('the first stage, match', () => {
  it('takes the click a person chose, else that of the postback, else that of the row', () => {
    const pairs: ReportMatch[] = [
      { ours: conversion({ id: 'a' }) },
      { ours: conversion({ id: 'b', click: '' }), theirs: reported({ click: ids[1] ?? '' }) },
      { ours: conversion({ id: 'c' }) },
    ];
    const found = matched(pairs, new Map([['c', ids[1] ?? '']]));
    expect(found.map(({ match, link }) => [match.level, link])).toEqual([
      ['exact', 'lnk_kit'],
      ['row', 'lnk_chart'],
      ['chosen', 'lnk_chart'],
    ]);
  });

  it('ties one without a click to the only link that holds its coupon, never as exact', () => {
    const alone = (id: string, coupon: string, click = ''): ReportMatch => ({
      theirs: reported({ key: id, txn: id, click, coupon }),
    });
    const found = matched([
      alone('a', 'fern10 '),
      alone('b', 'BOTH'),
      alone('c', 'OTHER'),
      alone('d', 'FERN10', ids[1] ?? ''),
    ]);
    expect(found.map(({ match, link, source, program }) => [match.level, link, source, program])).toEqual([
      ['coupon', 'lnk_kit', 'letter', 'prg_kit'],
      ['unfilled', '', '', ''],
      ['unfilled', '', '', ''],
      ['exact', 'lnk_chart', 'flyer', 'prg_chart'],
    ]);
  });

  it('lets one without a click ID rest on the first of its transaction, and on no other', () => {
    const found = matched([
      { ours: conversion({ id: 'a' }) },
      { ours: conversion({ id: 'b', click: '', event: 'renewal' }) },
      { ours: conversion({ id: 'c', click: '', txn: 'T2' }) },
    ]);
    expect(found.map(({ match, first }) => [match.level, first?.row])).toEqual([
      ['exact', undefined],
      ['recurring', 0],
      ['unfilled', undefined],
    ]);
  });

  it('knows the program by the name or code in their report before that of the click', () => {
    const found = matched([
      { theirs: reported({ program: 'KITS', click: ids[1] ?? '' }) },
      { theirs: reported({ program: '71' }) },
      { theirs: reported({ program: 'nobody', click: ids[1] ?? '' }) },
    ]);
    expect(found.map(({ program }) => program)).toEqual(['prg_kit', 'prg_kit', 'prg_chart']);
  });
});

describe('the second stage, price', () => {
  const priced = (pairs: readonly ReportMatch[]) => priceSides(pairs, matched(pairs), lookup);

  it('gives what came without an amount the tier of its place in the month, reversed ones left out', () => {
    const sales = [0, 1, 2, 3].map((n): ReportMatch => ({
      ours: conversion({
        id: `s${n}`,
        txn: `T${n}`,
        amount: null,
        at: noon + n,
        status: n === 1 ? 'reversed' : 'pending',
      }),
    }));
    expect(priced(sales).map(({ ours }) => [ours?.amount, ours?.priced, ours?.counts])).toEqual([
      [500, true, true],
      [500, true, false],
      [500, true, true],
      [800, true, true],
    ]);
  });

  it('leaves an amount that came, and counts nothing that is not verified until a person says so', () => {
    const sides = priced([
      { ours: conversion({ amount: 123 }) },
      { ours: conversion({ id: 'b', unverified: 'sender' }) },
      { ours: conversion({ id: 'c', unverified: 'sender', trusted: true }) },
    ]);
    expect(sides.map(({ ours }) => [ours?.amount, ours?.counts])).toEqual([
      [123, true],
      [1000, false],
      [1000, true],
    ]);
  });
});

describe('the third stage, cause', () => {
  const causeOf = (pair: ReportMatch) => {
    const sides = priceSides([pair], matched([pair]), lookup);
    return nameCauses([pair], sides, lookup)[0];
  };

  it.each<[string | undefined, ReportMatch]>([
    [undefined, { ours: conversion(), theirs: reported() }],
    ['no postback', { theirs: reported() }],
    ['no postback', { ours: conversion({ unverified: 'sender' }), theirs: reported() }],
    ['not in report', { ours: conversion() }],
    ['not yet reported', { ours: conversion({ at: Date.UTC(2026, 10, 2) }) }],
    ['reversed', { ours: conversion(), theirs: reported({ status: 'reversed' }) }],
    ['currency', { ours: conversion(), theirs: reported({ currency: 'USD' }) }],
    ['another month', { ours: conversion(), theirs: reported({ at: Date.UTC(2026, 10, 1) }) }],
    ['amount', { ours: conversion(), theirs: reported({ amount: 900 }) }],
    ['below terms', { ours: conversion({ amount: null }), theirs: reported({ amount: 400 }) }],
    [
      undefined,
      { ours: conversion({ status: 'reversed' }), theirs: reported({ status: 'reversed', amount: 1 }) },
    ],
  ])('%s', (cause, pair) => expect(causeOf(pair)).toBe(cause));

  it('knows what fired twice: without a transaction, within the hour, of the same click and amount', () => {
    const twin = (more: Partial<Conversion>): ReportMatch => ({
      ours: conversion({ id: 'twin', txn: '', at: noon + 60_000, ...more }),
    });
    const causes = [{}, { at: noon + 2 * 3_600_000 }, { amount: 999 }, { click: ids[1] ?? '' }].map(
      (more) => {
        const units = makeUnits({
          pairs: [{ ours: conversion() }, twin(more)],
          clicks,
          networks: [],
          programs: [],
          covered: [],
          links: [],
          chosen: none,
          unread: [],
        });
        return nameRepeats(units).find(({ id }) => id === 'twin');
      },
    );
    expect(causes.map((unit) => [unit?.cause, unit?.repeats])).toEqual([
      ['sent twice', 'sale'],
      ['not yet reported', undefined],
      ['not yet reported', undefined],
      ['not yet reported', undefined],
    ]);
  });
});

describe('the last stage, flag', () => {
  const flagged = (...pairs: ReportMatch[]) => flagPairs(pairs, matched(pairs), clicks, lookup);

  it('says what is odd about the click', () => {
    expect(flagged({ ours: conversion({ at: noon - 2 * day }) })).toEqual([['before its click']]);
    expect(flagged({ ours: conversion({ at: noon + 40 * day }) })).toEqual([['outside the window']]);
    expect(flagged({ ours: conversion({ click: ids[1] ?? '' }) })).toEqual([['click of a bot']]);
    // Clocks may differ by two minutes, and a report may know the day alone.
    expect(flagged({ ours: conversion({ at: noon - day - 60_000 }) })).toEqual([[]]);
    expect(flagged({ theirs: reported({ click: ids[0] ?? '', at: noon - day - 3_600_000 }) })).toEqual([[]]);
  });

  it('marks a click that two programs claim, for both of them', () => {
    const both = flagged(
      { theirs: reported({ key: 'a', txn: 'A', program: 'Kits', click: ids[1] ?? '' }) },
      { theirs: reported({ key: 'b', txn: 'B', click: ids[1] ?? '' }) },
    );
    expect(both).toEqual([
      ['click of a bot', 'claimed twice'],
      ['click of a bot', 'claimed twice'],
    ]);
  });

  it('says nothing of a click that was not found', () =>
    expect(flagged({ ours: conversion({ click: 'nobody' }) })).toEqual([[]]));
});
