import { element } from '#core/catalogue';
import type { Payout, Prior } from '#core/figures';
import { priorOf } from '#core/figures';
import type { Days } from '#core/traffic';
import { outcomeNumber } from '#core/visits';
import type { Dataset } from './dataset.ts';
import type { PaidUnit, Usual } from './usual.ts';

/**
 * What is thought of a conversion rate before anything is known of any: about one of a hundred (common practice), and that is worth half a
 * conversion only, so that somebody whose visitors buy often is not held up by it.
 */
const unknown: Prior = { hits: 0.5, misses: 49.5 };
/** From fewer visits nothing is said of what is usual. */
const fewestVisits = 200;

/**
 * What a conversion of some visits pays: of each program what it pays, as often as conversions of it are to be expected, so that one
 * large sale of a source says no more of the source than of all others.
 */
export const payoutMix = (
  programs: ReadonlyMap<string, number>,
  usual: (program: string) => Usual,
): Payout | undefined => {
  let [weights, means, squares, sales] = [0, 0, 0, 0];
  const seen = new Set<Payout>();
  for (const [name, visits] of programs) {
    const { payout, rate = 0 } = usual(name);
    if (!payout) continue;
    const weight = visits * Math.max(rate, 1e-9);
    weights += weight;
    means += weight * payout.mean;
    squares += weight * payout.mean ** 2 * (1 + payout.spread);
    if (!seen.has(payout)) sales += payout.sales;
    seen.add(payout);
  }
  if (weights === 0) return undefined;
  const mean = means / weights;
  return { mean, spread: Math.max(0, squares / weights / mean ** 2 - 1), sales };
};

/**
 * Gives what is thought of the conversion rate of whatever began on a day of the question: the rate of all visits that was usual before it.
 * It does not mind what the question is narrowed to: a row is judged the same beside others and alone.
 */
export const priorBefore = (
  data: Dataset,
  { starts }: Days,
  units: readonly PaidUnit[],
  complete: (ageMs: number) => number,
): ((day: number) => Prior) => {
  const { columns } = data.journal;
  const { outcomes } = data.classification;
  const dayMs = 86_400_000;
  const begin = starts[0] ?? 0;
  // Days before and after the first one asked for, in steps of 24 hours: the prior need not mind the clocks.
  const visits = new Map<number, number>();
  for (const [n, segment] of columns.segments.entries()) {
    const found = element(outcomes[n]);
    let [day, count] = [NaN, 0];
    const note = () => count > 0 && visits.set(day, (visits.get(day) ?? 0) + count);
    for (let i = 0; i < segment.rows; i++) {
      if (found[i] !== outcomeNumber.counted) continue;
      const of = Math.floor((element(segment.at[i]) - begin) / dayMs);
      if (of !== day) {
        note();
        [day, count] = [of, 0];
      }
      count += 1;
    }
    note();
  }
  const list = [...visits];
  const known = new Map<number, Prior>();
  return (day) => {
    let prior = known.get(day);
    if (!prior) {
      let tries = 0;
      for (const [of, count] of list) if (of < day) tries += count * complete((day - of - 0.5) * dayMs);
      const until = begin + day * dayMs;
      const hits = units.filter(
        ({ unit, clickAt }) => clickAt < until && unit.conversion.at < until && !unit.conversion.refundOnly,
      ).length;
      prior = tries >= fewestVisits && hits > 0 ? priorOf(Math.min(0.5, hits / tries)) : unknown;
      known.set(day, prior);
    }
    return prior;
  };
};
