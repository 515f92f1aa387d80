import { Temporal } from 'temporal-polyfill';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { postbackRecord } from '../visits/testing/records.ts';
import { termsWords } from './claim.ts';
import type { ClaimEntry, ClaimSources, Side, Unit } from './index.ts';
import { claimedSums, claimLine, claimState, isoIn, readAnswers } from './index.ts';
import { noon, saleOf, sideOf } from './testing/books.ts';

const at = noon;

const unit = (ours: Side | undefined, theirs: Side | undefined): Unit => saleOf('HM-1', ours, theirs);
const sources: ClaimSources = {
  network: { zone: 'Europe/Berlin' },
  program: (id) =>
    id === 'prg_1'
      ? {
          id,
          network: 'net_h',
          name: 'Polehouse Optics',
          code: '4471',
          hosts: [],
          state: 'joined',
          terms: [{ kind: 'fixed', from: '2026-03-01', event: '', amount: 600, currency: 'EUR' }],
        }
      : undefined,
  postbacks: [postbackRecord({ seq: 9, at, query: 'click=01M&txn=HM-1', ip: '192.0.2.10' })],
  clickOf: () => ({ click: '01M84BDPSKXE4HN0RD2V6W3PBC', at: at - 60_000 }),
  linkOf: () => ({ address: 'see.nightledge.example/go/kit', account: 'nl-4471' }),
};
const one = {
  id: 'not in report|A',
  kind: 'not in report',
  because: 'The report does not have it.',
  at,
} as const;

describe('a line of a claim', () => {
  it('says who, what, when in their zone, by which link and account, and nothing of any visitor', () => {
    const line = claimLine(one, unit(sideOf(1000), undefined), sources);
    expect(line).toMatchObject({
      program: 'Polehouse Optics',
      programCode: '4471',
      account: 'nl-4471',
      txn: 'HM-1',
      at: '2026-10-12T12:00:00+02:00',
      clickedAt: '2026-10-12T11:59:00+02:00',
      link: 'see.nightledge.example/go/kit',
      heardAmount: 1000,
      ourState: 'approved',
      termsAmount: null,
      theirAmount: null,
      theirState: '',
      claimed: 1000,
      claimedCurrency: 'EUR',
      postbacks: [{ record: 9 }],
    });
    expect(JSON.stringify(line)).not.toContain('192.0.2.10');
    expect(Object.keys(line).filter((name) => /visitor|agent|country|ip|page/i.test(name))).toEqual([]);
  });

  it('does not say that an amount was heard which the terms make of a postback without one', () => {
    const line = claimLine(
      { ...one, kind: 'below terms' },
      unit(sideOf(600, { priced: true }), sideOf(450)),
      {
        ...sources,
        report: { file: 'october.csv', line: 17, at: Date.UTC(2026, 10, 2) },
      },
    );
    expect(line).toMatchObject({
      heardAmount: null,
      termsAmount: 600,
      terms: '6.00 EUR for each, from 2026-03-01 on',
      theirAmount: 450,
      claimed: 150,
      report: { file: 'october.csv', line: 17, broughtIn: '2026-11-02T01:00:00+01:00' },
    });
  });

  it.each([
    [sideOf(1000), sideOf(1000, { status: 'reversed', counts: false }), 1000],
    [sideOf(1000), sideOf(1200), null],
    [sideOf(1000), sideOf(1000, { currency: 'USD' }), null],
    [undefined, sideOf(-400), 400],
    [undefined, sideOf(400), null],
    [sideOf(1000, { counts: false, status: 'reversed' }), sideOf(400), null],
  ])('claims what is missing by our word, case %#', (ours, theirs, claimed) =>
    expect(claimLine(one, unit(ours, theirs), sources).claimed).toBe(claimed),
  );

  it('is told of a postback that could not be read, and of clicks that differ, too', () => {
    const unread = claimLine(
      { ...one, id: 'amount not read|9', kind: 'amount not read' },
      undefined,
      sources,
    );
    expect(unread).toMatchObject({
      asks: 'Say which amount is meant.',
      claimed: null,
      postbacks: [{ record: 9 }],
    });
    const clicks = { day: '2026-10-03', label: 'kit', ours: 100, theirs: 50 };
    const apart = claimLine({ ...one, id: 'clicks differ|x', kind: 'clicks differ', clicks }, undefined, {
      ...sources,
      postbacks: [],
    });
    expect(apart).toMatchObject({ at: '', clicks, asks: 'Say what you count as a click.' });
  });

  it('adds up by currency only', () =>
    expect(
      claimedSums([
        { claimed: 100, claimedCurrency: 'EUR' },
        { claimed: null, claimedCurrency: '' },
        { claimed: 7, claimedCurrency: 'JPY' },
        { claimed: 50, claimedCurrency: 'EUR' },
      ]),
    ).toEqual([
      { currency: 'EUR', minor: 150 },
      { currency: 'JPY', minor: 7 },
    ]));

  it('writes a moment in any zone as Temporal does', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...Intl.supportedValuesOf('timeZone')),
        fc.integer({ min: Date.UTC(2024, 0, 1), max: Date.UTC(2028, 0, 1) }),
        (zone, moment) => {
          const reference = Temporal.Instant.fromEpochMilliseconds(moment).toZonedDateTimeISO(zone);
          expect(isoIn(zone, moment)).toBe(
            `${reference.toPlainDateTime().toString({ smallestUnit: 'second', roundingMode: 'trunc' })}${reference.offset}`,
          );
        },
      ),
    ));

  it('puts terms into words', () => {
    const from = '2026-01-01';
    expect(termsWords({ kind: 'percent', from, event: 'sale', basisPoints: 850 })).toBe(
      '8.5 % of the order of “sale”, from 2026-01-01 on',
    );
    expect(
      termsWords({
        kind: 'tiers',
        from,
        event: '',
        currency: 'JPY',
        steps: [
          { from: 1, amount: 600 },
          { from: 11, amount: 700 },
        ],
      }),
    ).toBe('600 JPY from number 1 of a month, 700 JPY from number 11 of a month, from 2026-01-01 on');
  });
});

