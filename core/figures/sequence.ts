import type { Interval } from './rates.ts';

/** Lanczos's approximation of the gamma function with g = 7 and nine terms (coefficients by P. Godfrey, from memory), right to 13 digits. */
const lanczos = [
  0.99999999999980993, 676.5203681218851, -1259.1392167224028, 771.32342877765313, -176.61502916214059,
  12.507343278686905, -0.13857109526572012, 9.9843695780195716e-6, 1.5056327351493116e-7,
] as const;

/** Logarithm of the gamma function of a number above 0. */
const lnGamma = (x: number): number => {
  // Below one half by Euler's reflection.
  if (x < 0.5) return Math.log(Math.PI / Math.sin(Math.PI * x)) - lnGamma(1 - x);
  const shifted = x + 6.5;
  const series = lanczos.reduce<number>((sum, term, i) => (i === 0 ? term : sum + term / (x - 1 + i)), 0);
  return 0.5 * Math.log(2 * Math.PI) + (x - 0.5) * Math.log(shifted) - shifted + Math.log(series);
};

/** Logarithm of the beta function of two numbers above 0. */
export const lnBeta = (a: number, b: number): number => lnGamma(a) + lnGamma(b) - lnGamma(a + b);

/** What is thought of a rate before anything is seen of it: a beta distribution, worth `hits + misses` tries. */
export interface Prior {
  readonly hits: number;
  readonly misses: number;
}

/** A prior that is worth as many tries as usually bring so many hits. */
const priorHits = 3;

/**
 * The prior for a rate that is usually this high. It is to be fixed before the first try: one that follows what is seen makes the
 * promise of `rateSequence` void.
 *
 * @throws RangeError for a rate that is not between 0 and 1
 */
export const priorOf = (usual: number): Prior => {
  if (!(usual > 0 && usual < 1)) throw new RangeError(`a usual rate of ${usual}`);
  return { hits: priorHits, misses: (priorHits * (1 - usual)) / usual };
};

/** In how many cases of a hundred a band may be wrong, ever; and how much less likely by a rate makes it so, as a logarithm. */
const mostWrong = 0.05;
export const mostAgainst = -Math.log(mostWrong);

/** How much more likely what was seen is by the prior than by a rate, as a logarithm; lowest at the rate that was seen. */
export const against = (hits: number, misses: number, prior: Prior): ((rate: number) => number) => {
  const byPrior = lnBeta(prior.hits + hits, prior.misses + misses) - lnBeta(prior.hits, prior.misses);
  return (rate) =>
    byPrior - (hits === 0 ? 0 : hits * Math.log(rate)) - (misses === 0 ? 0 : misses * Math.log1p(-rate));
};

export const mustBeTries = (hits: number, misses: number): void => {
  if (!(hits >= 0) || !(misses >= 0)) throw new RangeError(`${hits} hits and ${misses} misses`);
};

/**
 * Where a rate lies beside the band of `rateSequence`, told without finding its ends.
 *
 * @throws RangeError where hits or misses are below 0
 */
export const sideOf = (
  rate: number,
  hits: number,
  misses: number,
  prior: Prior,
): 'below' | 'within' | 'above' => {
  mustBeTries(hits, misses);
  // Beyond what a rate can be it lies where that end lies, or farther.
  const possible = Math.min(1, Math.max(0, rate));
  if (hits + misses === 0 || against(hits, misses, prior)(possible) <= mostAgainst)
    return rate < 0 ? 'below' : rate > 1 ? 'above' : 'within';
  return rate * (hits + misses) < hits ? 'below' : 'above';
};

/** Where a function that is above 0 at `outside` and not at `inside` crosses it; as near as numbers allow. */
export const crossing = (of: (rate: number) => number, outside: number, inside: number): number => {
  let [above, below] = [outside, inside];
  for (let i = 0; i < 200; i++) {
    const middle = (above + below) / 2;
    if (middle === above || middle === below) break;
    if (of(middle) > 0) above = middle;
    else below = middle;
  }
  // The wider of the two.
  return above;
};

/**
 * The band of a rate that **holds however often it is looked at**: of a hundred rates that are watched for ever, at most five are
 * outside of their band at any time. It holds those rates of which what was seen is not twenty times less likely than by the prior: a
 * mixture of beta distributions (H. Robbins, *Statistical methods related to the law of the iterated logarithm*, Annals of Mathematical
 * Statistics 41, 1970), by Ville's inequality.
 *
 * @param hits conversions, and so misses; both may be parts, where tries have weights
 * @throws RangeError where one is below 0
 */
export const rateSequence = (hits: number, misses: number, prior: Prior): Interval => {
  mustBeTries(hits, misses);
  if (hits + misses === 0) return { low: 0, high: 1 };
  const seen = against(hits, misses, prior);
  const beyond = (rate: number) => seen(rate) - mostAgainst;
  const likeliest = hits / (hits + misses);
  return {
    low: hits === 0 || beyond(0) <= 0 ? 0 : crossing(beyond, 0, likeliest),
    high: misses === 0 || beyond(1) <= 0 ? 1 : crossing(beyond, 1, likeliest),
  };
};
