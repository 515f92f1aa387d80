import { describe, expect, it } from 'vitest';
import type { JournalDraft } from '#core/visits';
import type { Told } from './pageReadings.ts';
import { PageReadings } from './pageReadings.ts';

const minute = 60_000;
const told = (more: Partial<Told> = {}): Told => ({
  view: 'a',
  page: 'https://nightledge.example/rings',
  seconds: 10,
  depth: 40,
  links: ['lnk_map'],
  ...more,
});
const gathering = () => {
  const drafts: JournalDraft[] = [];
  return { drafts, readings: new PageReadings((draft) => drafts.push(draft)) };
};

describe('what pages tell of their reading', () => {
  it('is one record a page and ten minutes; of a view only what is more than before', () => {
    const { drafts, readings } = gathering();
    readings.add(told(), 0);
    readings.add(told({ seconds: 25, depth: 90 }), minute);
    readings.add(told({ view: 'b', seconds: 5, depth: 20 }), 2 * minute);
    readings.add(told({ view: 'c', page: 'https://nightledge.example/map' }), 9 * minute);
    expect(drafts).toEqual([]);
    readings.write(11 * minute);
    const { page } = told();
    expect(drafts).toEqual([
      { kind: 'reading', at: 0, page, views: 2, seconds: 30, depth: 110, links: ['lnk_map'] },
    ]);
    // A view that goes on is none anew, and links that are the same are not told again.
    readings.add(told({ seconds: 40, depth: 90 }), 12 * minute);
    readings.write(Infinity);
    expect(drafts.slice(1)).toEqual([
      {
        kind: 'reading',
        at: 9 * minute,
        page: 'https://nightledge.example/map',
        views: 1,
        seconds: 10,
        depth: 40,
        links: ['lnk_map'],
      },
      { kind: 'reading', at: 12 * minute, page, views: 0, seconds: 15, depth: 0 },
    ]);
  });

  it('holds no more pages than it may, and loses none', () => {
    const { drafts, readings } = gathering();
    for (let i = 0; i < 12_001; i++) readings.add(told({ view: `v${i}`, page: `https://p.example/${i}` }), i);
    readings.write(Infinity);
    expect(new Set(drafts.map((draft) => (draft.kind === 'reading' ? draft.page : ''))).size).toBe(12_001);
  });
});
