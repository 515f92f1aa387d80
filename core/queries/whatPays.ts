import type { Cost } from '#core/catalogue';
import { addTo, element } from '#core/catalogue';
import type { AloneCost, CostOverlap, LaidCost, MissingRate } from '#core/costs';
import { apportion, costRates, overlapping, partsPerUnit } from '#core/costs';
import type { Evidence, Interval, Verdict } from '#core/figures';
import { judge, profitBand, visitorsNeeded } from '#core/figures';
import { dayIn, dayName, dayNumber } from '#core/hop';
import type { Dimension } from '#core/traffic';
import { countRequests, daysOf, holdOfLink, holdsAt } from '#core/traffic';
import { exponentOf } from '#core/values';
import { outcomeNumber } from '#core/visits';
import type { Dataset } from './dataset.ts';
import { laidCosts } from './laidCosts.ts';
import { addConversions } from './paysConversions.ts';
import { payoutMix, priorBefore } from './paysEvidence.ts';
import type { Sums } from './paysSums.ts';
import { addSums, noSums, sumRows } from './paysSums.ts';
import type { TrafficQuestion } from './traffic.ts';
import { dimensionsOf } from './trafficDimensions.ts';
import { paidUnits, usualOf } from './usual.ts';

/** What is asked: of visits in these days, told apart by something, in one currency. */
export interface PaysQuestion extends Pick<TrafficQuestion, 'by' | 'from' | 'to' | 'where'> {
  readonly currency: string;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
}

/** What visits cost and earned; money in minor units of the one currency. */
export interface PaysFigures {
  /** Visitors, each once a day. */
  readonly visitors: number;
  readonly visits: number;
  /** Visitors, each counted for the share of conversions that have usually come by now. */
  readonly ripe: number;
  /** Conversions that were not reversed, and those that were. */
  readonly conversions: number;
  readonly reversed: number;
  readonly cost: number;
  /** What is approved, and what is pending as networks put it. */
  readonly approved: number;
  readonly pending: number;
  /** What of the pending usually becomes approved. */
  readonly worth: number;
  /** What is approved and what pending is worth, less the cost. */
  readonly profit: number;
  /** What a visitor leaves, with the fraction: a band that holds however often it is looked at; undefined where nothing tells what a conversion pays. */
  readonly band: Interval | undefined;
  readonly verdict: Verdict | 'no rate';
  /** Of *keep testing*: how many more visitors it takes. */
  readonly needed: { readonly fewest: number; readonly most: number } | undefined;
  /** The last day of a sum that was paid for visits still to come besides, so that each of those so far costs less in the end. */
  readonly paidUntil: string | undefined;
  /** What the verdict rests on. */
  readonly evidence: Evidence | undefined;
  /** The money that is won or lost in a week of the days asked for. */
  readonly weekly: number;
}

export interface Pays {
  readonly whole: PaysFigures;
  /** Those that lose most a week first, then those that win most. */
  readonly lines: readonly (PaysFigures & { readonly value: string })[];
  /** What became of each cost. */
  readonly costs: readonly LaidCost[];
  /** What of them came to no visit. */
  readonly alone: readonly AloneCost[];
  readonly overlaps: readonly CostOverlap[];
  /** Currencies for which a rate is missing: money of them is in no figure here. */
  readonly missing: readonly MissingRate[];
  /** Requests whose cost was passed along and cannot be read. */
  readonly unread: number;
}

/** What a cost that found no visit belongs to, and whether all conditions hold of it. */
const aloneValue = (
  of: Cost['of'],
  day: string,
  dimension: Dimension,
  { placement, promotion }: { readonly placement: Dimension; readonly promotion: Dimension },
): string => {
  switch (of.kind) {
    case 'link':
      return dimension.ofLink(of.link, '', day);
    case 'promotion':
      return dimension === promotion ? of.promotion : '';
    case 'placement':
      return dimension === placement ? of.placement : dimension.ofLink('', of.source, day);
    case 'source':
      return dimension.ofLink('', of.source, day);
  }
};

