import type { Minor } from '#core/values';

const exactRate = /^(\d+)(?:\.(\d+))?$/;

/**
 * Converts minor units by a rate given as decimal text, rounding half away from zero; exact, with no floating point.
 *
 * @param places decimals of the currencies it comes from and goes to
 */
export const convert = (
  minor: Minor,
  rate: string,
  places: { readonly from: number; readonly to: number },
): Minor | undefined => {
  const match = exactRate.exec(rate);
  if (!match) return undefined;
  const [, whole = '0', fraction = ''] = match;
  const numerator = BigInt(Math.abs(minor)) * BigInt(whole + fraction) * 10n ** BigInt(places.to);
  const denominator = 10n ** BigInt(fraction.length + places.from);
  const rounded = Number((numerator * 2n + denominator) / (denominator * 2n));
  return minor < 0 ? -rounded : rounded;
};
