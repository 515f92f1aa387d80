import type { Conversion } from '#core/conversions';
import type { Minor, Sum } from '#core/values';
import { sumByCurrency } from '#core/values';

/** Commission by currency; what is reversed, and what never had an amount, does not count. */
export const commissionOf = (conversions: readonly Conversion[]): Sum[] =>
  sumByCurrency(
    conversions.flatMap(({ status, amount, currency }) =>
      status === 'reversed' || amount === null ? [] : [{ currency, minor: amount }],
    ),
  );

/** Earnings per counted click, in minor units with their fraction; undefined without a click. */
export const epcOf = (commission: Minor, countedClicks: number): number | undefined =>
  countedClicks > 0 ? commission / countedClicks : undefined;
