import type { Cost } from '#core/catalogue';
import { element, pushTo } from '#core/catalogue';
import { dayIn, dayName, dayNumber } from '#core/hop';
import type { Days, Dimension, PassedCosts } from '#core/traffic';
import { daysOf } from '#core/traffic';
import type { Classification, DailyCount, VisitColumns } from '#core/visits';
import { outcomeNumber } from '#core/visits';
import type { CostRates, MissingRate } from './rates.ts';
import { partsPerUnit } from './rates.ts';

export interface LayInput {
  readonly columns: VisitColumns;
  /** Of all rows of the columns. */
  readonly classification: Pick<Classification, 'outcomes'>;
  /** Requests of which only their numbers are left. */
  readonly rolledUp: readonly DailyCount[];
  readonly costs: readonly Cost[];
  readonly rates: CostRates;
  /** The person's own zone, by whose days costs go. */
  readonly zone: string;
  /** Today there: of later days nothing is paid yet. */
  readonly today: string;
  readonly sourceOf: (name: string) => string;
  readonly placement: Dimension;
  /** What sellers pass along of each request. */
  readonly passed?: PassedCosts | undefined;
}

/** What became of one cost. */
export interface LaidCost {
  readonly cost: Cost;
  /** Counted visits it paid for, and all requests but tests. */
  readonly visits: number;
  readonly requests: number;
  /** All of it until today, in billionths of a unit of the one currency; undefined where a rate is missing. */
  readonly parts: number | undefined;
  /** First and last day of visits whose part is not known, as a rate is missing. */
  readonly unpriced: readonly [from: string, to: string] | undefined;
  /** Of a cost by clicks: what it would be, were the other number billed. */
  readonly otherwise: number | undefined;
}

/** A part of a cost that came to no visit, on the day of which it is. */
export interface AloneCost {
  readonly cost: Cost;
  readonly day: string;
  readonly parts: number;
}

/** A source of which costs that were passed along are missing. */
export interface UnpricedSource extends MissingRate {
  readonly source: string;
}

/** Costs laid on the visits they paid for, in billionths of a unit of one currency. */
export interface LaidCosts {
  /** Of each segment the cost of each row; undefined where no row of it cost anything. */
  readonly rows: readonly (Float64Array | undefined)[];
  /** Of each count of requests that were rolled up. */
  readonly rolledUp: Float64Array;
  readonly alone: readonly AloneCost[];
  /** In the order of the costs; a share of commission is laid on conversions, not here. */
  readonly of: readonly LaidCost[];
  /** Requests whose cost was passed along and cannot be read. */
  readonly unread: number;
  /** Sources whose seller passes along costs in a currency of which no rate is known, with the first day of it. */
  readonly unpriced: readonly UnpricedSource[];
}

/**
 * The part of a total that some of so many get, one after the other: whole parts, of which the first get one more, so that all of them
 * add up to the total.
 *
 * @param place how many got theirs before
 */
const shareOf = (total: number, of: number, place: number, count: number): number => {
  const each = Math.floor(total / of);
  const more = total - each * of;
  return each * count + Math.max(0, Math.min(place + count, more) - place);
};

const { counted, test, prefetch } = outcomeNumber;

/** A cost that goes by visits, and what was seen of them. */
class Laying {
  /** Days as places among those that are looked at: of a cost by days each by itself. */
  readonly first: number;
  readonly last: number;
  readonly isDaily: boolean;
  /** Counted visits and all requests, by day or of all days. */
  readonly visits: Float64Array;
  readonly requests: Float64Array;
  /** How many were given their part. */
  readonly given: Float64Array;
  readonly #parts = new Map<number, number | undefined>();

  constructor(
    readonly cost: Cost,
    readonly days: Days,
    readonly rates: CostRates,
    firstDay: number,
  ) {
    this.isDaily = cost.per !== 'all';
    this.first = dayNumber(cost.from) - firstDay;
    this.last = Math.min(
      days.names.length - 1,
      cost.until === undefined ? Infinity : dayNumber(cost.until) - firstDay,
    );
    const places = this.isDaily ? this.last - this.first + 1 : 1;
    this.visits = new Float64Array(places);
    this.requests = new Float64Array(places);
    this.given = new Float64Array(places);
  }

  /** Where visits of a day are counted; -1 for a day of which it is not. */
  place(day: number): number {
    if (day < this.first || day > this.last) return -1;
    return this.isDaily ? day - this.first : 0;
  }

  /** The amount of one place in the one currency: a click's, a thousand's, a day's, or all of it. */
  amount(place: number): number | undefined {
    if (!this.#parts.has(place)) {
      const { amount, currency } = this.cost;
      const day = element(this.days.names[this.first + (this.isDaily ? place : 0)]);
      this.#parts.set(place, this.rates.parts(amount, currency, day));
    }
    return this.#parts.get(place);
  }

  get isByClicks(): boolean {
    return this.cost.per === 'click' || this.cost.per === 'thousand';
  }

