import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ClosedMonth } from '#core/catalogue';
import type { Unit } from '#core/reconcile';
import type { Answers } from './index.ts';
import { answersFrom, Dataset } from './index.ts';
import { approved } from './payments.ts';
import { domain, links, networks, programs, worlds } from './testing/worlds.ts';

const at = Date.UTC(2026, 11, 3);
const nobodys = { checksum: '0'.repeat(64) };

/** Sums by currency, nothing where they come to nothing. */
const summed = (list: readonly (readonly [string, number])[]): Record<string, number> => {
  const sums: Record<string, number> = {};
  for (const [currency, minor] of list) sums[currency] = (sums[currency] ?? 0) + minor;
  return Object.fromEntries(Object.entries(sums).filter(([, minor]) => minor !== 0));
};
/** What a conversion is worth in its month, by their word where they have one. */
const worthOf = ({ ours, theirs }: Unit): readonly [string, number] => {
  const side = theirs ?? ours;
  return side ? [side.currency, side.counts ? (side.amount ?? 0) : 0] : ['', 0];
};
const frozen = ({ rows, adjusted = [] }: ClosedMonth): (readonly [string, number])[] => [
  ...rows.map(({ currency, counts, amount }) => [currency, counts ? (amount ?? 0) : 0] as const),
  ...adjusted.map(({ currency, change }) => [currency, change] as const),
];

describe('closed months of a world that goes on', () => {
  it('keep their figures, and with every change told once they come to what stands now: property', () =>
    fc.assert(
      fc.property(worlds, fc.nat(), fc.boolean(), ({ journal, reports }, cut, second) => {
        const records = { domains: [domain], networks, programs, links };
        const early = new Dataset();
        // At first only a part has come: of the journal its beginning, of the reports the earlier ones.
        const known = journal.filter(({ kind }, i) => kind === 'hop' || i % 3 !== cut % 3);
        early.setRecords({ ...records, reports: reports.filter((report) => report.at === 1) });
        early.add(known.map((record, i) => ({ ...record, seq: i + 1 })));
        const asEarly = answersFrom(early);
        const close = (ask: Answers, network: string, month: string): ClosedMonth => ({
          ...ask.closing(network, month),
          id: `mon_${network.slice(4)}${month.slice(5)}`,
          at,
          ...nobodys,
        });
        const months = networks.flatMap(({ id }) =>
          ['2026-09', '2026-10'].map((month) => close(asEarly, id, month)),
        );
        const whole = new Dataset();
        whole.setRecords({ ...records, reports, months });
        whole.add(journal);
        const ask = answersFrom(whole);
        // A month that is closed later takes what had arrived in it along.
        const all = second ? [...months, ...networks.map(({ id }) => close(ask, id, '2026-12'))] : months;
        whole.setRecords({ months: all });
        for (const { id } of networks) {
          const own = all.filter(({ network }) => network === id);
          for (const closed of own) {
            const { closed: _, ...shown } = ask.balance({ network: id, month: closed.month });
            expect(shown).toEqual({
              clicks: closed.shown?.clicks,
              conversions: closed.shown?.conversions,
              commission: closed.shown?.commission,
              covered: closed.shown?.covered,
            });
          }
          const names = new Set(own.map(({ month }) => month));
          const changes = ask.adjustments(id);
          const units = whole.reconciled.units.filter(({ network }) => network === id);
          const inClosed = units.filter(({ ours, theirs }) => names.has((theirs ?? ours)?.month ?? ''));
          expect(
            summed([
              ...own.flatMap(frozen),
              ...changes.map(({ currency, change }) => [currency, change] as const),
            ]),
          ).toEqual(summed(inClosed.map(worthOf)));
          for (const { arrived } of changes) expect(names.has(arrived)).toBe(false);
          // What was approved is somewhere once: frozen, in an open month, or where its change arrived.
          expect(summed(approved(whole, id).map(({ currency, minor }) => [currency, minor]))).toEqual(
            summed(
              units.flatMap(({ theirs }) =>
                theirs?.counts && (theirs.status === 'approved' || theirs.status === 'paid')
                  ? [[theirs.currency, theirs.amount ?? 0] as const]
                  : [],
              ),
            ),
          );
        }
        // Nothing changed where nothing came: closed anew, a month has no change.
        const again = new Dataset();
        again.setRecords({
          ...records,
          reports,
          months: networks.flatMap(({ id }) => [close(answersFrom(whole), id, '2026-10')]),
        });
        again.add(journal);
        const unchanged = networks.flatMap(({ id }) => answersFrom(again).adjustments(id));
        expect(unchanged).toEqual([]);
      }),
      { numRuns: 500 },
    ));
});
