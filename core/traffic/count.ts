import { addTo, element } from '#core/catalogue';
import type { Classification, DailyCount, Outcome, VisitColumns } from '#core/visits';
import { outcomeNumber, outcomes, segmentRows } from '#core/visits';
import type { Days } from './days.ts';
import type { Condition, Dimension } from './dimension.ts';
import { codeAt, holding, holdOfLink } from './dimension.ts';
import type { PassedCosts } from './passed.ts';
import { VisitorsOfDay } from './visitorsOfDay.ts';

/** Requests of one value of a dimension, or all of them. */
export interface RequestCounts {
  /** By their outcome, in the order of `outcomes`. */
  readonly requests: readonly number[];
  /**
   * Visitors with a counted visit, each once a day: over several days they are visitor-days, as a visitor without a cookie is known
   * for a day only.
   */
  readonly visitors: number;
  /**
   * Of the counted requests, those from a page that another of them led to: somebody who went on there came once, by whatever both
   * have in common.
   */
  readonly onward: number;
  /** Of each day, those of the outcome that is shown. */
  readonly days: readonly number[];
  /** What requests but tests and prefetches cost, by the place of the currency, in billionths of its unit. */
  readonly costs: readonly number[];
  /** Requests whose cost cannot be read. */
  readonly costsUnread: number;
}

/** Requests by the values of a dimension; values without one are not there. */
export type Breakdown = ReadonlyMap<string, RequestCounts>;

export interface CountInput {
  readonly columns: VisitColumns;
  /** Of all rows of the columns. */
  readonly classification: Pick<Classification, 'outcomes'>;
  readonly days: Days;
  /** Requests of which only their numbers are left; their visitors are not known. */
  readonly rolledUp?: readonly DailyCount[];
  /** All of them must hold. */
  readonly where: readonly Condition[];
  /** The outcome that is counted by day; counted visits where none is given. */
  readonly shown?: Outcome;
  /** False where nobody asks how many visitors there were: telling them apart takes most of the time. */
  readonly visitors?: boolean;
  /** Undefined where nothing is said of what requests cost. */
  readonly costs?: PassedCosts | undefined;
}

/** What is counted of one dimension while the rows are passed. */
class Tally {
  readonly requests: Float64Array;
  readonly visitors: Float64Array;
  /** By the place of a value: most values of a page or an address never come in the days that are asked for. */
  readonly days = new Map<number, Uint32Array>();
  /** What was rolled up, by its value. */
  readonly rolledUp = new Map<string, { requests: number[]; days: number[] }>();
  /** By the place of a value, as few go on. */
  readonly onward = new Map<number, number>();
  readonly costs: Float64Array;
  /** By the place of a value, as few cannot be read. */
  readonly costsUnread = new Map<number, number>();
  readonly #values: number;

