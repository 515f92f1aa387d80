import type { Conversion, Minor } from '#core/conversions';

/** Money of one currency. */
export interface Sum {
  readonly currency: string;
  readonly minor: Minor;
}

/** Adds commission by currency, never across; what was taken back does not count. Ordered by currency. */
export const commissionOf = (conversions: readonly Conversion[]): Sum[] => {
  const sums = new Map<string, Minor>();
  for (const { status, amount, currency } of conversions)
    if (status !== 'reversed' && amount !== null) sums.set(currency, (sums.get(currency) ?? 0) + amount);
  return [...sums]
    .map(([currency, minor]) => ({ currency, minor }))
    .sort((a, b) => (a.currency < b.currency ? -1 : 1));
};

/** Earnings per counted click, in minor units with their fraction; undefined without a click. */
export const epcOf = (commission: Minor, countedClicks: number): number | undefined =>
  countedClicks > 0 ? commission / countedClicks : undefined;
