/** What a conversion pays, in minor units of one currency. */
export interface Payout {
  readonly mean: number;
  /** How much payouts differ: their variance, divided by the square of their mean; 0 where the terms fix what is paid. */
  readonly spread: number;
  /** Of how many conversions this is known; Infinity where the terms fix it. */
  readonly sales: number;
}

/**
 * What conversions of a program pay, from what all of its sources were paid; those of one source alone are too few to know the large
 * ones among them. Undefined of fewer than two, and where nothing is paid in the mean.
 *
 * @param amounts minor units of one currency, of what was not reversed
 */
export const payoutOf = (amounts: readonly number[]): Payout | undefined => {
  const count = amounts.length;
  const mean = amounts.reduce((sum, amount) => sum + amount, 0) / count;
  if (count < 2 || !(mean > 0)) return undefined;
  const squares = amounts.reduce((sum, amount) => sum + (amount - mean) ** 2, 0);
  return { mean, spread: squares / (count - 1) / mean ** 2, sales: count };
};
