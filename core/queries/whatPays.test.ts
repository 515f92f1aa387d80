import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Cost, Rate } from '#core/catalogue';
import { addTo, element } from '#core/catalogue';
import { dayIn, dayName, dayNumber } from '#core/hop';
import { hopRecord } from '../visits/testing/records.ts';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Pays } from './index.ts';
import { answersFrom, Dataset } from './index.ts';
import { slowParts } from './testing/slow/costs.ts';
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
];
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
const bys = Object.keys(valueOf) as (keyof typeof valueOf)[];

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
        ({ journal, reports }, drawn, first, length, currency) => {
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
          });
          data.add(journal);
          const [from, to] = [dayAfter(first), dayAfter(first + length)];
          const ask = (by: keyof typeof valueOf): Pays =>
            answersFrom(data).whatPays({ by, from, to, where: [], currency, now });

          const places = currency === 'JPY' ? 1 : 100;
          const outcomes = outcomesOf(requestsOf(journal), new Set(['letter']));
          const { parts, missing } = slowParts({
            ...{ costs: noted, rates, to: currency, zone: domain.zone, today, outcomes },
          });
          const isIn = (day: string) => from <= day && day <= to;
          const spent = parts.filter(({ day }) => isIn(day));
          const { columns } = data.journal;
          for (const by of bys) {
            const { whole, lines, missing: told } = ask(by);
            const cost = new Map<string, number>();
            for (const { hop, cost: of, units } of spent) {
              const [link, source] = of.of.kind === 'link' ? [of.of.link, ''] : ['', of.of.source];
              const value = hop
                ? valueOf[by](hop)
                : by === 'branch' || (link === '' && by !== 'source')
                  ? ''
                  : valueOf[by]({ link, source } as Request);
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
              const value = hop
                ? valueOf[by](hop)
                : by === 'branch'
                  ? ''
                  : valueOf[by](unit as unknown as Request);
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
    for (const name of ['alone', 'no rate', 'no cost', 'wait', 'no visitors'])
      expect([name, (seen.get(name) ?? 0) > 0]).toEqual([name, true]);
  });
});
