import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Choice, Cost, Promotion, Rate } from '#core/catalogue';
import { addTo } from '#core/catalogue';
import { judge, priorOf, profitBand } from '#core/figures';
import { dayName, dayNumber } from '#core/hop';
import type { JournalRecord } from '#core/visits';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Pays } from './index.ts';
import { answersFrom, Dataset } from './index.ts';
import { seasonOf } from './testing/seasons.ts';
import { slowParts } from './testing/slow/costs.ts';
import { slowPromotions } from './testing/slow/promotions.ts';
import { dayOf } from './testing/slow/days.ts';
import type { Request } from './testing/slow/requests.ts';
import { outcomesOf, requestsOf } from './testing/slow/requests.ts';
import { domain, links, networks, programs, sources, worlds } from './testing/worlds.ts';

const now = Date.UTC(2026, 11, 20, 12);
const today = dayOf(domain.zone, now);
const firstDay = dayNumber('2026-09-25');
const dayAfter = (days: number) => dayName(firstDay + days);

const targets: Cost['of'][] = [
  { kind: 'source', source: 'letter' },
  { kind: 'source', source: 'nobody' },
  ...links.map(({ id }): Cost['of'] => ({ kind: 'link', link: id })),
  { kind: 'promotion', promotion: 'prm_0' },
  { kind: 'promotion', promotion: 'prm_1' },
];
const promotions = fc.array(
  fc.record({
    takes: fc.subarray<Promotion['takes'][number]>(
      [
        { kind: 'sources', begins: 'le' },
        { kind: 'sources', begins: 'gateway-' },
        { kind: 'source', source: 'gateway' },
        ...links.map(({ id }) => ({ kind: 'link' as const, link: id })),
      ],
      { minLength: 1, maxLength: 2 },
    ),
    first: fc.integer({ min: -3, max: 60 }),
    length: fc.option(fc.integer({ min: 0, max: 40 })),
  }),
  { maxLength: 3 },
);
const costs = fc.array(
  fc.record({
    of: fc.constantFrom(...targets),
    per: fc.constantFrom('click' as const, 'thousand' as const, 'day' as const, 'all' as const),
    amount: fc.constantFrom('310', '0.045', '7', '0.000001', '99.99', '1'),
    currency: fc.constantFrom('EUR', 'USD', 'JPY'),
    // Some of them lie before the first visit, and some in days that are yet to come.
    first: fc.integer({ min: -3, max: 100 }),
    length: fc.option(fc.integer({ min: 0, max: 60 })),
    billsAll: fc.boolean(),
  }),
  { maxLength: 6 },
);
const rate = (from: string, day: string, text: string, to = 'EUR'): Rate => ({
  id: `rat_${from}${to}${day.replaceAll('-', '')}`.toLowerCase().replace('rat_', 'rat_'),
  ...{ from, to, day, rate: text, source: 'my bank' },
});
/** The yen is known from the first day, the dollar only later, and it changes. */
const rates = [
  rate('JPY', '2026-01-01', '0.0061'),
  rate('USD', '2026-10-02', '0.9231'),
  rate('USD', '2026-11-01', '0.8999'),
  rate('EUR', '2026-01-01', '163.25', 'JPY'),
  rate('USD', '2026-10-10', '150', 'JPY'),
];

/** What a request is told apart by, from the request alone. */
const valueOf: Readonly<
  Record<'source' | 'link' | 'program' | 'network' | 'branch', (hop: Request) => string>
> = {
  source: ({ source }) => source,
  link: ({ link }) => link,
  program: ({ link }) => links.find(({ id }) => id === link)?.program ?? '',
  network: ({ link }) => links.find(({ id }) => id === link)?.network ?? '',
  branch: ({ branch }) => branch,
};
const bys = [...(Object.keys(valueOf) as (keyof typeof valueOf)[]), 'promotion'] as const;

