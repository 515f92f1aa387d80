import { describe, expect, it } from 'vitest';
import type { SourceRecord } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import { hopRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset } from './index.ts';
import { domain } from './testing/worlds.ts';

const at = Date.UTC(2026, 9, 24, 12);
const sourceOf = (source: string, more: Partial<SourceRecord>): SourceRecord => ({
  id: sameId('src', source),
  ...{ source, title: '', channel: '', note: '', ...more },
});
const asked = (queries: readonly string[], sources: readonly SourceRecord[] = [], source = 'bought') => {
  const data = new Dataset();
  data.setRecords({ domains: [domain], sources });
  data.add(
    queries.map((query, i) =>
      hopRecord({
        ...{ seq: i + 1, at: at + i * 60_000, source, query },
        visitor: i.toString(16).padStart(16, '0'),
      }),
    ),
  );
  return answersFrom(data);
};
const rolesIn = (queries: readonly string[], sources?: readonly SourceRecord[]) =>
  Object.fromEntries(
    asked(queries, sources)
      .passedAlong('bought')
      .map(({ name, role }) => [name, role]),
  );

describe('what is passed along to a source', () => {
  it('is told by its names as they came, with how often and what came most', () => {
    const queries = ['zone=7&c=0.05', 'zone=8&c=0.05', 'zone=8&c=0.04&x=', 'zone={zone}'];
    expect(asked(queries).passedAlong('bought')).toEqual([
      {
        name: 'zone',
        ...{ requests: 4, values: 3, samples: ['8', '7'], unfilled: 1, prices: 2 },
        ...{ role: 'placement', currency: undefined },
      },
      {
        name: 'c',
        ...{ requests: 3, values: 2, samples: ['0.05', '0.04'], unfilled: 0, prices: 2 },
        ...{ role: undefined, currency: undefined },
      },
    ]);
    expect(asked(queries).passedAlong('other')).toEqual([]);
  });

  // Names that sellers use; common practice.
  it.each([
    ['zoneid=12&cost=0.0045', { zoneid: 'placement', cost: 'cost' }],
    ['pub_id=a9&kw=red+lamp&bid=0,07', { pub_id: 'placement', kw: 'keyword', bid: 'cost' }],
    ['utm_term=lamp&utm_content=b2', { utm_term: 'keyword', utm_content: 'creative' }],
    ['SiteName=forum.example&BannerID=3', { SiteName: 'placement', BannerID: 'creative' }],
    // A price a thousand visits is none of one, and words are no price.
    ['cpm=3.20&cost=low&token=0.05', { cpm: undefined, cost: undefined, token: undefined }],
    // What is no name of a parameter as a link has it cannot be chosen.
    ['my+zone=1&a%26b=2&' + 'x'.repeat(70) + '=3&zone=4', { zone: 'placement' }],
    ['__proto__=1&constructor=2', { constructor: undefined, ['__proto__']: undefined }],
  ])('%s is proposed to be read as %j', (query, roles) => {
    expect(Object.entries(rolesIn([query])).sort()).toEqual(Object.entries(roles).sort());
  });

  it('is proposed as the person said of another source, where what came fits', () => {
    const other = sourceOf('other', {
      passes: { creative: 'zone', cost: { parameter: 'p', currency: 'USD' } },
    });
    const [p, zone] = asked(['p=0.02&zone=7'], [other]).passedAlong('bought');
    expect([p?.role, p?.currency, zone?.role]).toEqual(['cost', 'USD', 'creative']);
    expect(rolesIn(['p=soon'], [other])).toEqual({ p: undefined });
  });

  it('is what traffic is told apart by once it is said, with its cost, slips of the source too', () => {
    const queries = ['zone=7&c=0.0015', 'zone=7&c=0.0125', 'zone=8&c=dear', '', 'zone=8&c=0.5'];
    const passes = { placement: 'zone', cost: { parameter: 'c', currency: 'EUR' } };
    const trafficOf = (answers: ReturnType<typeof asked>) =>
      answers
        .traffic({ by: 'placement', from: '2026-10-24', to: '2026-10-24', where: [] })
        .lines.map(({ value, visitors, passedCost, costsUnread }) => [
          ...[value, visitors],
          ...[passedCost[0]?.minor, passedCost[0]?.currency, costsUnread],
        ]);
    expect(trafficOf(asked(queries))).toEqual([['', 5, undefined, undefined, 0]]);
    const told = [
      ['7', 2, 1, 'EUR', 0],
      ['8', 2, 50, 'EUR', 1],
      ['', 1, undefined, undefined, 0],
    ];
    expect(trafficOf(asked(queries, [sourceOf('bought', { passes })]))).toEqual(told);
    const slip = sourceOf('bougt', { as: 'bought' });
    expect(trafficOf(asked(queries, [sourceOf('bought', { passes }), slip], 'bougt'))).toEqual(told);
  });
});
