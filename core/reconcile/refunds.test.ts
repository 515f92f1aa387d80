import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Report, ReportRow } from '#core/catalogue';
import { compareRows, foldReports, goneRows } from '#core/conversions';
import type { PostbackRecord } from '#core/visits';
import { octoberReport as report, reportRow as row } from '../conversions/testing/rows.ts';
import { classified } from '../visits/testing/classified.ts';
import { postbackRecord } from '../visits/testing/records.ts';
import { balanceOf, reconcile } from './index.ts';
import { plainNetwork } from './testing/books.ts';

const network = plainNetwork('net_h');
const at = (day: string) => Date.parse(`${day}T12:00:00Z`);
const heard = (seq: number, txn: string, day: string, amount: string, status = 'approved'): PostbackRecord =>
  postbackRecord({
    seq,
    at: at(day),
    query: new URLSearchParams({ txn, amount, currency: 'EUR', status }).toString(),
  });

const reckoned = (reports: readonly Report[], postbacks: readonly PostbackRecord[] = []) => {
  const found = reconcile({
    ...classified(postbacks),
    networks: [network],
    programs: [],
    links: [],
    reports,
    decisions: [],
  });
  const month = (name: string) => {
    const { conversions, commission } = balanceOf(found.units, { network: 'net_h', month: name });
    const money = commission.get('EUR');
    return {
      count: [conversions.ours, conversions.theirs],
      ours: money?.ours ?? 0,
      theirs: money?.theirs ?? 0,
      pieces: Object.fromEntries((money?.pieces ?? []).map(({ cause, value }) => [cause, value])),
      unexplained: money?.unexplained ?? 0,
    };
  };
  return { ...found, month, kinds: found.cases.map(({ kind, worth }) => [kind, worth]) };
};

describe('a refund in a report', () => {
  const sale = row('A1', '2026-10-12', 2386);
  const postback = heard(1, 'A1', '2026-10-12', '23.86');

  it('counts in the month in which it arrives, beside its sale and not instead of it', () => {
    const back = row('A1', '2026-11-03', -300);
    const { month, kinds } = reckoned(
      [report(1, [sale]), report(2, [back], { from: '2026-11-01', until: '2026-11-30' })],
      [postback],
    );
    expect(month('2026-10')).toMatchObject({
      count: [1, 1],
      ours: 2386,
      theirs: 2386,
      pieces: {},
      unexplained: 0,
    });
    expect(month('2026-11')).toMatchObject({
      count: [0, 0],
      ours: 0,
      theirs: -300,
      pieces: { refund: -300 },
      unexplained: 0,
    });
    expect(kinds.filter(([kind]) => kind === 'refund')).toEqual([['refund', -300]]);
  });

  it('of a sale that is reversed takes nothing more', () => {
    const { month, kinds } = reckoned([
      report(1, [{ ...sale, status: 'reversed' }, row('A1', '2026-10-20', -2386)]),
    ]);
    expect(month('2026-10')).toMatchObject({ count: [0, 0], theirs: 0 });
    expect(kinds.map(([kind]) => kind)).not.toContain('refund');
  });

  it('that a postback told already is no case', () => {
    const { month, kinds } = reckoned(
      [report(1, [sale, row('A1', '2026-11-03', -2386)])],
      [postback, heard(2, 'A1', '2026-11-03', '23.86', 'reversed')],
    );
    expect(month('2026-10')).toMatchObject({
      ours: 0,
      theirs: 2386,
      pieces: { refund: 2386 },
      unexplained: 0,
    });
    expect(month('2026-11')).toMatchObject({ ours: 0, theirs: -2386, pieces: { refund: -2386 } });
    expect(kinds.map(([kind]) => kind)).not.toContain('reversed');
  });

  it('that is called reversed stands where its sale stands, so that it is taken off what is owed', () => {
    const states = (status: ReportRow['status']) =>
      reckoned([report(1, [{ ...sale, status }, row('A1', '2026-10-20', -300, { status: 'reversed' })])])
        .units.map(({ theirs }) => [theirs?.status, theirs?.counts, theirs?.amount])
        .toSorted();
    expect(states('paid')).toEqual([
      ['paid', true, -300],
      ['paid', true, 2386],
    ]);
    expect(states('pending')).toEqual([
      ['pending', true, -300],
      ['pending', true, 2386],
    ]);
    expect(states('reversed')).toEqual([
      ['reversed', false, -300],
      ['reversed', false, 2386],
    ]);
  });

  it('of a sale nobody knows is a case of its own', () => {
    const { cases, month } = reckoned([report(1, [row('Z9', '2026-10-20', -500)])]);
    expect(month('2026-10')).toMatchObject({ count: [0, 0], theirs: -500, unexplained: 0 });
    expect(cases.map(({ kind, because }) => [kind, because])).toEqual([
      ['refund', 'The report takes back money of a sale that no report lists.'],
    ]);
  });

  it('in the place of its sale, on the same day and reversed, is that sale', () => {
    const { month } = reckoned([
      report(1, [sale]),
      report(2, [row('A1', '2026-10-12', -2386, { status: 'reversed' })], { gone: ['A1|sale'] }),
    ]);
    expect(month('2026-10')).toMatchObject({ count: [0, 0], theirs: 0 });
  });
});

