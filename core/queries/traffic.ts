import type { Status } from '#core/catalogue';
import { dayIn } from '#core/hop';
import { commissionOf, isMoreThanChance } from '#core/figures';
import type { Condition, Days, Dimension, DimensionName, RequestCounts } from '#core/traffic';
import {
  countRequests,
  daysOf,
  holdsAt,
  passedCosts,
  periodBefore,
  sumsOfParts,
  valueAt,
} from '#core/traffic';
import type { Sum } from '#core/values';
import type { Outcome } from '#core/visits';
import { outcomes } from '#core/visits';
import type { CountedUnit } from './countedUnits.ts';
import { countedUnits, pricedConversion } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';
import { firstDay } from './firstDay.ts';
import { dimensionsOf } from './trafficDimensions.ts';
import type { Visit } from './visits.ts';
import { newestRows, visitIn } from './visits.ts';

/** What is asked of traffic: all of it in the address of a screen, and in the arguments of a command. */
export interface TrafficQuestion {
  readonly by: DimensionName;
  /** First and last day in the person's own zone, `2026-10-24`. */
  readonly from: string;
  readonly to: string;
  /** Values that requests have, or do not have; all of it must hold. */
  readonly where: readonly (Omit<Condition, 'of'> & { readonly of: DimensionName })[];
  /** What is told by day, ranked, and compared with the period before; counted visits where none is given. */
  readonly show?: Outcome | undefined;
  /** True where conversions are not wanted: they are then all nought, and matching them costs nothing. */
  readonly requestsOnly?: boolean | undefined;
}

/** Requests and conversions of one value, or of all. */
export interface TrafficFigures {
  readonly requests: Readonly<Record<Outcome, number>>;
  /** Visitors, each once a day: visitor-days over several. */
  readonly visitors: number;
  /** Of the counted requests, those from a page of the person's own that another of them led to. */
  readonly onward: number;
  /** What is shown, of each day. */
  readonly days: readonly number[];
  /** What is shown, of each day of the period before. */
  readonly daysBefore: readonly number[];
  /** Visitors of the period before, each once a day. */
  readonly visitorsBefore: number;
  /** Whether what is shown changed by more than chance; undefined of too few days, and where nothing is known of those before. */
  readonly changed: boolean | undefined;
  /** Conversions by their state. */
  readonly states: Readonly<Record<Status, number>>;
  /** What was not reversed, by currency. */
  readonly commission: readonly Sum[];
  /** What the requests cost by what their sellers passed along, bots and repeats too, tests not. */
  readonly passedCost: readonly Sum[];
  /** Requests with a cost that cannot be read, which is in no sum. */
  readonly costsUnread: number;
}

export interface Traffic {
  /** The days, `2026-10-24`. */
  readonly days: readonly string[];
  readonly whole: TrafficFigures;
  /** Requests of each day by what became of them. */
  readonly outcomeDays: Readonly<Record<Outcome, readonly number[]>>;
  /** The value with the most of what is shown first, of counted visits with the most visitors; an empty value is what is not known or not set. */
  readonly lines: readonly (TrafficFigures & { readonly value: string })[];
  /** Conversions were not asked for: nothing that rests on them is to be shown. */
  readonly requestsOnly: boolean;
  /** The first day of which requests are known, where it lies within the period before: there is nothing to compare with. */
  readonly knownSince: string | undefined;
  /** Requests before this day were rolled up, and their visitors are not known; undefined where all of the period is there. */
  readonly rolledUpBefore: string | undefined;
}

/** A request, and how many conversions it led to. */
export interface NewestRequest extends Visit {
  readonly conversions: number;
}

const noRequests: RequestCounts = {
  requests: [],
  visitors: 0,
  onward: 0,
  days: [],
  costs: [],
  costsUnread: 0,
};

/** What a unit is told apart by: its click's value, or what is known without the click. */
const valueOfUnit = (
  { journal, zone }: Dataset,
  of: Dimension,
  { match, link, source, conversion }: CountedUnit,
): string =>
  match.row < 0
    ? of.ofLink(link, source, dayIn(zone, conversion.at))
    : valueAt(of, journal.columns, match.row);