  /** All of a place: of so many clicks, or what is spread over them. */
  total(place: number, clicks: number): number | undefined {
    const amount = this.amount(place);
    if (amount === undefined || !this.isByClicks) return amount;
    return this.cost.per === 'click' ? amount * clicks : Math.round((amount * clicks) / 1000);
  }

  /** What is paid for: counted visits, unless the seller bills all. */
  paid(place: number): number {
    const list = this.isByClicks && this.cost.billsAll ? this.requests : this.visits;
    return element(list[place]);
  }

  /** The part of the next of so many clicks of a place. */
  next(place: number, clicks: number): number {
    const paid = this.paid(place);
    const total = this.total(place, paid);
    if (total === undefined) return 0;
    const before = element(this.given[place]);
    this.given[place] = before + clicks;
    return shareOf(total, paid, before, clicks);
  }

  laid(): LaidCost {
    const places = [...this.visits.keys()];
    const sum = (of: (place: number) => number | undefined) =>
      places.reduce<number | undefined>((all, place) => {
        const one = of(place);
        return all === undefined || one === undefined ? undefined : all + one;
      }, 0);
    const dayOf = (place: number): string => element(this.days.names[this.first + place]);
    const lacking = places.filter((place) => this.amount(place) === undefined);
    const [first, last] = this.isDaily ? [lacking[0], lacking.at(-1)] : [0, this.last - this.first];
    const { billsAll } = this.cost;
    const other = billsAll ? this.visits : this.requests;
    return {
      cost: this.cost,
      visits: this.visits.reduce((a, b) => a + b, 0),
      requests: this.requests.reduce((a, b) => a + b, 0),
      parts: sum((place) => this.total(place, this.paid(place))),
      unpriced:
        lacking.length > 0 && first !== undefined && last !== undefined
          ? [dayOf(first), dayOf(last)]
          : undefined,
      otherwise: this.isByClicks ? sum((place) => this.total(place, element(other[place]))) : undefined,
    };
  }
}

/** Which costs a request may be paid by. */
interface Payers {
  readonly bySource: ReadonlyMap<string, readonly Laying[]>;
  readonly byLink: ReadonlyMap<string, readonly Laying[]>;
}

const payersOf = (layings: readonly Laying[], sourceOf: LayInput['sourceOf']): Payers => {
  const bySource = new Map<string, Laying[]>();
  const byLink = new Map<string, Laying[]>();
  for (const laying of layings) {
    const { of } = laying.cost;
    if (of.kind === 'link') pushTo(byLink, of.link, laying);
    else pushTo(bySource, sourceOf(of.source), laying);
  }
  return { bySource, byLink };
};

/** Passes whatever is paid for: a request or a count of them, the cost it belongs to and the place of its day. */
type EachPaid = (
  visit: (
    laying: Laying,
    place: number,
    clicks: number,
    isCounted: boolean,
    segment: number,
    row: number,
  ) => void,
) => void;

const eachPaid =
  (
    { columns, classification, rolledUp, sourceOf, placement }: LayInput,
    { starts, names }: Days,
    { bySource, byLink }: Payers,
  ): EachPaid =>
  (visit) => {
    const dayAt = new Map(names.map((name, i) => [name, i]));
    for (const [i, { link, source, day, outcome, count }] of rolledUp.entries()) {
      const at = dayAt.get(day);
      if (at === undefined || outcome === 'test' || outcome === 'prefetch') continue;
      for (const laying of [...(bySource.get(sourceOf(source)) ?? []), ...(byLink.get(link) ?? [])]) {
        // Of what was rolled up nobody knows the placement any more.
        if (laying.cost.of.kind === 'placement') continue;
        const place = laying.place(at);
        if (place >= 0) visit(laying, place, count, outcome === 'counted', -1, i);
      }
    }
    const { dictionaries } = columns;
    const ofSource = dictionaries.source.texts.map((name) => bySource.get(sourceOf(name)));
    const ofLink = dictionaries.link.texts.map((id) => byLink.get(id));
    const [from, until] = [element(starts[0]), element(starts[names.length])];
    for (const [n, segment] of columns.segments.entries()) {
      if ((columns.newest[n] ?? -Infinity) < from) continue;
      const found = element(classification.outcomes[n]);
      const placements = placement.column(segment);
      let day = 0;
      for (let i = 0; i < segment.rows; i++) {
        const sourced = ofSource[element(segment.source[i])];
        const linked = ofLink[element(segment.link[i])];
        if (!sourced && !linked) continue;
        const at = element(segment.at[i]);
        const outcome = element(found[i]);
        if (at < from || at >= until || outcome === test || outcome === prefetch) continue;
        // Requests come in the order of time, but for a clock that was set.
        while (at >= element(starts[day + 1])) day += 1;
        while (at < element(starts[day])) day -= 1;
        const pay = (laying: Laying): void => {
          const { of } = laying.cost;
          const place = laying.place(day);
          if (place < 0) return;
          if (
            of.kind === 'placement' &&
            element(placement.values[element(placement.codes[element(placements[i])])]) !== of.placement
          )
            return;
          visit(laying, place, 1, outcome === counted, n, i);
        };
        if (sourced) for (const laying of sourced) pay(laying);
        if (linked) for (const laying of linked) pay(laying);
      }
    }
  };

