import type { Promotion } from '#core/catalogue';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { element } from '#core/catalogue';
import { defaultRules, makeIsRobot, outcomes } from '#core/visits';
import type { HopRecord, Outcome } from '#core/visits';
import { classified } from '../visits/testing/classified.ts';
import { plainClassified } from '../visits/testing/plainClassifier.ts';
import { hopRecord } from '../visits/testing/records.ts';
import {
  countRequests,
  daysOf,
  passedCosts,
  passedValue,
  periodBefore,
  readPassedCost,
  requestDimensions,
  sumsOfParts,
} from './index.ts';
import type { DimensionInput, DimensionName, LinkTraits, Passes, RequestCounts } from './index.ts';

const kit = { page: 'https://polehouse.example/kit', tag: 'nl-4471', slots: ['{click}', 'x-{source}'] };
const trial = { page: 'https://wickstar.example/', tag: '', slots: [] };
const links: LinkTraits[] = [
  {
    id: 'lnk_a',
    ...{ network: 'net_h', program: 'prg_1', group: 'moon', tags: ['night', 'best'] },
    wayOut: (branch) => ({ everyone: kit, b1: trial })[branch],
  },
  {
    id: 'lnk_b',
    ...{ network: 'net_h', program: 'prg_2', group: '', tags: ['best', 'night'] },
    wayOut: (branch) => ({ everyone: kit, b1: { ...trial, slots: ['fixed'] } })[branch],
  },
  { id: 'lnk_c', group: 'moon', tags: [] },
];
const passesOf = (name: string): Passes | undefined =>
  ({
    flyer: { placement: 'zone', keyword: 'kw', cost: { parameter: 'cpc', currency: 'EUR' } },
    newsletter: { placement: 'kw', cost: { parameter: 'zone', currency: 'JPY' } },
  })[name];
/** `newsleter` is a slip of another name. */
const sourceOf = (name: string): string => (name === 'newsleter' ? 'newsletter' : name);

const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const clocks = new Map<string, Intl.DateTimeFormat>();
const plainHour = (zone: string): Intl.DateTimeFormat => {
  const clock =
    clocks.get(zone) ??
    new Intl.DateTimeFormat('en-US', { timeZone: zone, weekday: 'short', hour: 'numeric', hourCycle: 'h23' });
  clocks.set(zone, clock);
  return clock;
};

const plainWay = (hop: HopRecord) => links.find(({ id }) => id === hop.link)?.wayOut?.(hop.branch);
const queries: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  '': {},
  'zone=7&kw=best%20binoculars&cpc=0.045': { zone: '7', kw: 'best binoculars', cpc: '0.045' },
  'zone=12&kw=+moon+&zone=9&cpc=dear': { zone: '12', kw: 'moon', cpc: 'dear' },
  'cpc=1,5&x': { cpc: '1,5', x: '' },
};
const plainParameter = ({ source, query }: HopRecord, role: 'placement' | 'keyword'): string =>
  queries[query]?.[passesOf(source)?.[role] ?? ''] ?? '';
