import type { Payment } from '#core/catalogue';
import { addTo } from '#core/catalogue';
import type { Minor } from '#core/values';

/** What a network approved in a month, in one currency. */
export interface Approved {
  /** `2026-10` */
  readonly month: string;
  readonly currency: string;
  readonly minor: Minor;
}

/** What of it was paid, and what is still owed. */
export interface Owed extends Approved {
  readonly paid: Minor;
  readonly owed: Minor;
  /** Days since the end of the month. */
  readonly days: number;
}

const dayMs = 86_400_000;

/**
 * Sets payments against what was approved, the oldest month first, each currency by itself. What was paid beyond what
 * was approved is given apart.
 *
 * @param today `2026-11-23`
 */
export const owedBy = (
  approved: readonly Approved[],
  payments: readonly Pick<Payment, 'amount' | 'currency'>[],
  today: string,
): { readonly months: readonly Owed[]; readonly ahead: ReadonlyMap<string, Minor> } => {
  const purse = new Map<string, Minor>();
  for (const { amount, currency } of payments) addTo(purse, currency, amount);
  const months = [...approved]
    .sort((a, b) => (a.month < b.month ? -1 : a.month > b.month ? 1 : a.currency < b.currency ? -1 : 1))
    .map((one): Owed => {
      const there = Math.max(0, purse.get(one.currency) ?? 0);
      const paid = Math.min(Math.max(0, one.minor), there);
      if (paid > 0) purse.set(one.currency, there - paid);
      const [year = 0, month = 1] = one.month.split('-').map(Number);
      const end = Date.UTC(year, month, 1);
      return {
        ...one,
        paid,
        owed: one.minor - paid,
        days: Math.max(0, Math.floor((Date.parse(`${today}T00:00:00Z`) - end) / dayMs)),
      };
    });
  return { months, ahead: new Map([...purse].filter(([, minor]) => minor !== 0)) };
};

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