describe('what visits cost and earned', () => {
  it('is what laying each cost on each request by hand comes to, by whatever it is told apart: 500 worlds, three currencies', () => {
    const seen = new Map<string, number>();
    fc.assert(
      fc.property(
        worlds,
        costs,
        fc.nat(60),
        fc.integer({ min: 1, max: 60 }),
        fc.constantFrom('EUR', 'JPY'),
        promotions,
        ({ journal, reports }, drawn, first, length, currency, efforts) => {
          const gathered = efforts.map(({ first: start, length: days, takes }, i): Promotion => ({
            ...{ id: `prm_${i}`, name: `Effort ${i}`, takes, from: dayAfter(start), note: '' },
            ...(days !== null && { until: dayAfter(start + days) }),
          }));
          const noted = drawn.map(({ first: start, length: days, billsAll, ...rest }, i): Cost => ({
            id: `cst_${i}`,
            ...rest,
            from: dayAfter(start),
            ...(days !== null && { until: dayAfter(start + days) }),
            ...(billsAll && { billsAll: true }),
            note: '',
          }));
          const data = new Dataset();
          data.setRecords({
            domains: [domain],
            networks,
            programs,
            links,
            reports,
            sources,
            costs: noted,
            rates,
            promotions: gathered,
          });
          data.add(journal);
          const [from, to] = [dayAfter(first), dayAfter(first + length)];
          const ask = (by: (typeof bys)[number]): Pays =>
            answersFrom(data).whatPays({ by, from, to, where: [], currency, now });

          const places = currency === 'JPY' ? 1 : 100;
          const outcomes = outcomesOf(requestsOf(journal), new Set(['letter']));
          const parts = slowParts({
            ...{
              costs: noted,
              rates,
              promotions: gathered,
              to: currency,
              zone: domain.zone,
              today,
              outcomes,
            },
          });
          const isIn = (day: string) => from <= day && day <= to;
          const spent = parts.filter(({ day, units }) => isIn(day) && !Number.isNaN(units));
          const missing = parts
            .filter(({ day, units }) => isIn(day) && Number.isNaN(units))
            .map((one) => one.cost.currency);
          const { columns } = data.journal;
          for (const by of bys) {
            const { whole, lines, missing: told } = ask(by);
            const cost = new Map<string, number>();
            const valueBy = (request: Request, day: string): string =>
              by === 'promotion' ? slowPromotions(gathered, request, day).join(' ') : valueOf[by](request);
            for (const {
              hop,
              cost: { of },
              day,
              units,
            } of spent) {
              const link = of.kind === 'link' ? of.link : '';
              const source = of.kind === 'source' ? of.source : '';
              const isOfPromotion = of.kind === 'promotion';
              const value = hop
                ? valueBy(hop, day)
                : isOfPromotion
                  ? by === 'promotion'
                    ? of.promotion
                    : ''
                  : by === 'branch' || (link === '' && by !== 'source' && by !== 'promotion')
                    ? ''
                    : valueBy({ link, source } as Request, day);
              if (isOfPromotion) addTo(seen, 'cost of a promotion');
              if (by === 'promotion' && value.includes(' ')) addTo(seen, 'two promotions');
              addTo(cost, value, units * places);
              if (hop === undefined) addTo(seen, 'alone');
            }
            const earned = new Map<string, number>();
            for (const unit of [...countedUnits(data).byLink.values()].flat()) {
              const { status, amount, currency: of, at } = pricedConversion(unit);
              const { row } = unit.match;
              const when = row < 0 ? at : columns.at(row);
              if (!isIn(dayOf(domain.zone, when)) || amount === null || status === 'reversed') continue;
              const hop =
                row < 0 ? undefined : [...outcomes.keys()].find(({ click }) => click === columns.click(row));
              const day = dayOf(domain.zone, when);
              const value = hop
                ? valueBy(hop, day)
                : by === 'branch'
                  ? ''
                  : valueBy(unit as unknown as Request, day);
              const known = rates
                .filter(
                  (one) => one.from === of && one.to === currency && one.day <= dayOf(domain.zone, when),
                )
                .sort((a, b) => a.day.localeCompare(b.day))
                .at(-1);
              const factor = of === currency ? 1 : Number(known?.rate ?? NaN);
              if (Number.isNaN(factor)) {
                addTo(seen, 'no rate');
                expect([value, lines.find((one) => one.value === value)?.verdict]).toEqual([
                  value,
                  'no rate',
                ]);
                continue;
              }
              const decimals = { EUR: 100, USD: 100, JPY: 1 }[of] ?? NaN;
              addTo(earned, value, (amount / decimals) * factor * places);
            }
            for (const {
              value,
              visits,
              visitors,
              approved,
              pending,
              worth,
              profit,
              band,
              ...line
            } of lines) {
              expect(Math.abs(line.cost - (cost.get(value) ?? 0))).toBeLessThan(1.001);
              expect(Math.abs(approved + pending - (earned.get(value) ?? 0))).toBeLessThan(2.001);
              expect(profit).toBe(approved + worth - line.cost);
              expect(visitors).toBeLessThanOrEqual(visits);
              expect(Math.abs(worth)).toBeLessThanOrEqual(Math.abs(pending));
              if (band) expect(band.low).toBeLessThanOrEqual(band.high);
              addTo(seen, line.verdict);
            }
            for (const [value, amount] of [...cost, ...earned])
              if (Math.abs(amount) > 0.001) expect(lines.map((one) => one.value)).toContain(value);
            // To the cent: the lines add up to the whole, and the whole is the sum of all costs.
            const sum = (pick: (line: Pays['whole']) => number) =>
              lines.reduce((total, line) => total + pick(line), 0);
            expect([whole.cost, whole.profit, whole.visits]).toEqual([
              sum((line) => line.cost),
              sum((line) => line.profit),
              sum((line) => line.visits),
            ]);
            const all = [...cost.values()].reduce((a, b) => a + b, 0);
            expect(Math.abs(whole.cost - all)).toBeLessThan(0.501);
            expect(told.map((one) => one.currency)).toEqual(expect.arrayContaining(missing));
          }
        },
      ),
      { numRuns: 500 },
    );
    // The worlds had each of these.
    for (const name of [
      ...['alone', 'no rate', 'no cost', 'wait', 'no visitors', 'cost of a promotion', 'two promotions'],
    ])
      expect([name, (seen.get(name) ?? 0) > 0]).toEqual([name, true]);
  });
});

