import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { BulkChange, Link } from './index.ts';
import { bulkPreview, bulkProblem, checkRecord, fits, looksLikeEvent, undoChange } from './index.ts';

const link: Link = {
  id: 'lnk_a',
  domain: 'dom_a',
  slug: 'saturn-kit',
  aliases: [],
  title: 'Saturn eyepiece kit',
  destination: 'https://t.example/r?by=nl-4471&page=old.example',
  asText: [],
  hop: { status: 301 },
  marks: {},
  notes: '',
  createdAt: 0,
  tags: ['planets'],
};
const plain: Link = { ...link, id: 'lnk_b', slug: 'moon', destination: 'https://t.example/', hop: {} };

describe('a change of many links', () => {
  const other = { ...plain, marks: { rel: ['ugc' as const], newTab: false } };
  const jp = { when: { countries: ['JP'] }, destination: 'https://jp.example/' };
  it.each<[BulkChange, object[]]>([
    [
      { kind: 'replace', find: 'old.example', by: 'new.example' },
      [{ destination: 'https://t.example/r?by=nl-4471&page=new.example' }],
    ],
    [
      { kind: 'replace', find: 'nl-4471', by: '$&' },
      [{ destination: 'https://t.example/r?by=$&&page=old.example' }],
    ],
    [{ kind: 'group', group: 'Kits' }, [{ group: 'kits' }, { group: 'kits' }]],
    [{ kind: 'add tag', tag: 'planets' }, []],
    [{ kind: 'add tag', tag: 'gifts, small' }, [{ tags: ['planets', 'gifts, small'] }, {}]],
    [{ kind: 'take tag', tag: 'planets' }, [{}, {}]],
    [{ kind: 'redirect type', status: 301 }, [{ hop: { status: 301, page: 'none' } }]],
    [{ kind: 'marks', marks: { newTab: true } }, [{ marks: { newTab: true } }, { marks: { rel: ['ugc'] } }]],
    [{ kind: 'marks', marks: { rel: null } }, [{ marks: { newTab: false } }]],
    [{ kind: 'hours', hours: { until: '2026-12-01T20:00' } }, [{ hours: { until: '2026-12-01T20:00' } }, {}]],
    [{ kind: 'hours', hours: {} }, []],
    [{ kind: 'branch', ...jp }, [{ branches: [{ id: 'b1', name: '', weight: 1, ...jp }] }, {}]],
    [{ kind: 'no branches' }, []],
    [{ kind: 'follow defaults', parts: 'hop' }, [{ hop: {} }]],
    [{ kind: 'follow defaults', parts: 'marks' }, [{ marks: {} }]],
    [{ kind: 'follow defaults', parts: 'hop and marks' }, [{ hop: {} }, { marks: {} }]],
    [{ kind: 'star', on: true }, [{ starred: true }, { starred: true }]],
    [{ kind: 'archive', at: 5 }, [{ archived: { at: 5 } }, { archived: { at: 5 } }]],
    [{ kind: 'bring back' }, []],
  ])('%j is shown before it is made', (change, differs) => {
    const previews = bulkPreview([link, other], change);
    expect(previews).toHaveLength(differs.length);
    for (const [i, { next }] of previews.entries()) {
      expect(next).toMatchObject(differs[i] ?? {});
      expect(checkRecord('link', next).ok).toBe(true);
    }
  });

  it('puts a branch before those a link has, once, and takes all of them off with their weight', () => {
    const split = { ...link, branches: [{ id: 'b1', name: '', weight: 1, ...jp }], weight: 3 };
    const us = { when: { countries: ['US'] }, destination: 'https://us.example/' };
    const [preview] = bulkPreview([split], { kind: 'branch', ...us });
    expect(preview?.next.branches?.map(({ id, when }) => [id, when.countries])).toEqual([
      ['b2', ['US']],
      ['b1', ['JP']],
    ]);
    expect(bulkPreview([split], { kind: 'branch', ...jp })).toEqual([]);
    expect(bulkPreview([split], { kind: 'no branches' })[0]?.next).toEqual(link);
  });

  it('replaces in the destinations of branches too', () => {
    const split: Link = {
      ...link,
      branches: [{ id: 'b1', name: '', when: {}, destination: 'https://old.example/jp', weight: 1 }],
    };
    const [preview] = bulkPreview([split], { kind: 'replace', find: 'old.example', by: 'new.example' });
    expect(preview?.next.branches?.[0]?.destination).toBe('https://new.example/jp');
  });

  it('keeps older addresses answering when it moves links into a group', () => {
    const [preview] = bulkPreview([{ ...link, group: 'old' }], { kind: 'group', group: 'new' });
    expect(preview?.next).toMatchObject({ group: 'new', aliases: ['old/saturn-kit'] });
  });

  it('is refused where it could not stand', () => {
    expect(bulkProblem({ kind: 'group', group: 'two words' })).toContain('spaces');
    expect(bulkProblem({ kind: 'group', group: '' })).toBeUndefined();
  });
});

