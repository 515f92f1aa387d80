import { element } from '#core/catalogue';

/** How long something was waited for, and whether it came then; where it did not, it may come later or never. */
export interface Waited {
  readonly ms: number;
  readonly came: boolean;
  /** How many of them there are, where it is not one. */
  readonly count?: number;
}

/** After which wait which share had come. */
export interface ArrivalStep {
  readonly ms: number;
  readonly share: number;
}

/**
 * The share of clicks whose conversion has come by each wait, by Kaplan and Meier's product-limit estimate (*Nonparametric estimation
 * from incomplete observations*, Journal of the American Statistical Association 53, 1958): a click of yesterday says nothing of what
 * comes after a day. One that is no longer waited for at the moment at which another comes was waited for until then.
 *
 * @returns a step for each wait after which one came, the shortest first
 */
export const arrivals = (waits: readonly Waited[]): ArrivalStep[] => {
  const sorted = waits.toSorted((a, b) => a.ms - b.ms);
  const steps: ArrivalStep[] = [];
  let left = 1;
  let waiting = sorted.reduce((sum, { count = 1 }) => sum + count, 0);
  for (let i = 0; i < sorted.length;) {
    const { ms } = element(sorted[i]);
    const waited = waiting;
    let arrived = 0;
    for (; sorted[i]?.ms === ms; i++) {
      const { came, count = 1 } = element(sorted[i]);
      if (came) arrived += count;
      waiting -= count;
    }
    if (arrived === 0) continue;
    left *= 1 - arrived / waited;
    steps.push({ ms, share: 1 - left });
  }
  return steps;
};

/**
 * How complete what has come is, by the wait: of all that ever comes as far as it is known, the share that has come by then. Most clicks
 * never lead to anything, so that what counts as all is what came by the longest wait.
 *
 * @returns gives a share from 0 to 1 for a wait in milliseconds; undefined where nothing has come yet
 */
export const completeness = (waits: readonly Waited[]): ((ms: number) => number) | undefined => {
  const steps = arrivals(waits);
  const all = steps.at(-1)?.share;
  if (all === undefined) return undefined;
  return (ms) => {
    let [low, high] = [0, steps.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (element(steps[middle]).ms <= ms) low = middle + 1;
      else high = middle;
    }
    return low === 0 ? 0 : element(steps[low - 1]).share / all;
  };
};
