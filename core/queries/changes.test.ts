import { describe, expect, it } from 'vitest';
import type { JournalRecord } from '#core/visits';
import { answersFrom, Dataset } from './index.ts';
import { domain, links, networks, programs } from './testing/worlds.ts';

const noon = Date.UTC(2026, 9, 24, 12);
const day = 86_400_000;
let seq = 0;
const changed = (record: string, at: number, value: Record<string, unknown> | null): JournalRecord => ({
  seq: (seq += 1),
  kind: 'change',
  at,
  by: 'Ines',
  of: record === 'settings' ? 'settings' : 'link',
  revision: seq,
  record,
  version: seq,
  value,
});
const link = { destination: 'https://polehouse.example/kit', title: 'Kit' };
const data = new Dataset();
data.setRecords({ domains: [domain], networks, programs, links });
data.add([
  // What is made is no change.
  changed('lnk_a', noon - 3 * day, link),
  changed('lnk_b', noon - 3 * day, link),
  changed('settings', noon - 3 * day, { currency: 'EUR' }),
  changed('lnk_a', noon - 2 * day, { ...link, destination: 'https://polehouse.example/kit-2' }),
  changed('lnk_b', noon - 2 * day + 1000, { ...link, branches: [{ id: 'b1' }] }),
  // Its title leads nobody elsewhere.
  changed('lnk_a', noon - 2 * day + 2000, {
    ...link,
    destination: 'https://polehouse.example/kit-2',
    title: 'A',
  }),
  changed('lnk_b', noon - day, { ...link, branches: [{ id: 'b1' }], archived: { at: noon - day } }),
  changed('settings', noon - day, { currency: 'EUR', classification: { repeatMinutes: 5 } }),
  changed('settings', noon - day + 1, { currency: 'USD', classification: { repeatMinutes: 5 } }),
  changed('lnk_b', noon, { branches: [{ id: 'b1' }], ...link }),
  changed('lnk_a', noon, null),
]);
const ask = answersFrom(data);
const all = { from: '2026-10-20', to: '2026-10-24', where: [] };

describe('changes that figures may come from', () => {
  it('are told by day and kind, with the links they were done to', () => {
    expect(ask.changesOfDays(all)).toEqual([
      { day: '2026-10-22', kind: 'destination', links: ['lnk_a', 'lnk_b'] },
      { day: '2026-10-23', kind: 'archived', links: ['lnk_b'] },
      { day: '2026-10-23', kind: 'rules', links: [] },
      { day: '2026-10-24', kind: 'back', links: ['lnk_b'] },
    ]);
  });

  it('are those of the days and of the links that are asked for', () => {
    expect(ask.changesOfDays({ ...all, from: '2026-10-24' })).toEqual([
      { day: '2026-10-24', kind: 'back', links: ['lnk_b'] },
    ]);
    const where = [{ of: 'link', values: ['lnk_a'] } as const, { of: 'device', values: ['phone'] } as const];
    expect(ask.changesOfDays({ ...all, where })).toEqual([
      { day: '2026-10-22', kind: 'destination', links: ['lnk_a'] },
      { day: '2026-10-23', kind: 'rules', links: [] },
    ]);
    const others = [{ of: 'link', values: ['lnk_a', 'lnk_b'], not: true } as const];
    expect(ask.changesOfDays({ ...all, where: others })).toEqual([
      { day: '2026-10-23', kind: 'rules', links: [] },
    ]);
  });
});
