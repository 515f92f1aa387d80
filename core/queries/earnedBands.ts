import type { Interval } from '#core/figures';
import { fewestSales } from '#core/figures';
import type { Dataset } from './dataset.ts';
import type { PaysQuestion } from './whatPays.ts';
import { whatPays } from './whatPays.ts';

/** What a visitor earns at worst and at best once all that is still to come has come, before any cost, in minor units. */
export interface EarnedBand extends Interval {
  readonly value: string;
  /** How many visitors it speaks of. */
  readonly visitors: number;
}

/** What visitors of some days earn, by what they are told apart by; values of which nothing can be said, or too few sales tell what one pays, are left out. */
export const earnedBands = (data: Dataset, question: PaysQuestion): EarnedBand[] =>
  whatPays(data, question).lines.flatMap(({ value, visitors, band, evidence }) => {
    if (!band || !evidence || evidence.payout.sales < fewestSales) return [];
    const cost = evidence.cost / visitors;
    return [{ value, visitors, low: band.low + cost, high: band.high + cost }];
  });
