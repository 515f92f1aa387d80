/** Both ends of an interval. */
export interface Interval {
  readonly low: number;
  readonly high: number;
}

/** A normal variable lies within so many standard deviations of its mean in 95 of 100 cases. */
const in95of100 = 1.959964;

/**
 * The interval of a rate by Wilson's score (E. B. Wilson 1927; method 3 of R. G. Newcombe, *Two-sided confidence intervals for the single
 * proportion*, Statistics in Medicine 17, 1998), right in 95 of 100 cases if it is looked at **once**.
 *
 * @param hits how many of the tries
 * @throws RangeError where there is no try, or more hits than tries
 */
export const rateInterval = (hits: number, tries: number): Interval => {
  if (!(tries > 0) || hits < 0 || hits > tries) throw new RangeError(`${hits} of ${tries}`);
  const rate = hits / tries;
  const squared = in95of100 ** 2;
  const middle = (rate + squared / (2 * tries)) / (1 + squared / tries);
  const half =
    (in95of100 / (1 + squared / tries)) * Math.sqrt((rate * (1 - rate)) / tries + squared / (4 * tries ** 2));
  // At the ends the two terms are the same but for rounding.
  return { low: hits === 0 ? 0 : middle - half, high: hits === tries ? 1 : middle + half };
};

/**
 * The interval of the difference of two rates, first less second, by Newcombe's hybrid score (method 10 of R. G. Newcombe, *Interval
 * estimation for the difference between independent proportions*, Statistics in Medicine 17, 1998).
 *
 * @param first hits and tries, and so the second
 * @throws RangeError where one of them has no try, or more hits than tries
 */
export const rateDifference = (
  first: readonly [hits: number, tries: number],
  second: readonly [hits: number, tries: number],
): Interval => {
  const [one, other] = [rateInterval(...first), rateInterval(...second)];
  const [p, q] = [first[0] / first[1], second[0] / second[1]];
  return {
    low: p - q - Math.hypot(p - one.low, other.high - q),
    high: p - q + Math.hypot(one.high - p, q - other.low),
  };
};
