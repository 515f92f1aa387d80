import type { Payment, Rate } from '#core/catalogue';
import { rateOn } from '#core/reconcile';

/** A payment before it is noted. */
export type PaymentDraft = Omit<Payment, 'id'>;

/** True for two payments of one network that are the same sum of the same day. */
export const isLike = (
  a: Pick<Payment, 'network' | 'day' | 'amount' | 'currency'>,
  b: Pick<Payment, 'network' | 'day' | 'amount' | 'currency'>,
): boolean =>
  a.network === b.network && a.day === b.day && a.amount === b.amount && a.currency === b.currency;

/**
 * What a payment settles when it arrives in a currency in which nothing is owed: the network's own, by the person's rate of
 * that day or the newest before it. An empty rate has to be given; undefined where it settles its own currency.
 */
export const settling = (
  currency: string,
  day: string,
  owedIn: readonly string[],
  own: string,
  rates: readonly Rate[],
): { readonly currency: string; readonly rate: string } | undefined =>
  currency === own || owedIn.includes(currency)
    ? undefined
    : { currency: own, rate: rateOn(rates, currency, own, day)?.rate ?? '' };