/** Conversions of visits in some days, all of them and by a dimension of their clicks. */
export const unitsBy = (
  data: Dataset,
  { starts, names }: Days,
  where: readonly Condition[],
  of: Dimension,
) => {
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

const byOutcome = <T>(of: (number: number) => T): Record<Outcome, T> =>
  Object.fromEntries(outcomes.map((outcome, i) => [outcome, of(i)])) as Record<Outcome, T>; // each was just put in

const figuresOf = (
  counts: RequestCounts | undefined,
  before: RequestCounts | undefined,
  units: readonly CountedUnit[],
  dayCount: number,
  isCompared: boolean,
  currencies: readonly string[],
): TrafficFigures => {
  const { requests, visitors, onward, days, costs, costsUnread } = counts ?? noRequests;
  const then = before ?? noRequests;
  const filled = (list: readonly number[]) =>
    list.length > 0 ? list : Array.from({ length: dayCount }, () => 0);
  const real = units.filter(({ conversion }) => !conversion.refundOnly);
  const inState = (status: Status) => real.filter(({ conversion }) => conversion.status === status).length;
  const [daysNow, daysBefore] = [filled(days), filled(then.days)];
  return {
    requests: byOutcome((i) => requests[i] ?? 0),
    visitors,
    onward,
    days: daysNow,
    daysBefore,
    visitorsBefore: then.visitors,
    changed: isCompared ? isMoreThanChance(daysNow, daysBefore) : undefined,
    states: {
      pending: inState('pending'),
      approved: inState('approved'),
      paid: inState('paid'),
      reversed: inState('reversed'),
    },
    commission: commissionOf(units.map(pricedConversion)),
    passedCost: sumsOfParts(costs, currencies),
    costsUnread,
  };
};

/** The newest requests of a period that fit a question and became what is shown, with the conversions each led to. */
export const newestRequests = (
  data: Dataset,
  { from, to, where: asked, show: shown = 'counted' }: Omit<TrafficQuestion, 'by'>,
  most: number,
): NewestRequest[] => {
  const { columns } = data.journal;
  const dimension = dimensionsOf(data);
  const where = asked.map(({ of, ...rest }) => ({ ...rest, of: dimension(of) }));
  const { starts, names } = daysOf(data.zone, from, to);
  const [first, until] = [starts[0] ?? Infinity, starts[names.length] ?? -Infinity];
  const { byRow } = countedUnits(data);
  const { classification } = data;
  const fits = (row: number): boolean => {
    const at = columns.at(row);
    return (
      at >= first &&
      at < until &&
      classification.outcome(row) === shown &&
      where.every((condition) => holdsAt(condition, valueAt(condition.of, columns, row)))
    );
  };
  return newestRows(columns, fits, most).map((row) => {
    const conversions = (byRow.get(row) ?? []).filter(({ conversion }) => !conversion.refundOnly).length;
    return { ...visitIn(data, row), conversions };
  });
};

/** Requests, visitors and conversions of a period, by what they are told apart by. */
export const traffic = (
  data: Dataset,
  { by, from, to, where: asked, show: shown = 'counted', requestsOnly = false }: TrafficQuestion,
): Traffic => {
  const { classification, journal, rolledUp, zone } = data;
  const { columns } = journal;
  const dimension = dimensionsOf(data);
  const where = asked.map(({ of, ...rest }) => ({ ...rest, of: dimension(of) }));
  const of = dimension(by);
  const days = daysOf(zone, from, to);
  const [fromBefore, toBefore] = periodBefore(from, to);
  const earlier = daysOf(zone, fromBefore, toBefore);
  const first = firstDay(data);
  const knownSince = first !== undefined && first > fromBefore ? first : undefined;
  const isCompared = knownSince === undefined;
  const costs = passedCosts(columns, data.passesOf);
  const currencies = costs?.currencies ?? [];
  const input = { columns, classification, rolledUp: rolledUp.counts, where, shown };
  const count = (period: Days, costsToo?: typeof costs) =>
    countRequests({ ...input, days: period, costs: costsToo }, [of]);
  const [now, then] = [count(days, costs), count(earlier)];
  const { all, found: units } = requestsOnly
    ? { all: [], found: new Map<string, CountedUnit[]>() }
    : unitsBy(data, days, where, of);
  const [byValue, before] = [now.breakdowns[0], then.breakdowns[0]];
  const values = new Set([...(byValue?.keys() ?? []), ...(before?.keys() ?? []), ...units.keys()]);
  const dayCount = days.names.length;
  const lines = [...values].map((value) => ({
    value,
    ...figuresOf(
      byValue?.get(value),
      before?.get(value),
      units.get(value) ?? [],
      dayCount,
      isCompared,
      currencies,
    ),
  }));
  const rank = ({ visitors, requests }: TrafficFigures) => (shown === 'counted' ? visitors : requests[shown]);
  const firstWhole = dayIn(zone, rolledUp.before);
  return {
    days: days.names,
    whole: figuresOf(now.whole, then.whole, all, dayCount, isCompared, currencies),
    requestsOnly,
    knownSince,
    outcomeDays: byOutcome((i) => now.outcomeDays[i] ?? []),
    lines: lines.toSorted(
      (a, b) =>
        rank(b) - rank(a) ||
        b.requests[shown] - a.requests[shown] ||
        b.visitorsBefore - a.visitorsBefore ||
        (a.value < b.value ? -1 : 1),
    ),
    rolledUpBefore: rolledUp.before > 0 && firstWhole > from ? firstWhole : undefined,
  };
};
