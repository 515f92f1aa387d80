import { describe, expect, it } from 'vitest';
import type { SourceRecord } from '#core/catalogue';
import { sameId, sourceNames } from '#core/catalogue';
import { answersFrom, Dataset } from './index.ts';
import { hopRecord } from '../visits/testing/records.ts';
import { likelySlips } from './sources.ts';

const record = (source: string, as?: string): SourceRecord => ({
  id: sameId('src', source),
  source,
  title: '',
  channel: '',
  note: '',
  ...(as !== undefined && { as }),
});

describe('slips of names', () => {
  const slips = (visits: Readonly<Record<string, number>>, known: readonly string[] = []) =>
    likelySlips(new Map(Object.entries(visits)), (name) => known.includes(name)).map(
      ({ name, of }) => `${name}>${of}`,
    );
  it('are found by a letter or two, by case and by hyphens', () => {
    expect(
      slips({ newsletter: 1000, newsleter: 3, newslettre: 2, Newsletter: 5, 'news-letter': 1, flyer: 90 }),
    ).toEqual([
      'Newsletter>newsletter',
      'newsleter>newsletter',
      'newslettre>newsletter',
      'news-letter>newsletter',
    ]);
  });
  it('are not names of a series, short names, names with visits of their own, and names somebody knows', () => {
    expect(
      slips({
        'oct-a': 1000,
        'oct-b': 3,
        'flyer-1': 100,
        'flyer-2': 2,
        mail: 500,
        main: 3,
        garden: 500,
        gardens: 400,
      }),
    ).toEqual([]);
    expect(slips({ newsletter: 1000, newsleter: 3 }, ['newsleter'])).toEqual([]);
  });
});

describe('the name a source counts under', () => {
  it('is the last of a chain, and its own where two name each other', () => {
    const name = sourceNames([
      record('a', 'b'),
      record('b', 'c'),
      record('x', 'y'),
      record('y', 'x'),
      record('z', 'z'),
    ]);
    expect(['a', 'b', 'c', 'x', 'y', 'z', 'other'].map(name)).toEqual([
      'c',
      'c',
      'c',
      'x',
      'y',
      'z',
      'other',
    ]);
  });
});

describe('sources', () => {
  const hop = (seq: number, source: string) =>
    hopRecord({
      seq,
      at: Date.UTC(2026, 9, 1) + seq * 3_600_000,
      click: `01M84BDPSKXE4HN0RD2V6W3P${String(seq).padStart(2, '0')}`,
      link: seq % 2 === 0 ? 'lnk_a' : 'lnk_b',
      source,
      visitor: String(seq).padStart(16, '0'),
    });
  const data = new Dataset();
  data.add([
    ...Array.from({ length: 20 }, (_, i) => hop(i + 1, 'newsletter')),
    hop(21, 'newsleter'),
    hop(22, ''),
    hop(23, 'flyer'),
  ]);
  const ask = answersFrom(data);
  const visits = () => ask.sources(0).sources.map(({ source, visits: n, links }) => [source, n, links]);

  it('are counted, merged for the past as well, and parted again', () => {
    const apart = [
      ['newsletter', 20, 2],
      ['', 1, 1],
      ['flyer', 1, 1],
      ['newsleter', 1, 1],
    ];
    expect(visits()).toEqual(apart);
    expect(ask.sources(0).slips).toEqual([{ name: 'newsleter', visits: 1, of: 'newsletter', ofVisits: 20 }]);
    expect(ask.use('lnk_b', 0).sources.get('newsletter')).toBe(10);

    data.setRecords({ sources: [record('newsleter', 'newsletter')] });
    expect(visits()).toEqual([
      ['newsletter', 21, 2],
      ['', 1, 1],
      ['flyer', 1, 1],
    ]);
    expect(ask.sources(0).sources[0]?.slips).toEqual([{ name: 'newsleter', visits: 1 }]);
    expect(ask.sources(0).slips).toEqual([]);
    expect(ask.use('lnk_b', 0).sources.get('newsletter')).toBe(11);

    data.setRecords({ sources: [record('newsleter')] });
    expect(visits()).toEqual(apart);
    expect(ask.sources(0).slips).toEqual([]);
  });

  it('since a moment leave out what came before', () => {
    expect(ask.sources(Date.UTC(2026, 9, 1) + 21.5 * 3_600_000).sources.map(({ source }) => source)).toEqual([
      '',
      'flyer',
    ]);
  });
});
