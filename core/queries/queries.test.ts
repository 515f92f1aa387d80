import { describe, expect, it } from 'vitest';
import type { HopRecord, JournalRecord } from '#core/visits';
import { answersFrom, Dataset } from './index.ts';
import { octoberReport, reportRow } from '../conversions/testing/rows.ts';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';

const click = '01M84BDPSKXE4HN0RD2V6W3PBC';
const now = Date.parse('2026-11-23T12:00:00Z');
const hop = (seq: number, more: Partial<HopRecord> = {}): HopRecord =>
  hopRecord({
    seq,
    at: now - 3600_000,
    click: `${click.slice(0, -2)}${String(seq).padStart(2, '0')}`,
    link: 'lnk_a',
    visitor: String(seq).padStart(16, '0'),
    ...more,
  });
const postback = (seq: number, query: string): JournalRecord => postbackRecord({ seq, at: now, query });

describe('questions of a dataset', () => {
  const journal = new Dataset();
  journal.setRecords({
    links: [
      {
        id: 'lnk_a',
        domain: 'dom_a',
        slug: 'moon-kit',
        network: 'net_h',
        program: undefined,
        destination: 'https://shop.example/',
      },
    ],
  });
  const ask = answersFrom(journal);
  journal.add([
    hop(1, { click }),
    hop(2, { test: true }),
    hop(3, { at: now - 40 * 86_400_000 }),
    postback(4, `click=${click}&txn=T1&amount=13.83&currency=EUR`),
    postback(5, `click=${click}&txn=T1&amount=13.83&currency=EUR&status=approved&at=2026-11-23T12:30:00Z`),
    postback(6, `click=${click}&txn=T2&amount=100&currency=JPY`),
    postback(7, 'click=nobody&txn=T3&amount=5'),
  ]);

  it('counts people within the days asked for, and joins conversions to their click', () =>
    expect(ask.figures(now, 30).get('lnk_a')).toMatchObject({
      // One is a test of one's own; what is older than the days asked for is left out.
      requests: 2,
      counted: 1,
      repeats: 0,
      bots: 0,
      conversions: 2,
      states: { pending: 1, approved: 1, paid: 0, reversed: 0 },
      commission: [
        { currency: 'EUR', minor: 1383 },
        { currency: 'JPY', minor: 100 },
      ],
    }));

  it('finds conversions by a part of their transaction, of their link’s path or ID, or of their click', () => {
    const found = (words: string) => {
      const { lines, total } = ask.ledger({}, words, 10);
      expect(lines).toHaveLength(total);
      return lines.map(({ unit }) => unit.conversion?.txn ?? '').sort();
    };
    expect(found('')).toEqual(['T1', 'T2', 'T3']);
    expect(found('t2')).toEqual(['T2']);
    expect(found(' Moon-K')).toEqual(['T1', 'T2']);
    expect(found('lnk_a')).toEqual(['T1', 'T2']);
    expect(found(click.slice(4))).toEqual(['T1', 'T2']);
    expect(found('sun')).toEqual([]);
  });

  it('tells the journey of a click from request to the last state', () => {
    const journey = ask.journey(click);
    expect(journey?.visit.outcome).toBe('counted');
    expect(journey?.conversions.map((m) => [m.conversion.txn, m.conversion.status])).toEqual([
      ['T1', 'approved'],
      ['T2', 'pending'],
    ]);
    expect(journey?.postbacks).toHaveLength(3);
    expect(ask.journey('nobody')).toBeUndefined();
    expect(ask.clickOfTransaction('T1')).toBe(click);
  });

  it('owes what reports approved, less what they took back, and nothing that they list no longer', () => {
    const reports = new Dataset();
    reports.setRecords({
      reports: [
        octoberReport(1, [
          reportRow('A1', '2026-10-05', 1000, { status: 'approved' }),
          reportRow('A1', '2026-10-09', -300, { status: 'reversed' }),
          reportRow('A2', '2026-10-06', 500, { status: 'pending' }),
          reportRow('A2', '2026-10-09', -500, { status: 'reversed' }),
          reportRow('A3', '2026-10-07', 250, { status: 'paid' }),
        ]),
        octoberReport(2, [], { gone: ['A3|sale'] }),
      ],
    });
    expect(answersFrom(reports).owed('net_h', '2026-11-23').months).toMatchObject([
      { month: '2026-10', currency: 'EUR', owed: 700 },
    ]);
  });

  it('passes over what it already holds', () => {
    journal.add([hop(1, { click })]);
    expect(ask.tape(50).map((event) => event.seq)).toEqual([7, 6, 5, 4, 3, 2, 1]);
  });

  it('has visitors to simulate others by where more than a few came', () => {
    const few = new Dataset();
    const answers = answersFrom(few);
    few.add(Array.from({ length: 29 }, (_, i) => hop(i + 1)));
    expect(answers.samples('lnk_a', 2000)).toEqual({ of: 'nobody', visitors: [] });
    few.add([hop(30, { link: 'lnk_b' })]);
    expect(answers.samples('lnk_a', 2000)).toMatchObject({ of: 'all', visitors: { length: 30 } });
    few.add([hop(31, { at: now, country: 'JP', visitor: '1'.padStart(16, '0') })]);
    const { of, visitors } = answers.samples('lnk_a', 2000);
    expect(of).toBe('link');
    expect(visitors).toHaveLength(30);
    // In the order in which they came; the last had been there before.
    expect(visitors.at(-1)).toMatchObject({ country: 'JP', returning: true });
  });
});