/** A lump sum for all visits of a source. */
const lump = (source: string, amount: string, more: Partial<Cost> = {}): Cost => ({
  id: `cst_${source}`,
  of: { kind: 'source', source },
  per: 'all',
  amount,
  currency: 'EUR',
  from: '2026-10-01',
  note: '',
  ...more,
});

const asked = (journal: readonly JournalRecord[], noted: readonly Cost[], more: object = {}) => {
  const data = new Dataset();
  data.setRecords({ domains: [domain], networks, programs, links, costs: noted });
  data.add(journal);
  const pays = answersFrom(data).whatPays({
    ...{ by: 'source', from: '2026-10-02', to: '2026-12-20', where: [], currency: 'EUR', now },
    ...more,
  });
  const line = (source: string) => {
    const found = pays.lines.find(({ value }) => value === source);
    if (!found) throw new Error(`no line of ${source}`);
    return found;
  };
  return { data, pays, line };
};

describe('how a profit came about', () => {
  it('is what is said of each span of days alone, up to what is said of all of them', () => {
    const journal = seasonOf(now, [
      { source: 'before', day: '2026-10-01', visits: 1000, sales: 40 },
      ...['2026-10-20', '2026-11-03', '2026-11-29'].map((day) => ({
        ...{ source: 'pays', day, visits: 400, sales: 22, after: [0, 3, 9] },
      })),
    ]);
    const noted = [lump('pays', '150', { from: '2026-10-20', until: '2026-11-03' })];
    const { data, line } = asked(journal, noted);
    const question = { by: 'source' as const, where: [], currency: 'EUR', now, from: '2026-10-02' };
    const days = answersFrom(data).profitByDay({ ...question, to: '2026-12-20', value: 'pays' });
    expect(days).toHaveLength(14);
    expect([days[0]?.day, days.at(-1)?.day]).toEqual(['2026-10-02', '2026-12-20']);
    const { visitors, profit, band } = line('pays');
    expect(days.at(-1)).toEqual({ day: '2026-12-20', visitors, profit, band });
    for (const { day, ...said } of days) {
      const alone = answersFrom(data)
        .whatPays({ ...question, to: day })
        .lines.find(({ value }) => value === 'pays');
      expect(said).toEqual(
        alone
          ? { visitors: alone.visitors, profit: alone.profit, band: alone.band }
          : { visitors: 0, profit: 0, band: undefined },
      );
    }
    expect(new Set(days.map((one) => one.visitors))).toEqual(new Set([0, 400, 800, 1200]));
    // A single day is a single point.
    expect(
      answersFrom(data).profitByDay({ ...question, from: '2026-11-03', to: '2026-11-03', value: 'pays' }),
    ).toHaveLength(1);
  });
});