  constructor(
    readonly of: Dimension,
    readonly dayCount: number,
    /** Which of the breakdowns it is, among those of visitors. */
    readonly place: number,
    readonly currencies: number,
  ) {
    this.#values = Math.max(1, of.values.length);
    this.requests = new Float64Array(this.#values * outcomes.length);
    this.visitors = new Float64Array(this.#values);
    this.costs = new Float64Array(this.#values * currencies);
  }

  count(code: number, outcome: number): void {
    const place = code * outcomes.length + outcome;
    this.requests[place] = element(this.requests[place]) + 1;
  }

  countDay(code: number, day: number): void {
    let days = this.days.get(code);
    if (!days) this.days.set(code, (days = new Uint32Array(this.dayCount)));
    days[day] = element(days[day]) + 1;
  }

  countVisitor(code: number, visitor: number, ofDay: VisitorsOfDay): void {
    if (ofDay.isNew(this.place, visitor, code, this.#values))
      this.visitors[code] = element(this.visitors[code]) + 1;
  }

  countCost(code: number, currency: number, cost: number): void {
    const place = code * this.currencies + currency;
    if (Number.isNaN(cost)) addTo(this.costsUnread, code, 1);
    else this.costs[place] = element(this.costs[place]) + cost;
  }

  countRolledUp(value: string, day: number, { outcome, count }: DailyCount, isShown: boolean): void {
    let found = this.rolledUp.get(value);
    if (!found) {
      found = { requests: outcomes.map(() => 0), days: Array.from({ length: this.dayCount }, () => 0) };
      this.rolledUp.set(value, found);
    }
    const number = outcomeNumber[outcome];
    found.requests[number] = element(found.requests[number]) + count;
    if (isShown) found.days[day] = element(found.days[day]) + count;
  }

  /** @param code where the value stands; -1 where it is not among those of the rows */
  ofValue(value: string, code: number): RequestCounts {
    const rolledUp = this.rolledUp.get(value);
    const first = code * outcomes.length;
    const days = this.days.get(code);
    return {
      requests: outcomes.map(
        (_, i) => (code < 0 ? 0 : element(this.requests[first + i])) + (rolledUp?.requests[i] ?? 0),
      ),
      visitors: code < 0 ? 0 : element(this.visitors[code]),
      onward: this.onward.get(code) ?? 0,
      days: Array.from({ length: this.dayCount }, (_, i) => (days?.[i] ?? 0) + (rolledUp?.days[i] ?? 0)),
      costs: code < 0 ? [] : [...this.costs.subarray(code * this.currencies, (code + 1) * this.currencies)],
      costsUnread: this.costsUnread.get(code) ?? 0,
    };
  }

  /** Every value with a request. */
  all(): Map<string, RequestCounts> {
    const found = new Map<string, RequestCounts>();
    const note = (value: string, code: number) => {
      const first = code * outcomes.length;
      const hasRows = code >= 0 && this.requests.subarray(first, first + outcomes.length).some((n) => n > 0);
      if (hasRows || this.rolledUp.has(value)) found.set(value, this.ofValue(value, code));
    };
    for (const [code, value] of this.of.values.entries()) note(value, code);
    const ofRows = new Set(this.of.values);
    for (const value of this.rolledUp.keys()) if (!ofRows.has(value)) note(value, -1);
    return found;
  }
}

const { test, prefetch } = outcomeNumber;

/** For each segment the oldest moment in it and in those behind it. */
const oldestAfter = ({ segments }: VisitColumns): number[] => {
  const found = segments.map(({ at, rows }) => {
    let oldest = Infinity;
    for (let i = 0; i < rows; i++) if (element(at[i]) < oldest) oldest = element(at[i]);
    return oldest;
  });
  for (let n = found.length - 2; n >= 0; n--) found[n] = Math.min(element(found[n]), element(found[n + 1]));
  return found;
};

/**
 * Counts the requests of some days, in one pass over those there are.
 *
 * @returns all of them together, with each outcome by day, and by each of the dimensions, in their order
 */
export const countRequests = (
  {
    columns,
    classification,
    days,
    rolledUp = [],
    where,
    shown = 'counted',
    visitors: tellsVisitors = true,
    costs: passed,
  }: CountInput,
  by: readonly Dimension[],
): {
  readonly whole: RequestCounts;
  /** In the order of `outcomes`, the requests of each day. */
  readonly outcomeDays: readonly (readonly number[])[];
  readonly breakdowns: readonly Breakdown[];
} => {
  const { starts } = days;
  const dayCount = days.names.length;
  const [from, until] = [starts[0] ?? Infinity, starts[dayCount] ?? -Infinity];
  const currencies = passed?.currencies.length ?? 0;
  const tallies = by.map((dimension, i) => new Tally(dimension, dayCount, i + 1, currencies));
  const whole = new Tally(
    { column: () => [], codes: new Uint32Array(1), values: [''], ofLink: () => '' },
    dayCount,
    0,
    currencies,
  );
  const visitorsOf = new Map<number, VisitorsOfDay>();
  const oldest = tellsVisitors ? oldestAfter(columns) : [];
  const holds = where.map(holding);
  const shownNumber = outcomeNumber[shown];
  const outcomeDays = outcomes.map(() => Array.from({ length: dayCount }, () => 0));
  /** The request that led to the page of another, where it is one of those that are counted here. */
  const countedBefore = (row: number): number => {
    const before = columns.rowBefore(row);
    if (before < 0) return -1;
    const [segment, i, at] = [columns.segmentOf(before), before % segmentRows, columns.at(before)];
    const outcome = classification.outcomes[Math.floor(before / segmentRows)]?.[i];
    const isIn =
      at >= from &&
      at < until &&
      outcome === outcomeNumber.counted &&
      where.every(({ of }, k) => element(holds[k])[element(of.column(segment)[i])] === 1);
    return isIn ? before : -1;
  };
  for (const [n, segment] of columns.segments.entries()) {
    if ((columns.newest[n] ?? -Infinity) < from) continue;
    const found = element(classification.outcomes[n]);
    const filters = where.map(({ of }, i) => ({ column: of.column(segment), holds: element(holds[i]) }));
    const parts = tallies.map((tally) => ({
      tally,
      column: tally.of.column(segment),
      codes: tally.of.codes,
    }));
    const passedColumn = passed?.column(segment);
    // Of days that are over nobody comes any more, but where a clock was set.
    for (const [day] of visitorsOf)
      if (element(starts[day + 1]) <= element(oldest[n])) visitorsOf.delete(day);
    let day = 0;
    let ofDayNumber = -1;
    let ofDay: VisitorsOfDay | undefined;
    rows: for (let i = 0; i < segment.rows; i++) {
      const at = element(segment.at[i]);
      if (at < from || at >= until) continue;
      for (const { column, holds: isHolding } of filters)
        if (isHolding[element(column[i])] === 0) continue rows;
      const outcome = element(found[i]);
      whole.count(0, outcome);
      for (const { tally, column, codes } of parts) tally.count(element(codes[element(column[i])]), outcome);
      if (passed && passedColumn && outcome !== test && outcome !== prefetch) {
        const number = element(passedColumn[i]);
        const cost = element(passed.costs[number]);
        if (cost !== 0) {
          const currency = element(passed.currencyPlaces[number]);
          whole.countCost(0, currency, cost);
          for (const { tally, column, codes } of parts)
            tally.countCost(element(codes[element(column[i])]), currency, cost);
        }
      }
      // Requests come in the order of time, but for a clock that was set.
      while (at >= element(starts[day + 1])) day += 1;
      while (at < element(starts[day])) day -= 1;
      const daysOfOutcome = element(outcomeDays[outcome]);
      daysOfOutcome[day] = element(daysOfOutcome[day]) + 1;
      if (outcome === shownNumber) {
        whole.countDay(0, day);
        for (const { tally, column, codes } of parts) tally.countDay(element(codes[element(column[i])]), day);
      }
      if (outcome !== outcomeNumber.counted) continue;
      if (segment.first[i] !== 0) {
        const before = countedBefore(n * segmentRows + i);
        if (before >= 0) {
          addTo(whole.onward, 0, 1);
          for (const { tally, column, codes } of parts) {
            const code = element(codes[element(column[i])]);
            if (codeAt(tally.of, columns, before) === code) addTo(tally.onward, code, 1);
          }
        }
      }
      if (!tellsVisitors) continue;
      if (day !== ofDayNumber || !ofDay) {
        ofDayNumber = day;
        ofDay = visitorsOf.get(day);
        if (!ofDay) visitorsOf.set(day, (ofDay = new VisitorsOfDay(by.length + 1)));
      }
      const visitor = ofDay.number(element(segment.visitor[i * 2]), element(segment.visitor[i * 2 + 1]));
      whole.countVisitor(0, visitor, ofDay);
      for (const { tally, column, codes } of parts)
        tally.countVisitor(element(codes[element(column[i])]), visitor, ofDay);
    }
  }
  const dayAt = new Map(days.names.map((name, i) => [name, i]));
  for (const count of rolledUp) {
    const { link, source, day } = count;
    const at = dayAt.get(day);
    if (at === undefined || !holdOfLink(where, link, source, day)) continue;
    const ofDay = element(outcomeDays[outcomeNumber[count.outcome]]);
    ofDay[at] = element(ofDay[at]) + count.count;
    const isShown = count.outcome === shown;
    whole.countRolledUp('', at, count, isShown);
    for (const tally of tallies) tally.countRolledUp(tally.of.ofLink(link, source, day), at, count, isShown);
  }
  return { whole: whole.ofValue('', 0), outcomeDays, breakdowns: tallies.map((tally) => tally.all()) };
};
