import type { Status } from '#core/catalogue';
import { dayIn } from '#core/hop';
import { commissionOf, isMoreThanChance } from '#core/figures';
import type { Condition, Days, Dimension, DimensionName, RequestCounts } from '#core/traffic';
import { countRequests, daysOf, holdsAt, periodBefore, requestDimensions, valueAt } from '#core/traffic';
import type { Sum } from '#core/values';
import type { Outcome } from '#core/visits';
import { outcomes } from '#core/visits';
import type { CountedUnit } from './countedUnits.ts';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';

/** What is asked of traffic: all of it in the address of a screen, and in the arguments of a command. */
export interface TrafficQuestion {
  readonly by: DimensionName;
  /** First and last day in the person's own zone, `2026-10-24`. */
  readonly from: string;
  readonly to: string;
  /** Values that requests have, or do not have; all of it must hold. */
  readonly where: readonly (Omit<Condition, 'of'> & { readonly of: DimensionName })[];
}

/** Requests and conversions of one value, or of all. */
export interface TrafficFigures {
  readonly requests: Readonly<Record<Outcome, number>>;
  /** Visitors, each once a day: visitor-days over several. */
  readonly visitors: number;
  /** Counted visits of each day. */
  readonly days: readonly number[];
  /** Counted visits of the period before, and visitors. */
  readonly before: { readonly counted: number; readonly visitors: number };
  /** Whether the counted visits of a day changed by more than chance; undefined of too few days. */
  readonly changed: boolean | undefined;
  /** Conversions by their state. */
  readonly states: Readonly<Record<Status, number>>;
  /** What was not reversed, by currency. */
  readonly commission: readonly Sum[];
}

export interface Traffic {
  /** The days, `2026-10-24`. */
  readonly days: readonly string[];
  readonly whole: TrafficFigures;
  /** The value with the most visitors first; an empty value is what is not known or not set. */
  readonly lines: readonly (TrafficFigures & { readonly value: string })[];
  /** Requests before this day were rolled up, and their visitors are not known; undefined where all of the period is there. */
  readonly rolledUpBefore: string | undefined;
}

const noRequests: RequestCounts = { requests: [], visitors: 0, days: [] };

/** What a unit is told apart by: its click's value, or what is known without the click. */
const valueOfUnit = ({ journal }: Dataset, of: Dimension, { match, link, source }: CountedUnit): string =>
  match.row < 0 ? of.ofLink(link, source) : valueAt(of, journal.columns, match.row);

/** Conversions of a period where all conditions hold, by a dimension. */
const unitsBy = (data: Dataset, { starts, names }: Days, where: readonly Condition[], of: Dimension) => {
  const [from, until] = [starts[0] ?? Infinity, starts[names.length] ?? -Infinity];
  const found = new Map<string, CountedUnit[]>();
  const all: CountedUnit[] = [];
  for (const list of countedUnits(data).byLink.values())
    for (const unit of list) {
      const { at } = unit.conversion;
      if (at < from || at >= until) continue;
      if (!where.every((condition) => holdsAt(condition, valueOfUnit(data, condition.of, unit)))) continue;
      all.push(unit);
      const value = valueOfUnit(data, of, unit);
      const units = found.get(value);
      if (units) units.push(unit);
      else found.set(value, [unit]);
    }
  return { all, found };
};

const figuresOf = (
  counts: RequestCounts | undefined,
  before: RequestCounts | undefined,
  units: readonly CountedUnit[],
  dayCount: number,
): TrafficFigures => {
  const { requests, visitors, days } = counts ?? noRequests;
  const then = before ?? noRequests;
  const empty = Array.from({ length: dayCount }, () => 0);
  const real = units.filter(({ conversion }) => !conversion.refundOnly);
  const inState = (status: Status) => real.filter(({ conversion }) => conversion.status === status).length;
  const byOutcome = Object.fromEntries(outcomes.map((outcome, i) => [outcome, requests[i] ?? 0]));
  return {
    requests: byOutcome as Record<Outcome, number>, // each outcome was just put in
    visitors,
    days: days.length > 0 ? days : empty,
    before: { counted: then.requests[outcomes.indexOf('counted')] ?? 0, visitors: then.visitors },
    changed: isMoreThanChance(days.length > 0 ? days : empty, then.days.length > 0 ? then.days : empty),
    states: {
      pending: inState('pending'),
      approved: inState('approved'),
      paid: inState('paid'),
      reversed: inState('reversed'),
    },
    commission: commissionOf(units.map(pricedConversion)),
  };
};

/** Requests, visitors and conversions of a period, by what they are told apart by. */
export const traffic = (data: Dataset, { by, from, to, where: asked }: TrafficQuestion): Traffic => {
  const { classification, journal, rolledUp, zone, sourceOf, records } = data;
  const { columns } = journal;
  const input = { columns, links: records.links, sourceOf, zone };
  const made = new Map<DimensionName, Dimension>();
  const dimension = (name: DimensionName): Dimension => {
    let known = made.get(name);
    if (!known) made.set(name, (known = requestDimensions[name](input)));
    return known;
  };
  const where = asked.map(({ of, ...rest }) => ({ ...rest, of: dimension(of) }));
  const of = dimension(by);
  const days = daysOf(zone, from, to);
  const earlier = daysOf(zone, ...periodBefore(from, to));
  const count = (period: Days) =>
    countRequests({ columns, classification, days: period, rolledUp: rolledUp.counts, where }, [of]);
  const [now, then] = [count(days), count(earlier)];
  const { all, found: units } = unitsBy(data, days, where, of);
  const [byValue, before] = [now.breakdowns[0], then.breakdowns[0]];
  const values = new Set([...(byValue?.keys() ?? []), ...(before?.keys() ?? []), ...units.keys()]);
  const dayCount = days.names.length;
  const lines = [...values].map((value) => ({
    value,
    ...figuresOf(byValue?.get(value), before?.get(value), units.get(value) ?? [], dayCount),
  }));
  const firstWhole = dayIn(zone, rolledUp.before);
  return {
    days: days.names,
    whole: figuresOf(now.whole, then.whole, all, dayCount),
    lines: lines.toSorted(
      (a, b) =>
        b.visitors - a.visitors ||
        b.requests.counted - a.requests.counted ||
        b.before.counted - a.before.counted ||
        (a.value < b.value ? -1 : 1),
    ),
    rolledUpBefore: rolledUp.before > 0 && firstWhole > from ? firstWhole : undefined,
  };
};