const nobody = { requests: [] as number[], visitors: 0, days: [] as number[] };

/** Logarithms differ in their last digits from machine to machine: what a browser and a server answer is the same to a millionth. */
const sameEverywhere = ({ low, high }: Interval): Interval => ({
  low: Math.round(low * 1e6) / 1e6,
  high: Math.round(high * 1e6) / 1e6,
});

/** What is to be done, and how sure that is. */
const decide = (
  evidence: Evidence | undefined,
  { unpriced, paidUntil }: Sums,
  visitors: number,
): Pick<PaysFigures, 'band' | 'verdict' | 'needed'> => {
  const nothing = { band: undefined, needed: undefined };
  if (unpriced) return { ...nothing, verdict: 'no rate' };
  if (visitors === 0) return { ...nothing, verdict: 'no visitors' };
  if (!evidence) return { ...nothing, verdict: 'wait' };
  const judged = judge(evidence);
  // What is spread over all that will come costs a visitor less than it does now: a loss may still become none.
  const verdict = judged === 'cut' && paidUntil !== '' ? 'wait' : judged;
  return {
    verdict,
    band: sameEverywhere(profitBand(evidence)),
    needed: verdict === 'keep testing' && evidence.ripe > 0 ? visitorsNeeded(evidence) : undefined,
  };
};

/** Visitors, visits, and the first day on which one came. */
interface Came {
  readonly visitors: number;
  readonly visits: number;
  readonly firstDay: number;
}

const hourMs = 3_600_000;

const workOut = (
  data: Dataset,
  dimension: ReturnType<typeof dimensionsOf>,
  { currency, hour, today }: { currency: string; hour: number; today: string },
) => {
  const rates = costRates(data.records.rates, currency);
  const units = paidUnits(data, rates);
  return {
    units,
    usual: usualOf(data, units, dimension('program'), rates, hour * hourMs),
    laid: laidCosts(data, dimension, rates, today),
  };
};

/** What was last worked out of some data, and from what. */
interface Kept {
  readonly state: object;
  readonly from: { readonly currency: string; readonly hour: number; readonly today: string };
  readonly worked: ReturnType<typeof workOut>;
}
const kept = new WeakMap<Dataset, Kept>();

/**
 * What does not mind what is asked: conversions and their worth, costs on their visits, and what was usual of programs by the last full
 * hour. It is worked out once for all questions until something changes.
 */
export const knownOf = (data: Dataset, { currency, now }: Pick<PaysQuestion, 'currency' | 'now'>) => {
  const dimension = dimensionsOf(data);
  const from = { currency, hour: Math.floor(now / hourMs), today: dayIn(data.zone, now) };
  let known = kept.get(data);
  const holds =
    known?.state === data.state &&
    known.from.currency === from.currency &&
    known.from.hour === from.hour &&
    known.from.today === from.today;
  if (!known || !holds)
    kept.set(data, (known = { state: data.state, from, worked: workOut(data, dimension, from) }));
  return { dimension, ...known.worked };
};

