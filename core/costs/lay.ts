import type { Cost } from '#core/catalogue';
import { element, promotionSeparator, pushTo } from '#core/catalogue';
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
  /** Undefined where no cost is a promotion's. */
  readonly promotion: Dimension | undefined;
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

const { counted, test, prefetch } = outcomeNumber;

/** A cost that goes by visits, and what was seen of them. */
class Laying {
  /** Days as places among those that are looked at: of a cost by days each by itself. */
  readonly first: number;
  readonly last: number;
  readonly isDaily: boolean;
  readonly isByClicks: boolean;
  /** The seller bills requests that are no visits too. */
  readonly isForAll: boolean;
  /** Counted visits and all requests, by day or of all days. */
  readonly visits: Float64Array;
  readonly requests: Float64Array;
  /** How many were given their part. */
  readonly #given: Float64Array;
  /** The amount of each place in the one currency; undefined where a rate is missing. */
  readonly #amounts: readonly (number | undefined)[];
  /** Of each place the whole part that everyone gets, and how many get one more, once all are counted. */
  readonly #each: Float64Array;
  readonly #more: Float64Array;

  constructor(
    readonly cost: Cost,
    /** Its place among all of them. */
    readonly number: number,
    readonly days: Days,
    rates: CostRates,
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
    this.#given = new Float64Array(places);
    this.#each = new Float64Array(places);
    this.#more = new Float64Array(places);
    this.isByClicks = cost.per === 'click' || cost.per === 'thousand';
    this.isForAll = this.isByClicks && cost.billsAll === true;
    const { amount, currency } = cost;
    this.#amounts = Array.from({ length: places }, (_, place) =>
      rates.parts(amount, currency, element(days.names[this.first + place])),
    );
  }

  /** Where visits of a day are counted; -1 for a day of which it is not. */
  place(day: number): number {
    if (day < this.first || day > this.last) return -1;
    return this.isDaily ? day - this.first : 0;
  }

  /** The amount of one place in the one currency: a click's, a thousand's, a day's, or all of it. */
  amount(place: number): number | undefined {
    return this.#amounts[place];
  }

  /** All of a place: of so many clicks, or what is spread over them. */
  total(place: number, clicks: number): number | undefined {
    const amount = this.amount(place);
    if (amount === undefined || !this.isByClicks) return amount;
    return this.cost.per === 'click' ? amount * clicks : Math.round((amount * clicks) / 1000);
  }

  /** What is paid for: counted visits, unless the seller bills all. */
  paid(place: number): number {
    return element((this.isForAll ? this.requests : this.visits)[place]);
  }

  /** Counts a request or so many of them, before any gets its part. */
  count(place: number, clicks: number, isCounted: boolean): void {
    this.requests[place] = element(this.requests[place]) + clicks;
    if (isCounted) this.visits[place] = element(this.visits[place]) + clicks;
  }

  /** Parts what is paid for among all that were counted: whole parts, of which the first get one more, so that they add up. */
  part(): void {
    for (const place of this.visits.keys()) {
      const paid = this.paid(place);
      const total = this.total(place, paid);
      if (total === undefined || paid === 0) continue;
      const each = Math.floor(total / paid);
      this.#each[place] = each;
      this.#more[place] = total - each * paid;
    }
  }

  /** The part of the next of so many clicks of a place. */
  next(place: number, clicks: number): number {
    const before = element(this.#given[place]);
    this.#given[place] = before + clicks;
    const more = element(this.#more[place]);
    return element(this.#each[place]) * clicks + Math.max(0, Math.min(before + clicks, more) - before);
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
  readonly byPromotion: ReadonlyMap<string, readonly Laying[]>;
}

const payersOf = (layings: readonly Laying[], sourceOf: LayInput['sourceOf']): Payers => {
  const bySource = new Map<string, Laying[]>();
  const byLink = new Map<string, Laying[]>();
  const byPromotion = new Map<string, Laying[]>();
  for (const laying of layings) {
    const { of } = laying.cost;
    if (of.kind === 'link') pushTo(byLink, of.link, laying);
    else if (of.kind === 'promotion') pushTo(byPromotion, of.promotion, laying);
    else pushTo(bySource, sourceOf(of.source), laying);
  }
  return { bySource, byLink, byPromotion };
};

/** Who pays for visits of a value, which may be several promotions. */
const ofPromotions = (value: string, { byPromotion }: Payers): readonly Laying[] =>
  value === '' ? [] : value.split(promotionSeparator).flatMap((id) => byPromotion.get(id) ?? []);

/** Numbers in a list that grows. */
class Numbers {
  list = new Int32Array(1024);
  length = 0;

  push(value: number): void {
    if (this.length === this.list.length) {
      const longer = new Int32Array(this.length * 2);
      longer.set(this.list);
      this.list = longer;
    }
    this.list[this.length++] = value;
  }
}

/** Counts requests that were rolled up, and gives each its parts once all are counted. */
const layRolledUp = (
  { rolledUp, sourceOf, promotion }: LayInput,
  { names }: Days,
  payers: Payers,
): ((parts: Float64Array) => void) => {
  const dayAt = new Map(names.map((name, i) => [name, i]));
  const paid: (readonly [laying: Laying, place: number, clicks: number, i: number])[] = [];
  for (const [i, { link, source, day, outcome, count }] of rolledUp.entries()) {
    const at = dayAt.get(day);
    if (at === undefined || outcome === 'test' || outcome === 'prefetch') continue;
    for (const laying of [
      ...(payers.bySource.get(sourceOf(source)) ?? []),
      ...(payers.byLink.get(link) ?? []),
      ...(promotion ? ofPromotions(promotion.ofLink(link, source, day), payers) : []),
    ]) {
      // Of what was rolled up nobody knows the placement any more.
      if (laying.cost.of.kind === 'placement') continue;
      const place = laying.place(at);
      if (place < 0) continue;
      laying.count(place, count, outcome === 'counted');
      if (outcome === 'counted' || laying.isForAll) paid.push([laying, place, count, i]);
    }
  }
  return (parts) => {
    for (const [laying, place, clicks, i] of paid) parts[i] = element(parts[i]) + laying.next(place, clicks);
  };
};

/** Counts requests that are there one by one, and gives each its parts once all are counted. */
const layRows = (
  { columns, classification, sourceOf, placement, promotion }: LayInput,
  { starts, names }: Days,
  layings: readonly Laying[],
  by: Payers,
): ((addToRow: (segment: number, row: number, parts: number) => void) => void) => {
  const { dictionaries } = columns;
  const ofSource = dictionaries.source.texts.map((name) => by.bySource.get(sourceOf(name)));
  const ofLink = dictionaries.link.texts.map((id) => by.byLink.get(id));
  const ofPromotion = promotion?.values.map((value) => {
    const list = ofPromotions(value, by);
    return list.length > 0 ? list : undefined;
  });
  const [from, until] = [element(starts[0]), element(starts[names.length])];
  // Of everything that is paid for: its row, by whom, and for which place.
  const [rows, payers, places] = [new Numbers(), new Numbers(), new Numbers()];
  const ends: number[] = [];
  for (const [n, segment] of columns.segments.entries()) {
    ends.push(rows.length);
    if ((columns.newest[n] ?? -Infinity) < from) continue;
    const found = element(classification.outcomes[n]);
    const placements = placement.column(segment);
    const promotions = promotion?.column(segment);
    const { at: ats, source: toSource, link: toLink } = segment;
    let day = 0;
    for (let i = 0; i < segment.rows; i++) {
      const sourced = ofSource[element(toSource[i])];
      const linked = ofLink[element(toLink[i])];
      const promoted = promotions && ofPromotion?.[element(promotions[i])];
      if (!sourced && !linked && !promoted) continue;
      const at = element(ats[i]);
      const outcome = element(found[i]);
      if (at < from || at >= until || outcome === test || outcome === prefetch) continue;
      // Requests come in the order of time, but for a clock that was set.
      while (at >= element(starts[day + 1])) day += 1;
      while (at < element(starts[day])) day -= 1;
      for (const list of [sourced, linked, promoted])
        if (list)
          for (const laying of list) {
            const { of } = laying.cost;
            const place = laying.place(day);
            if (place < 0) continue;
            if (
              of.kind === 'placement' &&
              element(placement.values[element(placement.codes[element(placements[i])])]) !== of.placement
            )
              continue;
            const isCounted = outcome === counted;
            laying.count(place, 1, isCounted);
            if (!isCounted && !laying.isForAll) continue;
            rows.push(i);
            payers.push(laying.number);
            places.push(place);
          }
    }
  }
  ends.push(rows.length);
  return (addToRow) => {
    for (const n of columns.segments.keys())
      for (let k = element(ends[n]); k < element(ends[n + 1]); k++) {
        const laying = element(layings[element(payers.list[k])]);
        addToRow(n, element(rows.list[k]), laying.next(element(places.list[k]), 1));
      }
  };
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
  const layings = byVisits.map((cost, i) => new Laying(cost, i, days, rates, dayNumber(firstDay)));
  const payers = payersOf(layings, sourceOf);
  // All are counted before any gets its part.
  const giveCounts = layRolledUp(input, days, payers);
  const giveRows = layRows(input, days, layings, payers);
  for (const laying of layings) laying.part();
  giveCounts(rolledUp);
  giveRows(addToRow);
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