describe('the history of a link', () => {
  it('lets any step be undone, whatever came after it', () => {
    const renamed = { ...link, title: 'Kit' };
    const tagged = { ...renamed, tags: ['gifts'], starred: true };
    expect(undoChange(link, renamed, tagged)).toEqual({ value: { ...tagged, title: link.title }, stays: [] });
    expect(undoChange(renamed, tagged, tagged)).toEqual({ value: renamed, stays: [] });
    expect(undoChange(null, link, link)).toEqual({ value: null, stays: [] });
    expect(undoChange(link, null, null)).toEqual({ value: link, stays: [] });
    // What somebody changed again since stays theirs, and it is said.
    const retitled = { ...tagged, title: 'Ringed planet' };
    expect(undoChange(link, renamed, retitled)).toEqual({ value: retitled, stays: ['title'] });
    expect(undoChange(null, link, tagged)).toEqual({ value: tagged, stays: [''] });
  });

  it('gives back what was there when the last step is undone', () =>
    fc.assert(
      fc.property(
        fc.dictionary(fc.string(), fc.jsonValue()),
        fc.dictionary(fc.string(), fc.jsonValue()),
        (a, b) => {
          expect(JSON.parse(JSON.stringify(undoChange(a, b, b).value))).toEqual(
            JSON.parse(JSON.stringify(a)),
          );
        },
      ),
    ));
});

describe('a filter', () => {
  const none = { words: '', domain: '', program: '', group: '', tag: '', state: '' };
  const live = () => 'live';
  it('lets through what fits, and what is archived only when asked', () => {
    const away: Link = { ...plain, archived: { at: 1 } };
    const shown = (more: object) =>
      [link, plain, away].filter((l) => fits(l, { ...none, ...more }, live)).length;
    expect(shown({})).toBe(2);
    expect(shown({ state: 'archived' })).toBe(1);
    expect(shown({ tag: 'planets' })).toBe(2);
    expect(shown({ state: 'starred' })).toBe(0);
    expect(shown({ state: 'here' })).toBe(0);
    expect(shown({ group: 'kits' })).toBe(0);
    expect([shown({ domain: 'dom_a' }), shown({ domain: 'dom_b' })]).toEqual([2, 0]);
  });
});

describe('something that ends', () => {
  it.each([
    'Black Friday scopes',
    '/launch/star-map',
    'Eclipse-2026 glasses',
    'Early bird tickets',
    'offer-2026-11',
  ])('%s', (text) => expect(looksLikeEvent(text)).toBe(true));
  it.each(['Saturn eyepiece kit', '/kits/saturn', 'Wholesale optics', 'Dealer list', 'Model 2027'])(
    'not %s',
    (text) => expect(looksLikeEvent(text)).toBe(false),
  );
});