/** What is asked, by what is known already. */
const answer = (
  data: Dataset,
  { by, from, to, where: asked, currency, now }: PaysQuestion,
  { dimension, units, usual, laid }: ReturnType<typeof knownOf>,
): Pays => {
  const { zone, records, journal, classification, rolledUp, sourceOf } = data;
  const [of, program] = [dimension(by), dimension('program')];
  const [placement, promotion] = [dimension('placement'), dimension('promotion')];
  const where = asked.map(({ of: name, ...rest }) => ({ ...rest, of: dimension(name) }));
  const days = daysOf(zone, from, to);
  const partsPerMinor = partsPerUnit / 10 ** exponentOf(currency);
  const sums = sumRows({ data, days, where, of, program, laid, usual: usual.of, now });
  const sumOf = (value: string): Sums => {
    let known = sums.get(value);
    if (!known) sums.set(value, (known = noSums()));
    return known;
  };

  const missing = new Map<string, string>();
  const note = (name: string, day: string): void => {
    if (day < (missing.get(name) ?? '9')) missing.set(name, day);
  };
  addConversions({
    ...{ data, days, where, of, placement, promotion, units, usual: usual.of, partsPerMinor, sumOf, note },
  });

  const valueOfCost = (paid: Cost['of'], day: string): string =>
    aloneValue(paid, day, of, { placement, promotion });
  /** Whether conditions hold of a cost, where they can be told without a visit; `unknown` is what they are where they cannot. */
  const isAsked = (paid: Cost['of'], day: string, unknown: boolean): boolean =>
    where.every((condition) => {
      const value = aloneValue(paid, day, condition.of, { placement, promotion });
      return holdsAt(condition, value) || (value === '' && unknown);
    });
  const alone = laid.alone.filter(
    ({ cost, day }) => from <= day && day <= to && isAsked(cost.of, day, false),
  );
  for (const { cost, day, parts } of alone) sumOf(valueOfCost(cost.of, day)).parts += parts;
  const lack = (paid: Cost['of'], name: string, day: string): void => {
    if (!isAsked(paid, day, true)) return;
    const value = valueOfCost(paid, day);
    for (const known of value === '' && sums.size > 0 ? sums.values() : [sumOf(value)]) known.unpriced = true;
    note(name, day);
  };
  const today = dayIn(zone, now);
  for (const { per, of: paid, from: first, until = '' } of records.costs) {
    if (per !== 'all' || first > to || until <= today || !isAsked(paid, first, true)) continue;
    const value = valueOfCost(paid, first);
    const isOne = (row: string) =>
      value === '' || row === value || (of.separator ? row.split(of.separator).includes(value) : false);
    for (const [row, known] of sums) if (isOne(row) && until > known.paidUntil) known.paidUntil = until;
  }
  for (const { cost, unpriced: [first, last] = ['9', ''] } of laid.of)
    if (first <= to && last >= from) lack(cost.of, cost.currency, cost.per === 'all' ? cost.from : first);
  for (const { source, currency: name, day } of laid.unpriced)
    if (day <= to) lack({ kind: 'source', source }, name, day);
  for (const known of sums.values())
    for (const name of known.programs.keys()) {
      const { unpriced } = usual.of(name);
      if (!unpriced) continue;
      known.unpriced = true;
      note(unpriced.currency, unpriced.day);
    }

  const counted = countRequests(
    { columns: journal.columns, classification, rolledUp: rolledUp.counts, days, where },
    [of],
  );
  // Of requests that were rolled up nobody knows the visitors any more: each visit counts for one.
  const rolledVisits = new Map<string, number>();
  const inDays = new Set(days.names);
  for (const { link, source, day, outcome, count } of rolledUp.counts)
    if (outcome === 'counted' && inDays.has(day) && holdOfLink(where, link, source, day))
      addTo(rolledVisits, of.ofLink(link, source, day), count);
  const cameOf = (value: string): Came => {
    const { requests, visitors, days: byDay } = counted.breakdowns[0]?.get(value) ?? nobody;
    return {
      visits: requests[outcomeNumber.counted] ?? 0,
      visitors: visitors + (rolledVisits.get(value) ?? 0),
      firstDay: Math.max(
        0,
        byDay.findIndex((count) => count > 0),
      ),
    };
  };

  const priorOn = priorBefore(data, days, units, usual.all.complete);
  const weeks = days.names.length / 7;
  const figuresOf = (
    { visitors, visits, firstDay }: Came,
    sum: Sums,
    money: Pick<PaysFigures, 'cost' | 'approved' | 'pending' | 'worth'>,
  ): PaysFigures => {
    const payout = payoutMix(sum.programs, usual.of);
    const ripe = visits > 0 ? (visitors * sum.ripe) / visits : 0;
    const evidence =
      payout && visitors > 0
        ? {
            visitors,
            ripe,
            conversions: sum.stays,
            cost: sum.parts / partsPerMinor,
            payout,
            prior: priorOn(firstDay),
          }
        : undefined;
    const profit = money.approved + money.worth - money.cost;
    return {
      visitors,
      visits,
      ripe,
      conversions: sum.conversions,
      reversed: sum.reversed,
      ...money,
      profit,
      evidence,
      paidUntil: sum.paidUntil === '' ? undefined : sum.paidUntil,
      ...decide(evidence, sum, visitors),
      weekly: profit / weeks,
    };
  };
  const entries = [...sums];
  const minors = (pick: (sum: Sums) => number): number[] => apportion(entries.map(([, sum]) => pick(sum)));
  const [costs, approved, pending, worths] = [
    minors(({ parts }) => parts / partsPerMinor),
    minors((sum) => sum.approved),
    minors((sum) => sum.pending),
    minors(({ worth }) => worth),
  ];
  const lines = entries.map(([value, sum], i) => ({
    value,
    ...figuresOf(cameOf(value), sum, {
      cost: element(costs[i]),
      approved: element(approved[i]),
      pending: element(pending[i]),
      worth: element(worths[i]),
    }),
  }));
  const add = (list: Iterable<number>): number => [...list].reduce((total, one) => total + one, 0);
  return {
    whole: figuresOf(
      {
        visits: counted.whole.requests[outcomeNumber.counted] ?? 0,
        visitors: counted.whole.visitors + add(rolledVisits.values()),
        firstDay: 0,
      },
      entries.reduce((total, [, sum]) => addSums(total, sum), noSums()),
      { cost: add(costs), approved: add(approved), pending: add(pending), worth: add(worths) },
    ),
    lines: lines.toSorted(
      (a, b) =>
        Math.min(0, a.weekly) - Math.min(0, b.weekly) || b.weekly - a.weekly || (a.value < b.value ? -1 : 1),
    ),
    costs: laid.of,
    alone,
    overlaps: overlapping(records.costs, sourceOf),
    missing: [...missing].map(([name, day]) => ({ currency: name, day })),
    unread: laid.unread,
  };
};

