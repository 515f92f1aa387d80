import type { Rate } from '#core/catalogue';
import type { Minor, Sum } from '#core/values';
import { exponentOf } from '#core/values';
import { convert } from './convert.ts';

/** One total of several currencies by the rates a person gave, or the currencies for which there is none. */
export type Total =
  | { readonly ok: true; readonly minor: Minor; readonly rates: readonly Rate[] }
  | { readonly ok: false; readonly missing: readonly string[] };

/** The newest rate of a currency into another up to a day (`2026-10-31`). */
export const rateOn = (rates: readonly Rate[], from: string, to: string, day: string): Rate | undefined =>
  rates
    .filter((rate) => rate.from === from && rate.to === to && rate.day <= day)
    .sort((a, b) => (a.day < b.day ? 1 : a.day > b.day ? -1 : a.id < b.id ? 1 : -1))[0];

/**
 * Adds sums of several currencies in one of them, by rates a person gave and by no other: each sum is rounded to a minor
 * unit by itself, half away from zero.
 *
 * @param day the newest day a rate may be of
 */
export const totalIn = (sums: readonly Sum[], to: string, day: string, rates: readonly Rate[]): Total => {
  const used: Rate[] = [];
  const missing = new Set<string>();
  let minor = 0;
  for (const sum of sums) {
    if (sum.currency === to) {
      minor += sum.minor;
      continue;
    }
    const rate = rateOn(rates, sum.currency, to, day);
    const converted =
      rate && convert(sum.minor, rate.rate, { from: exponentOf(sum.currency), to: exponentOf(to) });
    if (rate === undefined || converted === undefined) missing.add(sum.currency);
    else {
      minor += converted;
      if (!used.includes(rate)) used.push(rate);
    }
  }
  return missing.size > 0 ? { ok: false, missing: [...missing] } : { ok: true, minor, rates: used };
};
