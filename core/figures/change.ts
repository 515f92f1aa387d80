/** A change at least this far from none is said to be more than chance: one in a hundred is said wrongly where nothing changed. */
const surely = 2.576;
/** Of fewer days it cannot be seen how much they differ by themselves. */
const fewestDays = 7;

const sum = (list: readonly number[]): number => list.reduce((total, each) => total + each, 0);

/**
 * Whether counts of days differ from those of the days before by more than days differ from each other anyway: a quasi-Poisson comparison
 * of the two means, whose dispersion is that of the days around the mean of their own period (McCullagh & Nelder, *Generalized Linear
 * Models*, 2nd ed., 4.5 and 6.2; from memory), with Student's quantile in Cornish and Fisher's first approximation.
 *
 * @returns undefined where there are too few days to tell
 */
export const isMoreThanChance = (now: readonly number[], before: readonly number[]): boolean | undefined => {
  const [n, m] = [now.length, before.length];
  if (n < fewestDays || m < fewestDays) return undefined;
  const [here, there] = [sum(now) / n, sum(before) / m];
  const pooled = (sum(now) + sum(before)) / (n + m);
  if (pooled === 0) return false;
  const freedom = n + m - 2;
  const spread = (list: readonly number[], mean: number) => sum(list.map((each) => (each - mean) ** 2));
  // Counts of nothing but chance have a dispersion of 1; fewer differences than that are luck.
  const dispersion = Math.max(1, (spread(now, here) + spread(before, there)) / (freedom * pooled));
  const far = Math.abs(here - there) / Math.sqrt(dispersion * pooled * (1 / n + 1 / m));
  return far > surely + (surely ** 3 + surely) / (4 * freedom);
};
