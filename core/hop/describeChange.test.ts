import { dequal } from 'dequal';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { BulkChange, Conditions, Hours, Link } from '#core/catalogue';
import { bulkPreview, newDomain, redirectStatuses, relValues, undoChange } from '#core/catalogue';
import { anyLink } from '../catalogue/testing/anyLink.ts';
import { describeChange } from './index.ts';

const link: Link = {
  id: 'lnk_kit',
  domain: 'dom_see',
  slug: 'kit',
  aliases: [],
  title: 'Saturn eyepiece kit',
  destination: 'https://t.example/r?by=nl-1&deal=2093&page=https%3A%2F%2Fa.example%2Fkit',
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 0,
};
const told = (more: Partial<Link>, before: Link = link) =>
  describeChange(before, { ...before, ...more }).map(({ words }) => words);

describe('the history of a link', () => {
  it('tells each change from what to what', () => {
    expect(describeChange(null, link)).toEqual([{ words: 'made' }]);
    expect(describeChange(link, null)).toEqual([{ words: 'removed' }]);
    expect(told({ title: 'Kit', tags: ['planets', 'gifts'] })).toEqual([
      'title from Saturn eyepiece kit to Kit',
      'tags set to planets, gifts',
    ]);
    expect(told({ hop: { status: 302, cache: true } })).toEqual([
      'redirect type from what its domain does to 302',
      'kept by browsers from what its domain does to yes',
    ]);
    expect(told({ hop: {} }, { ...link, hop: { status: 302 } })).toEqual([
      'redirect type from 302 to what its domain does',
    ]);
    expect(told({ marks: { rel: [] } })).toEqual(['rel from what its domain does to none']);
    expect(told({ hours: { until: '2026-12-01T20:00', zone: 'Asia/Tokyo' } })).toEqual([
      'closes set to 2026-12-01 20:00 (Asia/Tokyo)',
    ]);
    // A time without a zone of its own is one of the domain's, and the same time elsewhere is another.
    const evening: Hours = { until: '2026-12-01T20:00' };
    expect(
      describeChange(
        { hours: evening },
        { hours: { ...evening, zone: 'Asia/Tokyo' } },
        { zone: 'Europe/Berlin' },
      ),
    ).toEqual([{ words: 'closes from 2026-12-01 20:00 (Europe/Berlin) to 2026-12-01 20:00 (Asia/Tokyo)' }]);
    const { hop } = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
    const defaults = { hop, marks: { rel: [], newTab: true, title: '' } };
    expect(
      describeChange({ marks: { newTab: false } }, { hop: { status: 302 }, marks: {} }, { defaults }),
    ).toEqual([
      { words: 'new tab from no to yes (as its domain)' },
      { words: 'redirect type from 307 (as its domain) to 302' },
    ]);
    expect(told({ archived: { at: 1 } })).toEqual(['archived']);
  });

  it('tells of a split branch by branch', () => {
    const branch = (id: string, more: object = {}) => ({
      id,
      name: '',
      when: { devices: ['phone' as const] },
      destination: 'https://a.example/',
      weight: 1,
      ...more,
    });
    const before = { ...link, branches: [branch('b1'), branch('b2', { name: 'Night' })] };
    expect(told({ branches: [branch('b1')] })).toEqual(['branch phone added, to https://a.example/']);
    expect(told({ branches: [branch('b1', { weight: 3, when: { countries: ['DE'] } })] }, before)).toEqual([
      'branch DE: for DE instead of phone',
      'weight of branch DE from 1 to 3',
      'branch Night taken away',
    ]);
    expect(told({ branches: before.branches.toReversed() }, before)).toEqual([
      'branches tried in another order',
    ]);
  });

  it('marks what changed inside a destination', () => {
    const [change] = describeChange(link, {
      ...link,
      destination: link.destination.replace('2093', '2111').replace('%2Fkit', '%2Flamp'),
    });
    expect(change?.words).toBe('destination');
    expect(change?.diff?.filter(({ kind }) => kind !== 'same')).toEqual([
      { text: '2093', kind: 'gone' },
      { text: '2111', kind: 'new' },
      { text: 'kit', kind: 'gone' },
      { text: 'lamp', kind: 'new' },
    ]);
  });

  it('tells of every change, and its pieces are both addresses: property', () => {
    const links = anyLink({ id: 'lnk_kit', domain: 'dom_see', slug: 'kit' });
    fc.assert(
      fc.property(links, links, (before, after) => {
        const changes = describeChange(before, after);
        expect(changes.length === 0).toBe(dequal(before, after));
        for (const { diff } of changes) {
          if (!diff) continue;
          const text = (without: string) =>
            diff.flatMap((piece) => (piece.kind === without ? [] : [piece.text])).join('');
          const destinations = [before, after].map((of) => [
            of.destination,
            ...(of.branches ?? []).map((b) => b.destination),
          ]);
          expect(destinations[0]).toContain(text('new'));
          expect(destinations[1]).toContain(text('gone'));
        }
      }),
    );
  });
});