/** By what each is a machine's, as the plain rules have it. */
const kinds = new WeakMap<HopRecord, string>();
const isMail = (source: string): boolean => source.startsWith('newsle');
/** Efforts that lie over each other: by the beginning of sources, by one of them, by a link and by a page. */
const promotions: Promotion[] = [
  {
    ...{ id: 'prm_mail', name: 'Mail', from: '2026-03-01', until: '2026-10-25', note: '' },
    takes: [{ kind: 'sources', begins: 'newsle' }],
  },
  {
    ...{ id: 'prm_all', name: 'All', from: '2026-10-20', note: '' },
    takes: [
      { kind: 'source', source: 'newsletter' },
      { kind: 'link', link: 'lnk_a' },
      { kind: 'page', page: 'https://nightledge.example/saturn/' },
    ],
  },
];
const promotionsOf = (hop: HopRecord, zone: string): string => {
  const day = new Intl.DateTimeFormat('sv-SE', { timeZone: zone }).format(hop.at);
  const page = hop.from.split('?')[0]?.split('#')[0]?.replace(/\/$/, '');
  const found = [
    ...(day <= '2026-10-25' && day >= '2026-03-01' && sourceOf(hop.source).startsWith('newsle')
      ? ['prm_mail']
      : []),
    ...(day >= '2026-10-20' &&
    (sourceOf(hop.source) === sourceOf('newsletter') ||
      hop.link === 'lnk_a' ||
      page === 'https://nightledge.example/saturn')
      ? ['prm_all']
      : []),
  ];
  return found.join(' ');
};
/** What a request has of each dimension, read off the record alone. */
const plainValues: Record<DimensionName, (hop: HopRecord, zone: string) => string> = {
  link: (hop) => hop.link,
  source: (hop) => sourceOf(hop.source),
  promotion: promotionsOf,
  page: (hop) => hop.from.split('?')[0]?.split('#')[0] ?? '',
  site: (hop) => (hop.from === '' ? '' : new URL(hop.from).host),
  country: (hop) => hop.country,
  language: (hop) => hop.lang,
  bot: (hop) => kinds.get(hop) ?? '',
  connection: ({ hosting }) => (hosting === undefined ? '' : hosting ? 'hosting' : 'other'),
  device: (hop) => hop.device,
  branch: (hop) => hop.branch,
  browser: (hop) => (hop.ua.startsWith('Mozilla') ? 'Firefox' : ''),
  system: (hop) => (hop.ua.startsWith('Mozilla') ? 'Linux' : ''),
  destination: (hop) => plainWay(hop)?.page ?? '',
  writer: (hop) => plainWay(hop)?.tag ?? '',
  slot1: (hop) => plainWay(hop)?.slots[0] ?? '',
  // The name that was sent, though it is a slip.
  slot2: (hop) => (plainWay(hop)?.slots.length === 2 ? `x-${hop.source}` : ''),
  slot3: () => '',
  slot4: () => '',
  slot5: () => '',
  placement: (hop) => plainParameter(hop, 'placement'),
  keyword: (hop) => plainParameter(hop, 'keyword'),
  creative: () => '',
  hour: (hop, zone) => {
    const parts = plainHour(zone).formatToParts(hop.at);
    const part = (type: string) => parts.find((one) => one.type === type)?.value ?? '';
    return `${weekdays.indexOf(part('weekday')) + 1}-${Number(part('hour'))}`;
  },
  domain: (hop) => hop.host,
  network: (hop) => links.find(({ id }) => id === hop.link)?.network ?? '',
  program: (hop) => links.find(({ id }) => id === hop.link)?.program ?? '',
  group: (hop) => links.find(({ id }) => id === hop.link)?.group ?? '',
  tags: (hop) => [...(links.find(({ id }) => id === hop.link)?.tags ?? [])].sort().join(', '),
};
const names = Object.keys(plainValues) as DimensionName[]; // its own keys
/** What a condition may ask for: of several promotions each. */
const plainParts = (name: DimensionName, hop: HopRecord, zone: string): string[] =>
  name === 'promotion' ? promotionsOf(hop, zone).split(' ') : [plainValues[name](hop, zone)];

const calendars = new Map<string, Intl.DateTimeFormat>();
/** The day of a moment, asked of the platform. */
const plainDay = (zone: string, at: number): string => {
  const calendar =
    calendars.get(zone) ?? new Intl.DateTimeFormat('en-CA', { timeZone: zone, dateStyle: 'short' });
  calendars.set(zone, calendar);
  return calendar.format(at);
};

/** Days on which clocks change, and one on which they do not. */
const changes = [
  ['Europe/Berlin', '2026-03-29'],
  ['Europe/Berlin', '2026-10-25'],
  ['America/New_York', '2026-11-01'],
  ['America/New_York', '2026-03-08'],
  ['Australia/Lord_Howe', '2026-04-05'],
  ['Australia/Lord_Howe', '2026-10-04'],
  // Midnight is skipped, and shown twice.
  ['Africa/Cairo', '2026-04-24'],
  ['America/Havana', '2026-11-01'],
  ['UTC', '2026-06-01'],
] as const;
const hourMs = 3_600_000;
/** One value in most requests, so that many of them count. */
const mostly = <T>(usual: T, ...others: T[]): fc.Arbitrary<T> =>
  fc.oneof({ weight: 8, arbitrary: fc.constant(usual) }, fc.constantFrom(...others));
const clickOf = (n: number): string => `01K9${String(1000 + n).padStart(22, '0')}`;

