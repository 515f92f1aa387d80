import type { Branch } from './difference.ts';
import { differenceBand, whichIsBetter } from './difference.ts';
import type { Interval } from './rates.ts';
import type { Evidence } from './verdict.ts';
import { countedTries, fewestRipe, fewestSales } from './verdict.ts';

/** What one branch earns a visitor beyond another, and what is to be made of it. Money in minor units. */
export interface Compared {
  /** A band that holds however often it is looked at. */
  readonly difference: Interval;
  readonly verdict: 'better' | 'worse' | 'no difference' | 'keep testing' | 'wait';
  /** Of *no difference*: at most so much a month lies between both. */
  readonly atMost: number;
  /** Of *keep testing*: how many more visitors of both together it takes at their present rates; Infinity where both earn the same. */
  readonly needed: number | undefined;
}

/** A difference of less than this share of what both earn is not worth a test (common practice: what a month differs by anyway). */
const smallShare = 0.05;
/** More visitors than these are not waited for. */
const mostVisitors = 1e8;

const branchOf = (evidence: Evidence, tries = countedTries(evidence)): Branch => ({
  ...{ hits: tries[0], misses: tries[1], worth: evidence.payout.mean, prior: evidence.prior },
});

/** How many more visitors of both it takes, shared as until now, if each goes on as it does. */
const visitorsUntilTold = (one: Evidence, other: Evidence, pairs: number): number => {
  const [ofOne, ofOther] = [branchOf(one), branchOf(other)];
  const grown = (branch: Branch, times: number): Branch => ({
    ...branch,
    hits: branch.hits * times,
    misses: branch.misses * times,
  });
  const seen = one.visitors + other.visitors;
  const isTold = (times: number) =>
    whichIsBetter(grown(ofOne, times), grown(ofOther, times), pairs) !== undefined;
  let enough = 2;
  while (!isTold(enough)) if ((enough *= 2) * seen > mostVisitors) return Infinity;
  let few = enough / 2;
  while (enough - few > enough / 100) {
    const middle = (few + enough) / 2;
    if (isTold(middle)) enough = middle;
    else few = middle;
  }
  return Math.ceil((enough - 1) * seen);
};

/**
 * Compares two branches of a split: *wait* while most of the conversions of one are still to come, or too few sales tell what one pays;
 * *better* or *worse* where the band of their difference excludes nought; *no difference* where a month of it, at worst, is less than a
 * twentieth of what both earn; else *keep testing*.
 *
 * @param monthly visitors of both together in a month
 * @param pairs how many pairs are compared of which this is one; of three branches three
 * @throws RangeError without a visitor
 */
export const compareBranches = (one: Evidence, other: Evidence, monthly: number, pairs = 1): Compared => {
  for (const { visitors } of [one, other]) if (!(visitors > 0)) throw new RangeError('no visitors');
  const [ofOne, ofOther] = [branchOf(one), branchOf(other)];
  const difference = differenceBand(ofOne, ofOther, pairs);
  const atMost = Math.max(Math.abs(difference.low), Math.abs(difference.high)) * monthly;
  const nothing = { difference, atMost, needed: undefined };
  const isEarly = [one, other].some(
    ({ ripe, visitors, payout }) => ripe / visitors < fewestRipe || payout.sales < fewestSales,
  );
  if (isEarly) return { ...nothing, verdict: 'wait' };
  const better = whichIsBetter(ofOne, ofOther, pairs);
  if (better !== undefined) return { ...nothing, verdict: better === 'one' ? 'better' : 'worse' };
  const earned = [one, other].reduce((sum, { conversions, payout }) => sum + conversions * payout.mean, 0);
  const ripe = one.ripe + other.ripe;
  if (atMost < smallShare * (earned / ripe) * monthly) return { ...nothing, verdict: 'no difference' };
  return { ...nothing, verdict: 'keep testing', needed: visitorsUntilTold(one, other, pairs) };
};

/**
 * Shares that follow from how branches compare with the first of them: one that surely earns less gets the least, and the others share
 * the rest equally, so that nobody gains by luck alone. All of them together are a hundred.
 *
 * @param verdicts of each branch beside the first; undefined for the first itself, and where nothing can be said
 * @param least of a hundred visitors, for each; with many branches as much as there is for each
 */
export const movedShares = (
  verdicts: readonly (Compared['verdict'] | undefined)[],
  least: number,
): number[] => {
  const isBeaten = verdicts.includes('better');
  const isWorse = verdicts.map((verdict, i) => verdict === 'worse' || (i === 0 && isBeaten));
  const few = Math.min(least, Math.floor(100 / verdicts.length));
  const worse = isWorse.filter(Boolean).length;
  const [rest, others] = [100 - few * worse, verdicts.length - worse];
  let given = 0;
  return isWorse.map((isFew) => {
    if (isFew) return few;
    given += 1;
    return Math.floor((rest * given) / others) - Math.floor((rest * (given - 1)) / others);
  });
};
