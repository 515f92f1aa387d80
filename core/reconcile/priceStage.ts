import type { Status } from '#core/catalogue';
import type { Conversion, Reported } from '#core/conversions';
import { currencyOf, priceOf, termsOn } from '#core/conversions';
import { dayIn, monthIn } from '#core/hop';
import type { ReportMatch } from './join.ts';
import type { Lookup } from './lookup.ts';
import type { PairMatch } from './matchStage.ts';
import type { Side } from './unit.ts';

/** What both sides say of a pair. */
export interface Sides {
  readonly ours: Side | undefined;
  readonly theirs: Side | undefined;
}

/** True for a conversion that counts by what we heard: not reversed, and verified or accepted by a person. */
const countsForUs = ({ status, unverified, trusted }: Conversion): boolean =>
  status !== 'reversed' && (unverified === undefined || trusted === true);

/** A refund that is called reversed stands where its sale stands; of a sale nobody knows it is taken off what is approved. */
const standing = ({ status, refundOf, saleStatus }: Reported): Status =>
  refundOf !== undefined && status === 'reversed' ? (saleStatus ?? 'approved') : status;

const theirSide = (reported: Reported, zone: string): Side => {
  const { amount, currency, status, at, gone, refundOf } = reported;
  return {
    amount,
    currency,
    status: standing(reported),
    // What takes back counts unless its sale is worth nothing anyway.
    counts:
      gone === undefined && (refundOf === undefined ? status !== 'reversed' : refundOf !== 'reversed sale'),
    at,
    month: monthIn(zone, at),
    priced: false,
  };
};

/**
 * Says what each side says: amount, state and month. What came without an amount is priced by the terms of its program;
 * tiers count the conversions of a month, so the pairs are taken in the order in which they happened.
 */
export const priceSides = (
  pairs: readonly ReportMatch[],
  matches: readonly PairMatch[],
  lookup: Lookup,
): Sides[] => {
  /** How many of a program counted in a month so far. */
  const counted = new Map<string, number>();

  const ourSide = (conversion: Conversion, programId: string, zone: string): Side => {
    const { status, at, event, amount, currency } = conversion;
    const month = monthIn(zone, at);
    const counts = countsForUs(conversion);
    const heard: Side = { amount, currency, status, counts, at, month, priced: false };
    const program = lookup.program(programId);
    if (!program?.terms) return heard;
    const tier = `${programId} ${month}`;
    const nth = (counted.get(tier) ?? 0) + (counts && !conversion.refundOnly ? 1 : 0);
    counted.set(tier, nth);
    const terms = amount === null ? termsOn(program, event, dayIn(zone, at)) : undefined;
    const price = terms && priceOf(terms, Math.max(1, nth));
    return terms && price !== undefined
      ? { ...heard, amount: price, currency: currencyOf(terms) ?? currency, priced: true }
      : heard;
  };

  return pairs.map((pair, i) => {
    const match = matches[i];
    if (!match) throw new Error('Each pair has its match.');
    const zone = lookup.zone(match.network);
    return {
      ours: pair.ours && ourSide(pair.ours, match.program, zone),
      theirs: pair.theirs && theirSide(pair.theirs, zone),
    };
  });
};
