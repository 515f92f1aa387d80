import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mergeRecord } from './merge.ts';

const link = {
  id: 'lnk_saturn',
  title: 'Saturn kit',
  notes: '',
  tags: ['planets'],
  hop: { kind: 'redirect', status: 307 },
};

describe('two versions of a link', () => {
  it('that changed different fields are one', () => {
    expect(mergeRecord(link, { ...link, title: 'Saturn' }, { ...link, notes: 'for winter' })).toEqual({
      value: { ...link, title: 'Saturn', notes: 'for winter' },
      conflicts: [],
    });
  });

  it('that changed one field differently leave it to a person, and nothing else', () => {
    const mine = { ...link, title: 'Saturn', notes: 'for winter' };
    const theirs = { ...link, title: 'Ringed planet', starred: true };
    expect(mergeRecord(link, mine, theirs)).toEqual({
      value: { ...link, title: 'Saturn', notes: 'for winter', starred: true },
      conflicts: [{ path: ['title'], mine: 'Saturn', theirs: 'Ringed planet' }],
    });
    expect(mergeRecord(link, mine, theirs, () => 'theirs').value).toEqual({
      ...link,
      title: 'Ringed planet',
      notes: 'for winter',
      starred: true,
    });
  });

  it('that say the same, in whatever order their fields stand, do not conflict', () => {
    const mine = { ...link, hop: { status: 301, kind: 'redirect' } };
    const theirs = { ...link, hop: { kind: 'redirect', status: 301 } };
    expect(mergeRecord(link, mine, theirs).conflicts).toEqual([]);
    expect(mergeRecord(undefined, mine, theirs).conflicts).toEqual([]);
  });

  it('are merged within a field that has fields', () => {
    const mine = { ...link, hop: { ...link.hop, hideReferrer: true } };
    const theirs = { ...link, hop: { ...link.hop, status: 302 } };
    expect(mergeRecord(link, mine, theirs).value).toEqual({
      ...link,
      hop: { kind: 'redirect', status: 302, hideReferrer: true },
    });
  });

  it('keep every tag that either added, and lose what either took away', () => {
    const base = { ...link, tags: ['planets', 'gifts', 'old'] };
    const mine = { ...base, tags: ['planets', 'old', 'rings'] };
    const theirs = { ...base, tags: ['new', 'planets', 'gifts'] };
    expect(mergeRecord(base, mine, theirs)).toEqual({
      value: { ...base, tags: ['new', 'planets', 'rings'] },
      conflicts: [],
    });
  });

  it('of which one is a removal leave the whole link to a person', () => {
    const theirs = { ...link, title: 'Ringed planet' };
    expect(mergeRecord(link, null, theirs)).toEqual({
      value: null,
      conflicts: [{ path: [], mine: null, theirs }],
    });
    expect(mergeRecord(link, null, theirs, () => 'theirs').value).toEqual(theirs);
    expect(mergeRecord(link, null, link)).toEqual({ value: null, conflicts: [] });
    expect(mergeRecord(link, link, null)).toEqual({ value: null, conflicts: [] });
  });

  it('without a known beginning conflict wherever they differ, and only there', () => {
    const theirs = { ...link, title: 'Ringed planet' };
    expect(mergeRecord(undefined, link, theirs).conflicts).toEqual([
      { path: ['title'], mine: 'Saturn kit', theirs: 'Ringed planet' },
    ]);
  });
});

describe('two versions of the settings', () => {
  it('that each kept a filter keep both', () => {
    const base = { id: 'settings', filters: [{ name: 'dead', query: 'a' }] };
    const mine = { ...base, filters: [...base.filters, { name: 'mine', query: 'b' }] };
    const theirs = { ...base, filters: [{ name: 'theirs', query: 'c' }, ...base.filters] };
    expect(mergeRecord(base, mine, theirs)).toEqual({
      value: {
        id: 'settings',
        filters: [
          { name: 'theirs', query: 'c' },
          { name: 'dead', query: 'a' },
          { name: 'mine', query: 'b' },
        ],
      },
      conflicts: [],
    });
  });
});

describe('two people who decided the same case', () => {
  const decision = { id: 'dec_a', case: 'missing|c1', kind: 'ask', reason: '', at: 100 };

  it('alike, at different moments, have nothing to choose', () => {
    expect(mergeRecord(null, { ...decision, at: 200 }, decision)).toEqual({ value: decision, conflicts: [] });
    // Two who close a month at once rest on seals of their own; the first one's stands.
    const month = { id: 'mon_a', theirs: { EUR: 100 } };
    const sealed = { ...month, seal: { hash: 'a', seq: 5, at: 1 } };
    const later = { ...month, seal: { hash: 'b', seq: 6, at: 2 } };
    expect(mergeRecord(null, later, sealed)).toEqual({ value: sealed, conflicts: [] });
  });

  it('differently, choose', () => {
    const mine = { ...decision, kind: 'write off', at: 50 };
    expect(mergeRecord(null, mine, decision).conflicts).toEqual([
      { path: ['kind'], mine: 'write off', theirs: 'ask' },
    ]);
  });
});

describe('a merge of any two versions', () => {
  const fields = fc.dictionary(
    fc.constantFrom('a', 'b', 'c'),
    fc.oneof(
      fc.integer({ min: 0, max: 2 }),
      fc.array(fc.constantFrom('x', 'y', 'z'), { maxLength: 3 }),
      fc.dictionary(fc.constantFrom('p', 'q'), fc.integer({ min: 0, max: 2 })),
    ),
    { noNullPrototype: true },
  );
  const version = fc.option(fields, { freq: 6 });

  it('is the other one where one of them changed nothing', () => {
    fc.assert(
      fc.property(version, version, (base, changed) => {
        expect(mergeRecord(base, base, changed)).toEqual({ value: changed, conflicts: [] });
        expect(mergeRecord(base, changed, base)).toEqual({ value: changed, conflicts: [] });
      }),
    );
  });

  it('asks the same of both sides', () => {
    fc.assert(
      fc.property(version, version, version, (base, mine, theirs) => {
        const paths = (conflicts: readonly { path: readonly string[] }[]) =>
          conflicts.map(({ path }) => path.join('.')).sort();
        expect(paths(mergeRecord(base, mine, theirs).conflicts)).toEqual(
          paths(mergeRecord(base, theirs, mine).conflicts),
        );
      }),
    );
  });

  it('is reached from either side: what one chose, merged again, asks nothing more', () => {
    fc.assert(
      fc.property(version, version, version, (base, mine, theirs) => {
        const { value } = mergeRecord(base, mine, theirs);
        expect(mergeRecord(theirs, value, theirs).conflicts).toEqual([]);
      }),
    );
  });
});