const hops = (around: number): fc.Arbitrary<HopRecord[]> =>
  fc
    .array(
      fc.record({
        // Mostly one after the other, but a clock may be set.
        later: fc.oneof(
          { weight: 9, arbitrary: fc.integer({ min: 0, max: 5 * hourMs }) },
          { weight: 1, arbitrary: fc.integer({ min: -3 * hourMs, max: 0 }) },
        ),
        link: fc.constantFrom('lnk_a', 'lnk_b', 'lnk_c', 'lnk_gone'),
        source: fc.constantFrom('', 'newsletter', 'newsleter', 'flyer'),
        from: fc.constantFrom('', 'https://nightledge.example/', 'https://nightledge.example/saturn?a=1#b'),
        country: fc.constantFrom('', 'DE', 'JP'),
        lang: fc.constantFrom('', 'de', 'en'),
        hosting: fc.constantFrom({}, { hosting: true }, { hosting: false }),
        device: fc.constantFrom('phone' as const, 'tablet' as const, 'desktop' as const),
        branch: fc.constantFrom('everyone', 'b1', 'closed'),
        query: fc.constantFrom(...Object.keys(queries)),
        host: fc.constantFrom('see.nightledge.example', 'go.nightledge.example'),
        visitor: fc.constantFrom('00000000000000a1', '00000000000000a2', 'ffffffffffffffff'),
        ua: mostly(hopRecord().ua, '', 'curl/8.5.0'),
        status: mostly(307, 200, 404),
        method: mostly('GET', 'HEAD'),
        prefetch: mostly(false, true),
        test: mostly(false, true),
        // The click that led to the page, mostly one of the few before; visitors may name one that is to come, or their own.
        back: fc.option(
          fc.oneof({ weight: 4, arbitrary: fc.constantFrom(1, 2) }, fc.integer({ min: -9, max: 9 })),
        ),
      }),
      { maxLength: 40 },
    )
    .map((list) => {
      let at = around - 40 * hourMs;
      return list.map(({ later, back, hosting, ...rest }, i) => {
        const made = { ...rest, ...hosting, seq: i + 1, at: (at += later), click: clickOf(i) };
        return hopRecord(back === null ? made : { ...made, first: clickOf(i - back) });
      });
    });

/** The click that led to the page of another, as far as it is among some and older. */
const plainBefore = (list: readonly Seen[], { hop }: Seen): Seen | undefined => {
  const before = list.find((each) => each.hop.click === hop.first);
  if (!before || before.outcome !== 'counted') return undefined;
  const later = hop.at - before.hop.at;
  return later > 0 || (later === 0 && before.hop.seq < hop.seq) ? before : undefined;
};

interface Plain {
  onward: number;
  requests: number[];
  visitors: Set<string>;
  days: number[];
  /** By currency, in billionths. */
  costs: Record<string, number>;
  costsUnread: number;
}
const plainCosts: Readonly<Record<string, number>> = {
  '0.045': 45_000_000,
  '1,5': 1_500_000_000,
  '7': 7_000_000_000,
  '12': 12_000_000_000,
};
interface Seen {
  readonly hop: HopRecord;
  readonly outcome: Outcome;
  readonly day: string;
}
/** Counts by looking at one request after the other, and at each day by its name. */
const plainCount = (
  list: readonly Seen[],
  days: readonly string[],
  shown: Outcome,
  valueOf: (hop: HopRecord) => string,
): Map<string, Plain> => {
  const found = new Map<string, Plain>();
  const ofDays = list.filter(({ day }) => days.includes(day));
  for (const seen of ofDays) {
    const { hop, outcome, day } = seen;
    const value = valueOf(hop);
    let plain = found.get(value);
    if (!plain)
      found.set(
        value,
        (plain = {
          onward: 0,
          requests: outcomes.map(() => 0),
          visitors: new Set(),
          days: days.map(() => 0),
          costs: {},
          costsUnread: 0,
        }),
      );
    const place = outcomes.indexOf(outcome);
    plain.requests[place] = element(plain.requests[place]) + 1;
    const cost = passesOf(hop.source)?.cost;
    const text = queries[hop.query]?.[cost?.parameter ?? ''];
    if (cost && text !== undefined && outcome !== 'test' && outcome !== 'prefetch') {
      const parts = plainCosts[text];
      if (parts === undefined) plain.costsUnread += 1;
      else plain.costs[cost.currency] = (plain.costs[cost.currency] ?? 0) + parts;
    }
    if (outcome === 'counted') {
      plain.visitors.add(`${hop.visitor} ${day}`);
      const before = plainBefore(ofDays, seen);
      if (before && valueOf(before.hop) === value) plain.onward += 1;
    }
    if (outcome !== shown) continue;
    const at = days.indexOf(day);
    plain.days[at] = element(plain.days[at]) + 1;
  }
  return found;
};
const bare = (counts: ReadonlyMap<string, Plain>) =>
  Object.fromEntries(
    [...counts].map(([value, { visitors, ...rest }]) => [value, { ...rest, visitors: visitors.size }]),
  );

