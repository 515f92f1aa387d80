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
  scrolled: false,
  links: ['lnk_map'],
  link: '',
  source: undefined,
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

  it('keeps apart by which source readers came, and of them how many scrolled, each once', () => {
    const { drafts, readings } = gathering();
    readings.add(told({ source: 'club' }), 0);
    readings.add(told({ source: 'club', seconds: 20, scrolled: true }), 1);
    readings.add(told({ source: 'club', seconds: 30, scrolled: true }), 2);
    readings.add(told({ view: 'b', source: 'club', seconds: 1 }), 3);
    readings.add(told({ view: 'c', source: '', seconds: 4, scrolled: true }), 4);
    readings.add(told({ view: 'd', scrolled: true }), 5);
    const stay = { page: 'https://see.example/frame', link: 'lnk_f', depth: 0, links: undefined };
    readings.add(told({ ...stay, view: 'e', source: 'club' }), 6);
    readings.write(Infinity);
    const of = { kind: 'reading', page: told().page };
    expect(drafts).toEqual([
      { ...of, at: 0, views: 2, seconds: 31, depth: 80, links: ['lnk_map'], source: 'club', scrolled: 1 },
      { ...of, at: 4, views: 1, seconds: 4, depth: 40, source: '', scrolled: 1 },
      // Of a reader nobody of ours sent it is not asked.
      { ...of, at: 5, views: 1, seconds: 10, depth: 40 },
      {
        ...{ kind: 'reading', page: stay.page, at: 6, views: 1, seconds: 10, depth: 0, link: 'lnk_f' },
        ...{ source: 'club', scrolled: 0 },
      },
    ]);
  });

  it('holds no more pages than it may, and loses none', () => {
    const { drafts, readings } = gathering();
    for (let i = 0; i < 12_001; i++) readings.add(told({ view: `v${i}`, page: `https://p.example/${i}` }), i);
    readings.write(Infinity);
    expect(new Set(drafts.map((draft) => (draft.kind === 'reading' ? draft.page : ''))).size).toBe(12_001);
  });
});
