import { element } from '#core/catalogue';
import type { Minor } from '#core/values';
import { exponentOf } from '#core/values';
import type { Conversion } from './fold.ts';

/** Fewest others of its kind by which an amount is known to be unusual. */
const fewest = 3;
/** So many times the usual amount is odd; within so many times of it is usual. */
const oddTimes = 20;
const usualTimes = 5;

const median = (sorted: readonly Minor[]): Minor => element(sorted[Math.floor(sorted.length / 2)]);

/**
 * Marks amounts that came without decimals and would be usual had they some: 860 where 8.60 is usual. Usual is the median
 * of the other conversions of the same network, event and currency.
 */
export const markOdd = (ledger: readonly Conversion[]): readonly Conversion[] => {
  if (!ledger.some(({ whole }) => whole)) return ledger;
  const keyOf = ({ network, event, currency }: Conversion) => `${network} ${event} ${currency}`;
  const amounts = new Map<string, Minor[]>();
  for (const conversion of ledger) {
    if (conversion.amount === null || conversion.amount <= 0) continue;
    const list = amounts.get(keyOf(conversion));
    if (list) list.push(conversion.amount);
    else amounts.set(keyOf(conversion), [conversion.amount]);
  }
  for (const list of amounts.values()) list.sort((a, b) => a - b);
  return ledger.map((conversion) => {
    const { amount, currency, whole } = conversion;
    const list = amounts.get(keyOf(conversion)) ?? [];
    if (!whole || amount === null || list.length <= fewest) return conversion;
    const usual = median(list);
    const meant = amount / 10 ** exponentOf(currency);
    const odd =
      Number.isInteger(meant) &&
      amount >= usual * oddTimes &&
      meant >= usual / usualTimes &&
      meant <= usual * usualTimes;
    return odd ? { ...conversion, odd: meant } : conversion;
  });
};