const around = fc
  .constantFrom(...changes)
  .chain(([zone, day]) => fc.tuple(fc.constant(zone), fc.constant(day), hops(Date.parse(`${day}T12:00Z`))));

describe('requests by what they are told apart by', () => {
  it('are as a slow recount has them, on days on which clocks change', () => {
    fc.assert(
      fc.property(
        around,
        fc.array(fc.tuple(fc.constantFrom(...names), fc.nat(), fc.boolean()), { maxLength: 3 }),
        fc.constantFrom<Outcome>('counted', 'counted', ...outcomes),
        ([zone, day, list], filters, shown) => {
          const { columns, classification } = classified(list, defaultRules, isMail);
          const kindsIn = classification.kindsIn.bind(classification);
          const input: DimensionInput = {
            ...{ columns, links, sourceOf, passesOf, promotions, zone, kindsIn },
          };
          const made = names.map((name) => requestDimensions[name](input));
          const days = daysOf(zone, ...([periodBefore(day, day)[0], day] as const));
          const plain = plainClassified(list, makeIsRobot(), defaultRules, isMail);
          for (const [i, hop] of list.entries()) kinds.set(hop, element(plain[i]).kind);
          const all = list.map((hop, i) => ({
            hop,
            outcome: element(plain[i]).outcome,
            day: plainDay(zone, hop.at),
          }));
          const chosen = filters.map(([name, n, not]) => {
            const values = [...new Set(list.flatMap((hop) => plainParts(name, hop, zone)))];
            return { name, values: values.filter((_, i) => (n + i) % 2 === 0), not };
          });
          const kept = all.filter(({ hop }) =>
            chosen.every(
              ({ name, values, not }) =>
                plainParts(name, hop, zone).some((value) => values.includes(value)) !== not,
            ),
          );
          const costs = passedCosts(columns, passesOf);
          const named = (counts: RequestCounts) => ({
            ...counts,
            costs: Object.fromEntries(
              (costs?.currencies ?? []).flatMap((currency, n) => {
                const parts = counts.costs[n] ?? 0;
                return parts === 0 ? [] : [[currency, parts]];
              }),
            ),
          });
          const { whole, outcomeDays, breakdowns } = countRequests(
            {
              costs,
              columns,
              classification,
              days,
              shown,
              where: chosen.map(({ name, ...rest }) => ({ ...rest, of: requestDimensions[name](input) })),
            },
            made,
          );
          for (const [i, name] of names.entries())
            expect([
              name,
              Object.fromEntries(
                [...element(breakdowns[i])].map(([value, counts]) => [value, named(counts)]),
              ),
            ]).toEqual([
              name,
              bare(plainCount(kept, days.names, shown, (hop) => plainValues[name](hop, zone))),
            ]);
          const nothing = {
            onward: 0,
            requests: outcomes.map(() => 0),
            visitors: 0,
            days: days.names.map(() => 0),
            costs: {},
            costsUnread: 0,
          };
          const plainWhole = (of: Outcome) =>
            bare(plainCount(kept, days.names, of, () => 'all'))['all'] ?? nothing;
          expect(named(whole)).toEqual(plainWhole(shown));
          expect(outcomeDays).toEqual(outcomes.map((outcome) => plainWhole(outcome).days));
        },
      ),
      { numRuns: 1000 },
    );
  });

  it('add up to the same whole by whatever they are told apart', () => {
    fc.assert(
      fc.property(around, ([zone, day, list]) => {
        const { columns, classification } = classified(list);
        const made = names.map((name) =>
          requestDimensions[name]({
            ...{ columns, links, sourceOf, passesOf, zone },
            kindsIn: (segment) => classification.kindsIn(segment),
          }),
        );
        const days = daysOf(zone, periodBefore(day, day)[0], day);
        const { whole, breakdowns } = countRequests({ columns, classification, days, where: [] }, made);
        for (const breakdown of breakdowns) {
          const sums = outcomes.map((_, i) =>
            [...breakdown.values()].reduce((sum, { requests }) => sum + element(requests[i]), 0),
          );
          expect(sums).toEqual(whole.requests);
        }
        expect(whole.days.reduce((sum, count) => sum + count, 0)).toBe(whole.requests[5]);
      }),
    );
  });

  it('that were rolled up by day count by what is known of them, and have no visitors', () => {
    const { columns, classification } = classified([
      hopRecord({ seq: 1, at: Date.UTC(2026, 9, 24, 12), link: 'lnk_a', source: 'flyer', country: 'DE' }),
    ]);
    const day = { day: '2026-10-23', theirDay: '2026-10-22' };
    const rolledUp = [
      { ...day, link: 'lnk_a', source: 'newsleter', outcome: 'counted' as const, count: 7 },
      { ...day, link: 'lnk_b', source: 'newsletter', outcome: 'bot' as const, count: 5 },
      { ...day, link: 'lnk_c', source: '', outcome: 'counted' as const, count: 3 },
      // Of another time.
      { ...day, day: '2026-10-21', link: 'lnk_a', source: '', outcome: 'counted' as const, count: 11 },
    ];
    const input = {
      ...{ columns, links, sourceOf, passesOf, zone: 'Europe/Berlin' },
      kindsIn: classification.kindsIn.bind(classification),
    };
    const days = daysOf('Europe/Berlin', '2026-10-22', '2026-10-24');
    const by = [requestDimensions.source(input), requestDimensions.country(input)];
    const counted = (where: Parameters<typeof countRequests>[0]['where']) =>
      countRequests({ columns, classification, days, rolledUp, where }, by);
    const { whole, breakdowns } = counted([]);
    const free = { onward: 0, costs: [], costsUnread: 0 };
    expect(whole).toEqual({ requests: [0, 0, 5, 0, 0, 11], visitors: 1, days: [0, 10, 1], ...free });
    expect(Object.fromEntries(element(breakdowns[0]))).toEqual({
      flyer: { requests: [0, 0, 0, 0, 0, 1], visitors: 1, days: [0, 0, 1], ...free },
      newsletter: { requests: [0, 0, 5, 0, 0, 7], visitors: 0, days: [0, 7, 0], ...free },
      '': { requests: [0, 0, 0, 0, 0, 3], visitors: 0, days: [0, 3, 0], ...free },
    });
    // Of which country they came from nothing is left.
    expect(element(breakdowns[1]).get('')?.requests).toEqual([0, 0, 5, 0, 0, 10]);
    const network = requestDimensions.network(input);
    expect(counted([{ of: network, values: ['net_h'] }]).whole.requests).toEqual([0, 0, 5, 0, 0, 8]);
    expect(counted([{ of: network, values: ['net_h'], not: true }]).whole.requests).toEqual([
      0, 0, 0, 0, 0, 3,
    ]);
    expect(counted([{ of: requestDimensions.country(input), values: ['DE'] }]).whole.requests).toEqual([
      0, 0, 0, 0, 0, 1,
    ]);
  });
});

