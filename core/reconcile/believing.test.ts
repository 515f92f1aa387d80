import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Decision, Report } from '#core/catalogue';
import { clickId } from '#core/hop';
import type { JournalRecord } from '#core/visits';
import { octoberReport, reportRow } from '../conversions/testing/rows.ts';
import { classified } from '../visits/testing/classified.ts';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import type { ReconcileInput } from './index.ts';
import { matchAll, reconcile, rematch, settle } from './index.ts';
import { plainNetwork, tieredProgram } from './testing/books.ts';

const network = plainNetwork('net_h', { statuses: {} });
// What it pays for one depends on how many count before it.
const program = tieredProgram('net_h', 3);
const noon = Date.parse('2026-10-12T12:00:00Z');
const hour = 3_600_000;

/** A sale, and in what way a person has a say in it. */
const sales = fc.array(
  fc.record({
    txn: fc.constantFrom('', 'A', 'a ', 'B', 'C', 'D', 'E', 'F'),
    click: fc.constantFrom(0, 0, 1, 2, 3, 4, 5, 5),
    amount: fc.constantFrom('', '9.00', '860', '8.60', '12,34'),
    how: fc.constantFrom('plain', 'sender', 'signature', 'refunded twice', 'foreign' as const),
    reported: fc.constantFrom(undefined, 860, 900),
    rowHasTxn: fc.boolean(),
  }),
  { minLength: 1, maxLength: 12 },
);

const booksOf = (list: typeof sales extends fc.Arbitrary<infer T> ? T : never): ReconcileInput => {
  const ids = Array.from({ length: 6 }, (_, i) => clickId(noon - hour + i, new Uint8Array(10).fill(i)));
  // The record of the last click is missing, so nothing but the ID ties what carries it.
  const journal: JournalRecord[] = ids
    .slice(0, -1)
    .map((click, i) => hopRecord({ seq: i + 1, at: noon - hour + i, click, visitor: String(i).repeat(16) }));
  const put = (fields: Record<string, string>, more: object = {}) =>
    journal.push(
      postbackRecord({
        seq: journal.length + 1,
        at: noon + journal.length * hour,
        query: new URLSearchParams(fields).toString(),
        ...more,
      }),
    );
  const rows: Report['rows'] = [];
  for (const [i, { txn, click, amount, how, reported, rowHasTxn }] of list.entries()) {
    const own = { click: ids[click] ?? '', txn, amount };
    put(own, how === 'sender' || how === 'signature' ? { unverified: how } : {});
    if (how === 'refunded twice') for (const _ of [1, 2]) put({ ...own, amount: '-1.00' });
    if (how === 'foreign') put({ ...own, amount: '7.00', currency: 'USD' });
    const name = rowHasTxn ? txn.trim() : '';
    if (reported !== undefined && !rows.some((row) => name !== '' && row.txn === name))
      rows.push(reportRow(name, '2026-10-12', reported, { key: `row ${i}`, click: own.click }));
  }
  return {
    ...classified(journal),
    networks: [network],
    programs: [program],
    links: [{ id: 'lnk_kit', network: 'net_h', program: 'prg_1' }],
    reports: [octoberReport(1, rows)],
    decisions: [],
  };
};

it('what people say of conversions changes what was matched into what matching anew gives', () => {
  let quick = 0;
  fc.assert(
    fc.property(sales, fc.array(fc.nat(30), { maxLength: 6 }), (list, picks) => {
      const books = booksOf(list);
      const asked = /^(?:(?:odd|doubtful) amount|not verified|amount not read)\|/;
      let joined = matchAll(books);
      let decisions: Decision[] = [];
      for (const [n, pick] of picks.entries()) {
        const open = joined.cases.filter(({ id }) => asked.test(id));
        const one = open[pick % Math.max(1, open.length)];
        // Now and then one is undone.
        if (pick % 5 === 4) decisions = decisions.slice(0, -1);
        else if (one)
          decisions = [...decisions, { id: `dec_${n}`, case: one.id, kind: 'accept', reason: '', at: n + 1 }];
        const anew = rematch(joined, { ...books, decisions });
        if (anew && anew !== joined) quick += 1;
        joined = anew ?? matchAll({ ...books, decisions });
      }
      const whole = reconcile({ ...books, decisions });
      const byId = <T extends { readonly id: string }>(of: readonly T[]) =>
        [...of].sort((a, b) => (a.id < b.id ? -1 : 1));
      const settled = settle(joined, decisions);
      expect(byId(settled.ledger)).toEqual(byId(whole.ledger));
      expect(byId(settled.units)).toEqual(byId(whole.units));
      expect(byId(settled.cases)).toEqual(byId(whole.cases));
    }),
    { numRuns: 1500 },
  );
  // Most of them need no matching anew.
  expect(quick).toBeGreaterThan(200);
});
