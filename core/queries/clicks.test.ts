import fc from 'fast-check';
import { expect, it } from 'vitest';
import type { Settings } from '#core/catalogue';
import type { LostRecord } from '#core/visits';
import { clickBridge } from './clicks.ts';
import type { CatalogueRecords } from './dataset.ts';
import { Dataset } from './index.ts';
import { domain, links, networks, programs, worlds } from './testing/worlds.ts';

const asked = networks.flatMap(({ id: network }) => [
  { network },
  { network, month: '2026-10' },
  { network, program: `prg_${network.slice(4)}` },
  { network, source: 'kit' },
]);
const bridges = (data: Dataset, scopes: typeof asked) => scopes.map((scope) => clickBridge(data, scope));

/** What may change about a dataset, one after the other. */
const steps = [
  'records',
  'zone',
  'names',
  'links',
  'our days',
  'rules',
  'reports',
  'write off',
  'lost',
] as const;

it('whatever changes in whatever order, clicks are counted as if all had been known from the start', () => {
  let wroteOff = 0;
  fc.assert(
    fc.property(
      worlds,
      fc.array(fc.constantFrom(...steps), { minLength: 4, maxLength: 14 }),
      ({ journal: all, reports: told }, order) => {
        // So many that whole days differ.
        const reports = told.map((one) => ({
          ...one,
          clicks: one.clicks.map((row) => ({ ...row, clicks: 40 * row.clicks })),
        }));
        // Room between them for what is told later.
        const journal = all.map((record) => ({ ...record, seq: 100 * record.seq }));
        const data = new Dataset();
        let records: Partial<CatalogueRecords> = { domains: [domain], networks, programs, links, reports };
        let rules: Settings['classification'];
        let come = 0;
        const lost: LostRecord[] = [];
        data.setRecords(records);
        const set = (some: Partial<CatalogueRecords>) => {
          records = { ...records, ...some };
          data.setRecords(some);
        };
        for (const step of order) {
          if (step === 'records') {
            data.add(journal.slice(come, come + 9));
            come = Math.min(journal.length, come + 9);
          } else if (step === 'zone')
            set({ networks: networks.map((one) => ({ ...one, zone: 'Pacific/Auckland' })) });
          else if (step === 'names') set({ programs: programs.map((one) => ({ ...one, name: 'kit' })) });
          else if (step === 'links') set({ links: links.slice(1) });
          else if (step === 'our days') set({ domains: [{ ...domain, zone: 'Pacific/Kiritimati' }] });
          else if (step === 'reports') set({ reports: reports.slice(1) });
          else if (step === 'rules')
            data.setRules((rules = { robots: [], repeatMinutes: 1440, burstRequests: 20, burstSeconds: 10 }));
          else if (step === 'write off') {
            const decisions = data.reconciled.cases.flatMap(({ id, clicks }) =>
              clicks ? [{ id: `dec_${id}`, case: id, kind: 'write off' as const, reason: '', at: 1 }] : [],
            );
            wroteOff += decisions.length;
            set({ decisions });
          } else {
            const one: LostRecord = {
              seq: 100 * come + lost.length + 1,
              kind: 'lost',
              at: Date.UTC(2026, 9, 2),
              until: Date.UTC(2026, 9, 2),
              why: 'disk',
              count: 3,
              links: { lnk_a: 3 },
            };
            lost.push(one);
            data.add([one]);
          }
          const fresh = new Dataset();
          fresh.setRules(rules);
          fresh.setRecords(records);
          fresh.add([...journal.slice(0, come), ...lost].sort((a, b) => a.seq - b.seq));
          // Asked the other way round, so that one answer is not taken for another's.
          expect(bridges(data, asked)).toEqual(bridges(fresh, asked.toReversed()).toReversed());
        }
      },
    ),
    { numRuns: 300 },
  );
  expect(wroteOff).toBeGreaterThan(50);
});