/** Adds what sellers passed along of each request to what rows cost. */
const layPassed = (
  { columns, classification, passed, rates, zone, today, sourceOf }: LayInput,
  addToRow: (segment: number, row: number, parts: number) => void,
): Pick<LaidCosts, 'unread' | 'unpriced'> => {
  if (!passed) return { unread: 0, unpriced: [] };
  let unread = 0;
  const unpriced = new Map<string, UnpricedSource>();
  const until = element(daysOf(zone, today, today).starts[1]);
  const first = columns.segments.reduce(
    (least, { at, rows }) => at.subarray(0, rows).reduce((a, b) => Math.min(a, b), least),
    Infinity,
  );
  const days = daysOf(zone, first < until ? dayIn(zone, first) : today, today);
  // One unit in the one currency, by currency and day.
  const units = passed.currencies.map(() => new Map<number, number | undefined>());
  for (const [n, segment] of columns.segments.entries()) {
    const found = element(classification.outcomes[n]);
    const column = passed.column(segment);
    let day = 0;
    for (let i = 0; i < segment.rows; i++) {
      const number = element(column[i]);
      const cost = element(passed.costs[number]);
      const outcome = element(found[i]);
      const at = element(segment.at[i]);
      if (cost === 0 || outcome === test || outcome === prefetch || at >= until) continue;
      if (Number.isNaN(cost)) {
        unread += 1;
        continue;
      }
      while (at >= element(days.starts[day + 1])) day += 1;
      while (at < element(days.starts[day])) day -= 1;
      const place = element(passed.currencyPlaces[number]);
      const known = element(units[place]);
      if (!known.has(day))
        known.set(day, rates.parts('1', element(passed.currencies[place]), element(days.names[day])));
      const unit = known.get(day);
      if (unit !== undefined) {
        addToRow(n, i, Math.round(cost * (unit / partsPerUnit)));
        continue;
      }
      const source = sourceOf(element(columns.dictionaries.source.texts[element(segment.source[i])]));
      const missing = { source, currency: element(passed.currencies[place]), day: element(days.names[day]) };
      const key = `${source} ${missing.currency}`;
      if (missing.day < (unpriced.get(key)?.day ?? '9')) unpriced.set(key, missing);
    }
  }
  return { unread, unpriced: [...unpriced.values()] };
};

/**
 * Lays costs on the visits they paid for: a sum over its counted visits, a day's over those of the day, one by clicks over counted
 * visits or over all, as the seller bills. Parts are whole and add up to the cost exactly; what finds no visit stands by itself.
 */
export const layCosts = (input: LayInput): LaidCosts => {
  const { columns, costs, rates, zone, today, sourceOf } = input;
  const rows: (Float64Array | undefined)[] = columns.segments.map(() => undefined);
  const rolledUp = new Float64Array(input.rolledUp.length);
  const addToRow = (segment: number, row: number, parts: number): void => {
    const list = (rows[segment] ??= new Float64Array(element(columns.segments[segment]).rows));
    list[row] = element(list[row]) + parts;
  };
  const passed = layPassed(input, addToRow);
  const byVisits = costs.filter(({ per, from }) => per !== 'share' && from <= today);
  if (byVisits.length === 0) return { rows, rolledUp, alone: [], of: [], ...passed };

  const firstDay = byVisits.reduce((least, { from }) => (from < least ? from : least), today);
  const days = daysOf(zone, firstDay, today);
  const layings = byVisits.map((cost) => new Laying(cost, days, rates, dayNumber(firstDay)));
  const each = eachPaid(input, days, payersOf(layings, sourceOf));
  each((laying, place, clicks, isCounted) => {
    laying.requests[place] = element(laying.requests[place]) + clicks;
    if (isCounted) laying.visits[place] = element(laying.visits[place]) + clicks;
  });
  each((laying, place, clicks, isCounted, segment, row) => {
    if (!isCounted && !(laying.isByClicks && laying.cost.billsAll)) return;
    const parts = laying.next(place, clicks);
    if (segment < 0) rolledUp[row] = element(rolledUp[row]) + parts;
    else addToRow(segment, row, parts);
  });
  const alone = layings.flatMap((laying) =>
    laying.isByClicks
      ? []
      : [...laying.visits.entries()].flatMap(([place, visits]) => {
          const parts = visits > 0 ? undefined : laying.amount(place);
          return parts === undefined
            ? []
            : [{ cost: laying.cost, day: dayName(dayNumber(laying.cost.from) + place), parts }];
        }),
  );
  return { rows, rolledUp, alone, of: layings.map((laying) => laying.laid()), ...passed };
};