describe('a row that a newer report of the same days lists no longer', () => {
  const first = report(1, [row('A1', '2026-10-12', 2386), row('A2', '2026-10-13', 100)]);
  const second = report(2, [], { gone: ['A1|sale'] });
  const postback = heard(1, 'A1', '2026-10-12', '23.86');

  it('is theirs no more, with a cause and a case of its own', () => {
    const { month, kinds } = reckoned([first, second], [postback]);
    expect(month('2026-10')).toMatchObject({
      count: [1, 1],
      ours: 2386,
      theirs: 100,
      pieces: { 'no longer listed': -2386, 'no postback': 100 },
      unexplained: 0,
    });
    expect(kinds).toContainEqual(['no longer listed', -2386]);
  });

  it('is theirs again once it is listed again, even as it was', () => {
    const known = foldReports([first, second]);
    const again = compareRows(known, 'net_h', first.rows);
    expect([again.changed.map(({ txn }) => txn), again.same]).toEqual([['A1'], 1]);
    expect(reckoned([first, second, report(3, again.changed)]).month('2026-10').theirs).toBe(2486);
  });

  it('is found by what the newer one lists, in its days alone; what could not be read counts as listed', () => {
    const known = foldReports([
      report(1, [
        row('A1', '2026-10-12', 1),
        row('A2', '2026-10-13', 1),
        row('A3', '2026-10-14', 1),
        row('A4', '2026-11-02', 1),
      ]),
    ]);
    const isCovered = (moment: number) => moment < at('2026-11-01');
    expect(
      goneRows(known.values(), { keys: new Set(['A2|sale']), txns: new Set(['a3']) }, isCovered),
    ).toEqual(['A1|sale']);
  });

  it('of a report that lists only a part follows nothing', () => {
    const { month } = reckoned([report(1, [row('A2', '2026-10-13', 100)], { part: true })], [postback]);
    expect(month('2026-10')).toMatchObject({
      pieces: { 'not yet reported': -2386, 'no postback': 100 },
      unexplained: 0,
    });
  });
});

describe('their side of the balance', () => {
  /** Reports of one network, one after another: sales, refunds, states and rows that go. */
  const files = fc.array(
    fc.record({
      rows: fc.uniqueArray(
        fc.record({
          txn: fc.constantFrom('T1', 'T2', 'T3'),
          day: fc.constantFrom('2026-10-05', '2026-10-20', '2026-11-02'),
          amount: fc.constantFrom(1000, 750, -300, -1000),
          status: fc.constantFrom('pending' as const, 'approved' as const, 'reversed' as const),
        }),
        { maxLength: 5, selector: ({ txn, day, amount }) => (amount < 0 ? `${txn} ${day} ${amount}` : txn) },
      ),
      gone: fc.subarray(['T1|sale', 'T2|sale', 'T3|sale']),
    }),
    { minLength: 1, maxLength: 4 },
  );

  it('is what a plain reckoning of the rows comes to, in each month', () =>
    fc.assert(
      fc.property(files, (drawn) => {
        const reports = drawn.map(({ rows, gone }, n) =>
          report(
            n,
            rows.map(({ txn, day, amount, status }) => row(txn, day, amount, { status })),
            {
              gone: gone.filter(
                (key) => !rows.some(({ txn, amount }) => amount >= 0 && `${txn}|sale` === key),
              ),
            },
          ),
        );
        // The newest word on each sale, by hand.
        const sales = new Map<string, { row: ReportRow; listed: boolean }>();
        const refunds = new Map<string, ReportRow>();
        for (const { rows, gone = [] } of reports) {
          for (const one of rows) {
            if ((one.amount ?? 0) < 0) refunds.set(one.key, one);
            else sales.set(one.key, { row: one, listed: true });
          }
          for (const key of gone) {
            const sale = sales.get(key);
            if (sale) sales.set(key, { ...sale, listed: false });
          }
        }
        for (const name of ['2026-10', '2026-11']) {
          let sum = 0;
          const isIn = ({ at: moment }: ReportRow) => new Date(moment).toISOString().startsWith(name);
          for (const { row: sale, listed } of sales.values())
            if (listed && sale.status !== 'reversed' && isIn(sale)) sum += sale.amount ?? 0;
          for (const back of refunds.values()) {
            const sale = sales.get(`${back.txn}|sale`);
            if (sale?.row.status === 'reversed') continue;
            // One in the place of its sale is that sale reversed, and no other takes anything from it.
            const isReversed = [...refunds.values()].some(
              (other) =>
                other.txn === back.txn &&
                sale &&
                !sale.listed &&
                other.status === 'reversed' &&
                other.at === sale.row.at,
            );
            if (!isReversed && isIn(back)) sum += back.amount ?? 0;
          }
          const { units, month } = reckoned(reports);
          expect(month(name).theirs).toBe(sum);
          expect(month(name).unexplained).toBe(0);
          expect(balanceOf(units, { month: name }).conversions.theirs).toBe(
            [...sales.values()].filter(
              ({ row: sale, listed }) => listed && sale.status !== 'reversed' && isIn(sale),
            ).length,
          );
        }
      }),
      { numRuns: 500 },
    ));
});
