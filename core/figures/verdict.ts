import type { Payout } from './payout.ts';
import type { Interval } from './rates.ts';
import { rateInterval } from './rates.ts';
import type { Prior } from './sequence.ts';
import { rateSequence, sideOf } from './sequence.ts';

/** What is known of a source, or of whatever else is judged, at one moment. */
export interface Evidence {
  /** People who came. */
  readonly visitors: number;
  /** The same, each counted for the share of conversions that have usually come by the age of the visit. */
  readonly ripe: number;
  /** Conversions that have come, each counted for the chance that it stays: 1 where it is approved, 0 where it was reversed. */
  readonly conversions: number;
  /** What all of the visitors cost, in minor units of the payout's currency. */
  readonly cost: number;
  readonly payout: Payout;
  /** What was thought of the conversion rate before the first visitor came. */
  readonly prior: Prior;
}

/** What is to be done, or why nothing can be said yet. */
export type Verdict = 'no visitors' | 'no cost' | 'cut' | 'wait' | 'scale' | 'keep testing';

/** Less than this share of the conversions has come: of a profit nothing is said yet. */
export const fewestRipe = 0.5;
/** Of fewer sales nobody knows what one pays: the few large ones among them may all be missing, or all be there. */
export const fewestSales = 20;
/** A profit that rests on fewer is luck. */
const fewestConversions = 5;

/**
 * What a try counts for. What a source earns is its conversions times what one pays, and both are known so far only: the relative variance
 * of the one is about 1 ÷ conversions, of the other spread ÷ sales it is known of, of which those of the source are a part. As many fewer
 * tries have as much variance as both together.
 */
const weightOf = ({ conversions, payout: { spread, sales } }: Evidence): number =>
  1 / (1 + spread * Math.min(1, conversions / sales));

/** Hits and misses as they count. */
export const countedTries = (evidence: Evidence): readonly [hits: number, misses: number] => {
  const { ripe, conversions } = evidence;
  const weight = weightOf(evidence);
  return [conversions * weight, Math.max(0, ripe - conversions) * weight];
};

/** The conversion rate at which a visitor earns what one costs. */
const breakEvenRate = ({ visitors, cost, payout }: Evidence): number => cost / visitors / payout.mean;

/**
 * What a visitor earns beyond what one cost, in minor units with their fraction, as a band that holds however often it is looked at.
 *
 * @throws RangeError without a visitor
 */
export const profitBand = (evidence: Evidence): Interval => {
  const { visitors, cost, payout, prior } = evidence;
  if (!(visitors > 0)) throw new RangeError('no visitors');
  const { low, high } = rateSequence(...countedTries(evidence), prior);
  const each = cost / visitors;
  return { low: low * payout.mean - each, high: high * payout.mean - each };
};

/**
 * What is to be done about a source: *wait* where it is not known yet what a conversion pays, *cut* where its band lies below nought, *wait*
 * where less than half of its conversions have usually come by its age, *scale* where the band lies above nought and enough of them have
 * come, else *keep testing*. Losses are told before their conversions are in, since
 * visitors count by their age.
 */
export const judge = (evidence: Evidence): Verdict => {
  const { visitors, ripe, conversions, cost, payout, prior } = evidence;
  if (!(visitors > 0)) return 'no visitors';
  if (cost === 0) return 'no cost';
  if (payout.sales < fewestSales) return 'wait';
  const side = sideOf(breakEvenRate(evidence), ...countedTries(evidence), prior);
  if (side === 'above') return 'cut';
  if (ripe / visitors < fewestRipe) return 'wait';
  return side === 'below' && conversions >= fewestConversions ? 'scale' : 'keep testing';
};

/** More visitors than these are not waited for. */
const mostVisitors = 1e9;

/** How many more visitors it takes at one conversion rate until the break-even rate leaves the band; Infinity where it never does. */
const moreAtRate = (evidence: Evidence, rate: number): number => {
  const weight = weightOf(evidence);
  const [hits, misses] = countedTries(evidence);
  const even = breakEvenRate(evidence);
  const isTold = (more: number) =>
    sideOf(even, hits + rate * more * weight, misses + (1 - rate) * more * weight, evidence.prior) !==
    'within';
  let enough = 1;
  while (!isTold(enough)) if ((enough *= 2) > mostVisitors) return Infinity;
  let few = enough / 2;
  while (enough - few > Math.max(1, enough / 100)) {
    const middle = (few + enough) / 2;
    if (isTold(middle)) enough = middle;
    else few = middle;
  }
  return Math.ceil(enough);
};

/**
 * How many more visitors it takes until it can be said whether a source pays, if it goes on as it does: from the rate it has, and from the
 * ends of that rate's own interval, the fewest and the most.
 *
 * @returns `most` is Infinity where the source may break even
 * @throws RangeError without a visitor
 */
export const visitorsNeeded = (evidence: Evidence): { readonly fewest: number; readonly most: number } => {
  if (!(evidence.visitors > 0) || !(evidence.ripe > 0)) throw new RangeError('no visitors');
  const hits = Math.min(evidence.conversions, evidence.ripe);
  const { low, high } = rateInterval(hits, evidence.ripe);
  const even = breakEvenRate(evidence);
  const needed = [low, hits / evidence.ripe, high].map((rate) => moreAtRate(evidence, rate));
  return { fewest: Math.min(...needed), most: low <= even && even <= high ? Infinity : Math.max(...needed) };
};
