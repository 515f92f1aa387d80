import type { Interval } from './rates.ts';
import type { Prior } from './sequence.ts';
import { against, crossing, mostAgainst, mustBeTries } from './sequence.ts';

/** What came of one branch of a split. */
export interface Branch {
  /** Conversions, and visitors without one, as they count: by age and by how well payouts are known. */
  readonly hits: number;
  readonly misses: number;
  /** What a conversion pays in the mean, in minor units; 1 where rates are compared. */
  readonly worth: number;
  /** What was thought of its conversion rate before the first visitor came. */
  readonly prior: Prior;
}

/** Steps of a search that leaves a little over six tenths of a range each time: to the end of what numbers tell apart. */
const steps = 80;
const golden = (Math.sqrt(5) - 1) / 2;

/** The highest value of a function that rises and then falls. */
const highest = (of: (x: number) => number, from: number, to: number): number => {
  let [low, high] = [from, to];
  let [left, right] = [high - golden * (high - low), low + golden * (high - low)];
  let [atLeft, atRight] = [of(left), of(right)];
  for (let i = 0; i < steps; i++)
    if (atLeft < atRight) {
      [low, left, atLeft] = [left, right, atRight];
      right = low + golden * (high - low);
      atRight = of(right);
    } else {
      [high, right, atRight] = [right, left, atLeft];
      left = high - golden * (high - low);
      atLeft = of(left);
    }
  return Math.max(atLeft, atRight, of(from), of(to));
};

const seenRate = ({ hits, misses }: Branch): number => (hits + misses === 0 ? 0 : hits / (hits + misses));
const againstOf = ({ hits, misses, prior }: Branch) => against(hits, misses, prior);

/**
 * How much less likely what was seen must be to speak against something, where so many pairs are compared: each pair may be wrong that much
 * more seldom, so that all of them together hold (C. E. Bonferroni, 1936).
 */
const mostAgainstOf = (pairs: number): number => mostAgainst + Math.log(pairs);

/** The most that one branch may earn a visitor beyond another. */
const mostBeyond = (one: Branch, other: Branch, most: number): number => {
  const [ofOne, ofOther] = [againstOf(one), againstOf(other)];
  /** The lowest rate of the other of which, beside a rate of the one, what was seen of both is not too unlikely. */
  const lowestOther = (left: number): number => {
    const beyond = (rate: number) => ofOther(rate) - left;
    return other.hits === 0 || beyond(0) <= 0 ? 0 : crossing(beyond, 0, seenRate(other));
  };
  const leastOther = ofOther(seenRate(other));
  const seen = seenRate(one);
  const tooHigh = (rate: number) => ofOne(rate) + leastOther - most;
  const end = one.misses === 0 || tooHigh(1) <= 0 ? 1 : crossing(tooHigh, 1, seen);
  return highest(
    (rate) => rate * one.worth - lowestOther(Math.max(leastOther, most - ofOne(rate))) * other.worth,
    seen,
    end,
  );
};

/**
 * What one branch earns a visitor beyond another, as a band that holds **however often it is looked at**: of all pairs of rates of which
 * what was seen of both together is not twenty times less likely than by the priors, the least and the most difference. The product of two
 * such mixtures is again one (Ville's inequality; see `rateSequence`), and the region is convex, so that its farthest points are found by a
 * search along one rate.
 *
 * @param pairs how many pairs are compared of which this is one: all of their bands hold together
 * @throws RangeError where hits or misses are below 0
 */
export const differenceBand = (one: Branch, other: Branch, pairs = 1): Interval => {
  for (const { hits, misses } of [one, other]) mustBeTries(hits, misses);
  const most = mostAgainstOf(pairs);
  return { low: -mostBeyond(other, one, most), high: mostBeyond(one, other, most) };
};

/**
 * Which of two branches earns more a visitor, where the band of their difference excludes nought; undefined where it does not. Told without
 * finding its ends: no pair of rates that earn the same is likely enough.
 *
 * @param pairs how many pairs are compared of which this is one
 * @throws RangeError where hits or misses are below 0
 */
export const whichIsBetter = (one: Branch, other: Branch, pairs = 1): 'one' | 'other' | undefined => {
  for (const { hits, misses } of [one, other]) mustBeTries(hits, misses);
  const [ofOne, ofOther] = [againstOf(one), againstOf(other)];
  const times = one.worth / other.worth;
  const alike = (rate: number): number => ofOne(rate) + ofOther(Math.min(1, rate * times));
  if (-highest((rate) => -alike(rate), 0, Math.min(1, 1 / times)) <= mostAgainstOf(pairs)) return undefined;
  return seenRate(one) * one.worth > seenRate(other) * other.worth ? 'one' : 'other';
};