/** What visits of some days cost and earned by what they are told apart by, and what is to be done about each. */
export const whatPays = (data: Dataset, question: PaysQuestion): Pays =>
  answer(data, question, knownOf(data, question));

/** What one row of what pays came to by the evening of a day, by what is known now. */
export interface ProfitByDay extends Pick<PaysFigures, 'visitors' | 'profit' | 'band'> {
  readonly day: string;
}

/** On so many days it is looked at how a profit came about: as many as a small chart can tell apart. */
const mostPoints = 14;

const nothingYet = { visitors: 0, profit: 0, band: undefined };

/** How the profit of one value came about: what its visits came to from the first day asked for until days after it, the last one included. */
export const profitByDay = (
  data: Dataset,
  { value, ...question }: PaysQuestion & { readonly value: string },
): ProfitByDay[] => {
  const known = knownOf(data, question);
  const { by, from, to, where } = question;
  const [first, last] = [dayNumber(from), dayNumber(to)];
  const points = Math.max(1, Math.min(mostPoints, last - first + 1));
  const narrowed = [...where.filter(({ of }) => of !== by), { of: by, values: [value] }];
  return Array.from({ length: points }, (_, i) => {
    const day = dayName(last - Math.round(((points - 1 - i) * (last - first)) / Math.max(1, points - 1)));
    const { lines } = answer(data, { ...question, where: narrowed, to: day }, known);
    const { visitors, profit, band } = lines.find((line) => line.value === value) ?? nothingYet;
    return { day, visitors, profit, band };
  });
};
