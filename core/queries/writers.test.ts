import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { ClosedMonth } from '#core/catalogue';
import { leadingSide } from '#core/reconcile';
import type { Answers } from './index.ts';
import { answersFrom, Dataset } from './index.ts';
import { approved } from './payments.ts';
import { domain, links, networks, programs, worlds } from './testing/worlds.ts';

const now = Date.UTC(2026, 11, 20);
const months = ['2026-09', '2026-10', '2026-11', '2026-12', '2027-01'];
const close = (ask: Answers, network: string, month: string): ClosedMonth => ({
  ...ask.closing(network, month),
  id: `mon_${network.slice(4)}${month.slice(5)}`,
  at: Date.UTC(2026, 11, 3),
  checksum: '0'.repeat(64),
});
const addTo = (sums: Map<string, number>, key: string, minor: number) => {
  if (minor !== 0) sums.set(key, (sums.get(key) ?? 0) + minor);
  if (sums.get(key) === 0) sums.delete(key);
};

describe('what writers earned in worlds whose months are closed while more arrives', () => {
  it('is in all what the network approved each month, and over all months what is pending now: property', () =>
    fc.assert(
      fc.property(worlds, fc.nat(), fc.nat({ max: 2 }), ({ journal, reports }, cut, closings) => {
        const records = { domains: [domain], networks, programs, links };
        const early = new Dataset();
        early.setRecords({ ...records, reports: reports.filter((report) => report.at === 1) });
        const known = journal.filter(({ kind }, i) => kind === 'hop' || i % 3 !== cut % 3);
        early.add(known.map((record, i) => ({ ...record, seq: i + 1 })));
        const first = closings < 1 ? [] : ['2026-09', '2026-10'];
        const closed = networks.flatMap(({ id }) =>
          first.map((month) => close(answersFrom(early), id, month)),
        );
        const whole = new Dataset();
        whole.setRecords({ ...records, reports, months: closed });
        whole.add(journal);
        if (closings === 2) {
          const later = networks.map(({ id }) => close(answersFrom(whole), id, '2026-12'));
          whole.setRecords({ months: [...closed, ...later] });
        }
        const ask = answersFrom(whole);
        const [approvedHere, pendingHere] = [new Map<string, number>(), new Map<string, number>()];
        for (const month of months) {
          const { sums, entries } = ask.writers({ month, currency: 'EUR', now });
          for (const { network, currency, approved: minor, earlier } of sums)
            addTo(approvedHere, `${network} ${month} ${currency}`, minor + earlier);
          // Of what is pending at most all becomes approved.
          for (const { worth, pending } of entries)
            expect(Math.abs(worth)).toBeLessThanOrEqual(Math.abs(pending));
          for (const { network, currency, pending } of entries)
            addTo(pendingHere, `${network} ${currency}`, pending);
        }
        const [approvedThere, pendingThere] = [new Map<string, number>(), new Map<string, number>()];
        for (const { id } of networks)
          for (const { month, currency, minor } of approved(whole, id))
            addTo(approvedThere, `${id} ${month} ${currency}`, minor);
        for (const unit of whole.reconciled.units) {
          const { theirs, cause, conversion } = unit;
          if (!theirs && (cause === 'sent twice' || (conversion?.unverified && !conversion.trusted)))
            continue;
          const { counts, amount, currency } = leadingSide(unit);
          const stays = theirs && (theirs.status === 'approved' || theirs.status === 'paid');
          // Reported, counting and approved: nothing of it waits.
          if (counts && !stays) addTo(pendingThere, `${unit.network} ${currency}`, amount ?? 0);
        }
        expect([...approvedHere].sort()).toEqual([...approvedThere].sort());
        expect([...pendingHere].sort()).toEqual([...pendingThere].sort());
      }),
      { numRuns: 300 },
    ));
});
