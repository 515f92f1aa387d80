import fc from 'fast-check';
import type { Link } from '../records.ts';

const destination = fc
  .tuple(
    fc.constantFrom('a', 'b', 'c'),
    fc.constantFrom('', '?c={click}', '?s={source}&d={device}&e=', '/{country}#x'),
  )
  .map(([shop, rest]) => `https://shop-${shop}.example/kit${rest}`);

const when = fc.record(
  {
    countries: fc.subarray(['DE', 'NL', 'EU', 'JP'], { minLength: 1 }),
    devices: fc.subarray(['phone', 'tablet', 'desktop'] as const, { minLength: 1 }),
    languages: fc.subarray(['de', 'en', 'nl-BE'], { minLength: 1 }),
    sources: fc.subarray(['newsletter', 'flyer'], { minLength: 1 }),
    weekdays: fc.subarray([1, 2, 3, 4, 5, 6, 7], { minLength: 1 }),
    hours: fc.constantFrom({ from: '08:00', until: '18:00' }, { from: '22:00', until: '04:00' }),
  },
  { requiredKeys: [] },
);

const page = fc.record({
  kind: fc.constant('page' as const),
  words: fc.constantFrom('', 'Back in spring <soon> & sooner.'),
  askMail: fc.boolean(),
  consent: fc.constantFrom('', 'You may write to me.'),
});
const closed = fc.oneof(page, fc.record({ kind: fc.constant('address' as const), to: destination }));
const localTime = fc
  .tuple(
    fc.constantFrom('2026-10', '2026-11', '2026-12'),
    fc.integer({ min: 1, max: 28 }),
    fc.integer({ min: 0, max: 23 }),
  )
  .map(
    ([month, day, hour]) => `${month}-${String(day).padStart(2, '0')}T${String(hour).padStart(2, '0')}:30`,
  );
const hours = fc
  .record(
    {
      zone: fc.constantFrom('Asia/Tokyo', 'America/New_York'),
      times: fc.tuple(localTime, localTime),
      before: closed,
      after: closed,
    },
    { requiredKeys: [] },
  )
  .map(({ times, ...rest }) => {
    const [from, until] = (times ?? []).toSorted();
    return {
      ...rest,
      ...(from !== undefined && { from }),
      ...(until !== undefined && until !== from && { until }),
    };
  });

/** How a link hops where it does not follow its domain, of every kind of hop. */
const hop = fc.record(
  {
    status: fc.constantFrom(301, 302, 307, 308),
    cache: fc.boolean(),
    hideReferrer: fc.boolean(),
    pass: fc.constantFrom('none' as const, 'all' as const),
    page: fc.constantFrom('none' as const, 'refresh' as const, 'script' as const, 'frame' as const),
    twice: fc.boolean(),
    robots: fc.constantFrom('noindex, nofollow' as const, 'noindex' as const, 'index' as const),
  },
  { requiredKeys: [] },
);

/** A link that does nothing of its own, with whatever is given over that. */
export const plainLink = (more: Partial<Link> = {}): Link => ({
  id: 'lnk_kit',
  domain: 'dom_see',
  slug: 'kit',
  aliases: [],
  title: 'Kit',
  destination: 'https://a.example/',
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 0,
  ...more,
});

/** A link of a domain as a person could have made it, with every kind of hop, split and hours; its address is given. */
export const anyLink = (given: Pick<Link, 'id' | 'domain' | 'slug'>): fc.Arbitrary<Link> =>
  fc
    .record({
      title: fc.constantFrom('Kit', 'Saturn, “near”; and far', '=1+1'),
      destination,
      hop,
      marks: fc.record(
        { rel: fc.subarray(['sponsored', 'nofollow', 'ugc'] as const), newTab: fc.boolean() },
        { requiredKeys: [] },
      ),
      notes: fc.constantFrom('', 'Two\nlines'),
      more: fc.record(
        {
          branches: fc.array(
            fc.record({
              when,
              destination,
              weight: fc.constantFrom(0, 1, 3),
              name: fc.constantFrom('', 'Night'),
            }),
            { minLength: 1, maxLength: 3 },
          ),
          weight: fc.constantFrom(0, 1, 5),
          movesWeights: fc.record({ least: fc.integer({ min: 10, max: 50 }) }),
          hours,
          tags: fc.subarray(['autumn', 'a, b', 'gift'], { minLength: 1 }),
          coupons: fc.record({
            codes: fc.subarray(['FERN10', 'OAK5'], { minLength: 1 }),
            source: fc.constantFrom('', 'newsletter'),
          }),
          group: fc.constantFrom('gear', 'books'),
        },
        { requiredKeys: [] },
      ),
    })
    .map(({ more: { branches, ...more }, ...own }) => ({
      ...given,
      ...own,
      ...more,
      ...(branches && { branches: branches.map((branch, i) => ({ id: `b${i}`, ...branch })) }),
      aliases: [],
      asText: [],
      createdAt: 1_790_000_000_000,
    }));
