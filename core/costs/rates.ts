import type { Rate } from '#core/catalogue';
import { rateOn } from '#core/reconcile';

/** What a currency's unit has of the parts in which costs are counted: prices of a click lie below a cent. */
export const partsPerUnit = 1e9;

/** A currency of which no rate is known up to a day. */
export interface MissingRate {
  readonly currency: string;
  readonly day: string;
}

/** Brings amounts into one currency by a person's own dated rates, and by no other. */
export interface CostRates {
  readonly to: string;
  /**
   * Decimal text in units of a currency, as whole parts of the one currency, by the newest rate up to a day; undefined where there is
   * none.
   */
  readonly parts: (amount: string, currency: string, day: string) => number | undefined;
}

/** A decimal text as a whole number and its decimals. */
const exact = (text: string): readonly [digits: bigint, decimals: number] => {
  const [whole = '0', fraction = ''] = text.split('.');
  return [BigInt(whole + fraction), fraction.length];
};

/** Rates as costs and commissions go by them, each looked up once; exact but for one rounding, half up. */
export const costRates = (rates: readonly Rate[], to: string): CostRates => {
  const known = new Map<string, string | undefined>();
  const rateFor = (from: string, day: string): string | undefined => {
    if (from === to) return '1';
    const key = `${from} ${day}`;
    if (!known.has(key)) known.set(key, rateOn(rates, from, to, day)?.rate);
    return known.get(key);
  };
  return {
    to,
    parts: (amount, currency, day) => {
      const rate = rateFor(currency, day);
      if (rate === undefined) return undefined;
      const [[digits, decimals], [factor, more]] = [exact(amount), exact(rate)];
      const divisor = 10n ** BigInt(decimals + more);
      return Number((digits * factor * BigInt(partsPerUnit) * 2n + divisor) / (divisor * 2n));
    },
  };
};