describe('what became of a decision', () => {
  const sold = (day: string, visits: number, sales: number) => ({
    ...{ source: 'sold', day, visits, sales, after: [9] },
  });
  const data = new Dataset();
  data.setRecords({
    ...{ domains: [domain], networks, programs, links },
    costs: [
      lump('sold', '300', { from: '2026-10-05', until: '2026-10-11' }),
      lump('later', '20', { of: { kind: 'source', source: 'sold' }, from: '2026-11-15' }),
    ],
  });
  data.add(
    seasonOf(now, [
      { source: 'before', day: '2026-10-01', visits: 1000, sales: 40 },
      ...['2026-10-05', '2026-10-08', '2026-10-11'].map((day) => sold(day, 400, 4)),
      sold('2026-11-15', 60, 3),
    ]),
  );
  const choice: Choice = {
    ...{
      id: 'chc_sold',
      day: '2026-10-12',
      made: 'cut',
      by: 'source',
      value: 'sold',
      name: 'sold',
      where: [],
    },
    ...{ from: '2026-10-03', to: '2026-10-12', currency: 'EUR', visitors: 1200, cost: 30_000 },
    ...{ profit: -30_000, note: '' },
  };
  const asked = (more: Partial<Choice> = {}, at = now) =>
    answersFrom(data).whatBecame({ choice: { ...choice, ...more }, now: at });

  it('is what as many visitors a day as before would have left since, by what is known by now, beside what came', () => {
    const line = answersFrom(data)
      .whatPays({ by: 'source', where: [], currency: 'EUR', now, from: choice.from, to: choice.to })
      .lines.find(({ value }) => value === 'sold');
    // The sales that were still to come are in: twelve of ten euros.
    expect([line?.visitors, line?.profit, line?.verdict]).toEqual([1200, -18_000, 'cut']);
    const found = asked();
    // 1,200 visitors in ten days, and 69 days since.
    expect(found?.days).toBe(69);
    expect(found?.complete).toBe(1);
    expect(found?.would?.low).toBeCloseTo(120 * 69 * (line?.band?.low ?? NaN), 6);
    expect(found?.would?.high).toBeCloseTo(120 * 69 * (line?.band?.high ?? NaN), 6);
    expect(found?.would?.high).toBeLessThan(0);
    expect(found?.since).toEqual({ visitors: 60, cost: 2000, profit: 1000, verdict: 'keep testing' });
  });

  it('says how much of it is known while sales are still to come, and nothing on its own day', () => {
    const evening = Date.UTC(2026, 9, 12, 20);
    expect(asked({}, evening)).toBeUndefined();
    const week = asked({}, evening + 4 * 86_400_000);
    expect(week?.days).toBe(4);
    expect(week?.complete).toBeLessThan(0.9);
    expect(week?.since).toBeUndefined();
  });

  it('says nothing of what is not known here: another word for what rows are told apart by, a row nobody came by', () => {
    expect(asked({ by: 'weather' })).toBeUndefined();
    expect(asked({ where: [{ of: 'weather', values: ['rain'] }] })).toBeUndefined();
    expect(asked({ value: 'nobody' })).toEqual({ days: 69, complete: 0, would: undefined, since: undefined });
  });
});