describe('what a seller passes along', () => {
  it('is the first value of a parameter as a form sends it, whatever else stands there', () => {
    expect(passedValue('zone=12&zone=13', 'zone')).toBe('12');
    expect(passedValue('kw=%C3%BCber+uns%20', 'kw')).toBe('über uns');
    expect(passedValue('a&=3&kw=50%&zone', 'kw')).toBe('50%');
    expect(passedValue('zone', 'zone')).toBe('');
    expect(passedValue('Zone=12', 'zone')).toBe('');
  });

  it.each([
    ['0', 0],
    ['0.045', 45_000_000],
    ['0.0000000004', 0],
    ['0.0000000005', 1],
    ['0.99999999999', 1_000_000_000],
    ['12', 12_000_000_000],
    ['1.234', 1_234_000_000],
    ['0,045', 45_000_000],
    ['1,5', 1_500_000_000],
    // A thousand, or one and a bit.
    ['1,234', undefined],
    ['1.234,5', undefined],
    ['-0.5', undefined],
    ['1e3', undefined],
    ['€0.05', undefined],
    ['.5', undefined],
    ['{cpc}', undefined],
    ['', undefined],
  ])('costs %j: %j billionths', (text, parts) => {
    expect(readPassedCost(text)).toBe(parts);
  });

  it('adds up below a cent, and is rounded once', () => {
    const each = readPassedCost('0.0015') ?? 0;
    expect(sumsOfParts([each * 333, 0, 2.5e9], ['EUR', 'USD', 'JPY'])).toEqual([
      { currency: 'EUR', minor: 50 },
      { currency: 'JPY', minor: 3 },
    ]);
  });
});