describe('how far a case has come on a claim', () => {
  const decision = { id: 'dec_1', case: 'x', kind: 'ask', reason: '', at } as const;
  it.each([
    [{ kind: 'not in report' } as const, 'to ask'],
    [{ kind: 'amount' } as const, undefined],
    [{ kind: 'amount', decision } as const, 'asked'],
    [{ kind: 'not in report', decision: { ...decision, kind: 'write off' } } as const, undefined],
    [
      { kind: 'amount', decision: { ...decision, answer: { kind: 'refused', reason: 'late', at } } } as const,
      'answered',
    ],
  ])('%o', (found, state) => expect(claimState(found)).toBe(state));
});

describe('their answer', () => {
  const entry = (ref: string, claimed: number | null): ClaimEntry => ({
    case: { id: `case ${ref}`, kind: 'not in report' },
    state: 'asked',
    line: { ...claimLine(one, unit(sideOf(claimed), undefined), sources), ref, claimed },
  });
  const entries = [entry('aa', 1000), entry('bb', 2000), entry('cc', 1500), entry('dd', null)];
  const header = ['claim', 'transaction', 'Your answer', 'amount you accept', 'your reason'];
  const read = (rows: readonly (readonly string[])[]) =>
    readAnswers({ header, rows, lines: rows.map((_, i) => i + 2) }, entries, at);

  it('is read from the rows that were sent, as spreadsheets write them', () => {
    const found = read([
      ['aa', 'HM-1', 'Accepted', '', ''],
      ['bb', 'HM-2', ' in part ', '12,50', 'one item came back'],
      ['cc', 'HM-3', '', '', 'no answer yet'],
      ['dd', 'HM-4', 'REJECTED', '', 'Not our customer'],
    ]);
    expect(found).toEqual({
      answers: [
        { case: 'case aa', answer: { kind: 'accepted', reason: '', at } },
        { case: 'case bb', answer: { kind: 'in part', amount: 1250, reason: 'one item came back', at } },
        { case: 'case dd', answer: { kind: 'refused', reason: 'Not our customer', at } },
      ],
      bad: [],
    });
  });
  it('is refused where it cannot be read surely, row by row', () => {
    const found = read([
      ['zz', '', 'accepted', '', ''],
      ['aa', '', 'maybe', '', ''],
      ['bb', '', 'in part', '20.00', ''],
      ['bb', '', 'in part', '', ''],
      ['dd', '', 'in part', '1.00', ''],
      ['cc', '', 'yes', '', ''],
    ]);
    expect(found?.answers.map(({ case: id }) => id)).toEqual(['case cc']);
    expect(found?.bad.map(({ line, problems }) => [line, problems[0]?.path])).toEqual([
      [2, 'claim'],
      [3, 'answer'],
      [4, 'amount'],
      [5, 'amount'],
      [6, 'amount'],
    ]);
  });
  it('is none in another file', () =>
    expect(readAnswers({ header: ['Order'], rows: [['1']], lines: [2] }, entries, at)).toBeUndefined());
});