/** A change of many links, of every kind. */
const anyChange: fc.Arbitrary<BulkChange> = fc.oneof(
  fc.record({ kind: fc.constant('group' as const), group: fc.constantFrom('', 'kits') }),
  fc.record({ kind: fc.constantFrom('add tag' as const, 'take tag' as const), tag: fc.constant('gifts, x') }),
  fc.record({
    kind: fc.constant('replace' as const),
    find: fc.constantFrom('shop-a', 'kit', '{click}'),
    by: fc.constantFrom('', 'shop-b', '$&'),
  }),
  fc.record({ kind: fc.constant('redirect type' as const), status: fc.constantFrom(...redirectStatuses) }),
  fc.record({
    kind: fc.constant('marks' as const),
    marks: fc.record(
      {
        rel: fc.option(fc.subarray([...relValues])),
        newTab: fc.option(fc.boolean()),
        title: fc.option(fc.constantFrom('', 'An eyepiece')),
      },
      { requiredKeys: [] },
    ),
  }),
  fc.record({
    kind: fc.constant('hours' as const),
    hours: fc.constantFrom(
      {},
      { until: '2026-12-01T20:00' },
      { from: '2026-12-02T08:00', zone: 'Asia/Tokyo' },
    ),
  }),
  fc.record({
    kind: fc.constant('branch' as const),
    when: fc.constantFrom<Conditions>({}, { countries: ['JP'] }),
    destination: fc.constantFrom('https://jp.example/', 'https://shop-a.example/kit'),
  }),
  fc.record({
    kind: fc.constant('follow defaults' as const),
    parts: fc.constantFrom('hop' as const, 'marks' as const, 'hop and marks' as const),
  }),
  fc.record({ kind: fc.constant('star' as const), on: fc.boolean() }),
  fc.record({ kind: fc.constantFrom('no branches' as const, 'bring back' as const) }),
  fc.record({ kind: fc.constant('archive' as const), at: fc.constant(1_790_000_000_000) }),
);

describe('a change of many links', () => {
  it('says of each link it changes what becomes of it, and is undone and done again', () => {
    fc.assert(
      fc.property(
        fc.array(anyLink({ id: 'lnk_kit', domain: 'dom_see', slug: 'kit' }), { maxLength: 4 }),
        anyChange,
        (drawn, change) => {
          const links = structuredClone(drawn); // as they come out of a file or a database
          for (const { link: before, next } of bulkPreview(links, change)) {
            const changes = describeChange(before, next);
            expect(changes).not.toEqual([]);
            for (const { words, diff } of changes) {
              expect(words).not.toMatch(/^$|undefined|\[object/);
              if (diff) expect(diff.some(({ kind }) => kind !== 'same')).toBe(true);
            }
            expect(undoChange(before, next, next)).toEqual({ value: before, stays: [] });
            expect(undoChange(next, before, before)).toEqual({ value: next, stays: [] });
          }
        },
      ),
      { numRuns: 500 },
    );
  });
});