describe('what is to be done', () => {
  const before = { source: 'before', day: '2026-10-01', visits: 1000, sales: 40 };
  const of = (source: string, visits: number, sales: number, day = '2026-10-20', more: object = {}) => ({
    ...{ source, day, visits, sales, ...more },
  });

  it('cuts nothing whose sum was paid for visits still to come, whatever they are told apart by', () => {
    const journal = seasonOf(now, [before, of('loses', 1500, 3), of('pays', 1500, 90)]);
    const verdicts = (until: string, more: object = {}) => {
      const { pays } = asked(
        journal,
        [lump('loses', '600', { until }), lump('pays', '150', { until })],
        more,
      );
      return pays.lines.map(({ value, verdict, paidUntil }) => [value, verdict, paidUntil]);
    };
    expect(verdicts('2026-12-20')).toEqual([
      ['loses', 'cut', undefined],
      ['pays', 'scale', undefined],
    ]);
    expect(verdicts('2026-12-21')).toEqual([
      ['loses', 'wait', '2026-12-21'],
      // What earns by now earns more when it costs less.
      ['pays', 'scale', '2026-12-21'],
    ]);
    const [one] = verdicts('2026-12-21', { by: 'device', where: [{ of: 'source', values: ['loses'] }] });
    expect(one?.slice(1)).toEqual(['wait', '2026-12-21']);
    // Of days before the sum began nothing waits for it.
    expect(verdicts('2026-12-21', { from: '2026-09-25', to: '2026-09-30' })).toEqual([]);
  });

  it('takes visits of this hour for what has usually come by then', () => {
    const at = Date.UTC(2026, 9, 20, 7);
    // Who buys does so within a minute: of a hundred visits of the last hour everything has come.
    const young = seasonOf(at, [{ source: 'young', day: '2026-10-20', visits: 100, sales: 30 }]);
    const { evidence } = asked(young, [], { to: '2026-10-20', now: at }).line('young');
    expect(evidence).toMatchObject({ visitors: 100, ripe: 100, conversions: 30 });
  });

  it('follows from the evidence: every verdict, and the rows that lose most a week first', () => {
    const journal = seasonOf(now, [
      before,
      of('free', 500, 20),
      of('pays', 1500, 90),
      of('loses', 1500, 3),
      of('even', 300, 9),
      of('empty', 0, 0),
    ]);
    const noted = [
      lump('pays', '150'),
      lump('loses', '600'),
      lump('even', '90'),
      lump('empty', '50', { from: '2026-10-05' }),
    ];
    const { data, pays, line } = asked(journal, noted);
    expect(pays.lines.map(({ value, verdict }) => [value, verdict])).toEqual([
      ['loses', 'cut'],
      ['empty', 'no visitors'],
      ['pays', 'scale'],
      ['free', 'no cost'],
      ['even', 'keep testing'],
    ]);
    // By hand: every sale has come, was approved and pays ten euros; four of a hundred bought before these days.
    const evidence = {
      ...{ visitors: 1500, ripe: 1500, conversions: 90, cost: 15_000, prior: priorOf(0.04) },
      payout: { mean: 1000, spread: 0, sales: 162 },
    };
    const { band, profit, evidence: used } = line('pays');
    expect(used).toMatchObject({ ...evidence, prior: { hits: 3, misses: expect.closeTo(72, 6) } });
    expect(judge(evidence)).toBe('scale');
    expect(band?.low).toBeCloseTo(profitBand(evidence).low, 5);
    expect(profit).toBe(90 * 1000 - 15_000);
    expect(pays.whole.profit).toBe((20 + 90 + 3 + 9) * 1000 - 89_000);
    // What a visitor earns is the same before what one cost.
    const earned = answersFrom(data).earnedBands({
      ...{ by: 'source', from: '2026-10-02', to: '2026-12-20', where: [], currency: 'EUR', now },
    });
    const free = profitBand({ ...evidence, cost: 0 });
    expect(earned.find(({ value }) => value === 'pays')).toEqual({
      ...{ value: 'pays', visitors: 1500 },
      ...{ low: expect.closeTo(free.low, 5), high: expect.closeTo(free.high, 5) },
    });
    expect(earned.map(({ value }) => value).toSorted()).toEqual(['even', 'free', 'loses', 'pays']);
    // Before the first visits nothing is known: one of a hundred, worth half a conversion.
    const ofAll = asked(journal, noted, { from: '2026-09-25' });
    expect(ofAll.line('before').evidence?.prior).toEqual({ hits: 0.5, misses: 49.5 });
    // Alone it is judged as it is beside the others.
    const where = [{ of: 'source', values: ['pays'] }];
    expect(asked(journal, noted, { where }).pays.lines).toEqual([line('pays')]);
    const { needed } = line('even');
    expect(needed?.fewest).toBeGreaterThan(0);
    expect(needed?.most).toBe(Infinity);
  });

  it('waits for a young source whose sales are still to come, and cuts nobody for being young', () => {
    const after = [5, 10, 20, 28];
    const old = Array.from({ length: 6 }, (_, i) =>
      of('old', 500, 40, dayName(dayNumber('2026-10-03') + i), { after }),
    );
    const young = of('young', 900, 72, '2026-12-19', { after });
    const { line } = asked(seasonOf(now, [before, ...old, young]), [
      lump('young', '100'),
      lump('old', '100'),
    ]);
    expect([line('young').verdict, line('old').verdict]).toEqual(['wait', 'scale']);
    expect(line('young').ripe).toBeLessThan(450);
    expect(line('old').ripe).toBeCloseTo(3000, 0);
    expect(line('young').conversions).toBe(0);
  });

  it('takes what is pending for what usually becomes of it', () => {
    const decided = [
      of('sure', 400, 60, '2026-10-03', { decided: 20 }),
      of('sure', 400, 20, '2026-10-04', { status: 'reversed', decided: 20 }),
    ];
    const { line, pays } = asked(
      seasonOf(now, [...decided, of('open', 400, 40, '2026-12-15', { status: 'pending' })]),
      [lump('open', '100')],
    );
    const { pending, worth, approved, conversions, evidence, cost, profit } = line('open');
    expect([pending, approved, conversions, cost]).toEqual([40_000, 0, 40, 10_000]);
    // Sixty of eighty became approved.
    expect(worth).toBe(30_000);
    expect(profit).toBe(20_000);
    expect(evidence?.conversions).toBeCloseTo(30, 6);
    expect(line('sure')).toMatchObject({ conversions: 60, reversed: 20, approved: 60_000, pending: 0 });
    expect(pays.whole).toMatchObject({ approved: 60_000, pending: 40_000, worth: 30_000 });
  });

  it('says nothing of a source whose cost or sales are in a currency without a rate, and goes on with the others', () => {
    const journal = seasonOf(now, [before, of('pays', 1500, 90), of('abroad', 1500, 90)]);
    const { line, pays } = asked(journal, [lump('pays', '150'), lump('abroad', '150', { currency: 'USD' })]);
    expect([line('pays').verdict, line('abroad').verdict, pays.whole.verdict]).toEqual([
      'scale',
      'no rate',
      'no rate',
    ]);
    expect(line('abroad').band).toBeUndefined();
    expect(pays.missing).toEqual([{ currency: 'USD', day: '2026-10-01' }]);
    // Narrowed to another source it does not matter; to what a cost may be a part of, it does.
    const abroad = [lump('abroad', '150', { currency: 'USD' })];
    const narrowed = (of: string, value: string) =>
      asked(journal, abroad, { where: [{ of, values: [value] }] }).pays;
    expect(narrowed('source', 'pays').lines.map(({ value, verdict }) => [value, verdict])).toEqual([
      ['pays', 'no cost'],
    ]);
    expect(narrowed('source', 'pays').missing).toEqual([]);
    expect(narrowed('device', 'desktop').lines.map(({ value, verdict }) => [value, verdict])).toEqual([
      ['abroad', 'no rate'],
      ['pays', 'no cost'],
    ]);
    const yen = asked(journal, [], { currency: 'JPY' });
    expect(yen.pays.lines.map(({ verdict }) => verdict)).toEqual(['no rate', 'no rate']);
    // Also where nobody bought in these days: what one would pay is not known, and it is said for want of which rate.
    const idle = [...journal, ...seasonOf(now, [of('idle', 5, 0, '2026-12-18')])].map((one, i) => ({
      ...one,
      seq: i + 1,
    }));
    const late = asked(idle, [], { currency: 'JPY', from: '2026-12-18', to: '2026-12-18' }).pays;
    expect(late.lines.map(({ value, verdict }) => [value, verdict])).toEqual([['idle', 'no rate']]);
    expect(late.missing).toEqual([{ currency: 'EUR', day: '2026-10-01' }]);
  });

  it('counts machines’ clicks as cost where the seller bills them, and a share of commission for what it is of', () => {
    const bots = of('pays', 200, 0, '2026-10-20', { ua: 'Examplebot/1.0 (+https://robot.example)' });
    const journal = seasonOf(now, [before, of('pays', 300, 12, '2026-10-21'), bots]);
    const click = { per: 'click' as const, amount: '0.1' };
    const costOf = (...noted: Cost[]) => asked(journal, noted).line('pays').cost;
    expect(costOf(lump('pays', '0.1', click))).toBe(3000);
    expect(costOf(lump('pays', '0.1', { ...click, billsAll: true }))).toBe(5000);
    expect(costOf(lump('pays', '25', { per: 'share' }))).toBe(3000);
    expect(costOf(lump('pays', '25', { per: 'share', until: '2026-10-20' }))).toBe(0);
  });

  it('keeps a cost where it was, once the requests it paid for are rolled up', () => {
    const journal = seasonOf(now, [before, of('pays', 1500, 90), of('loses', 1500, 3, '2026-11-20')]);
    const noted = [lump('pays', '150.01'), lump('loses', '0.07', { per: 'click' })];
    const { data, pays } = asked(journal, noted);
    data.rollUp(Date.UTC(2026, 10, 10));
    expect(data.rolledUp.counts.length).toBeGreaterThan(0);
    const after = answersFrom(data).whatPays({
      ...{ by: 'source', from: '2026-10-02', to: '2026-12-20', where: [], currency: 'EUR', now },
    });
    const money = ({ lines }: Pays) =>
      lines.map(({ value, cost, approved, profit, visits, visitors, verdict }) => [
        ...[value, cost, approved, profit, visits, visitors, verdict],
      ]);
    expect(money(after)).toEqual(money(pays));
  });
});
