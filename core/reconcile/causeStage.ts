import { pushTo } from '#core/catalogue';
import type { Reported } from '#core/conversions';
import { dayIn } from '#core/hop';
import type { ReportMatch } from './join.ts';
import type { Lookup } from './lookup.ts';
import { isUnfilled } from './match.ts';
import type { Sides } from './priceStage.ts';
import type { Cause, Unit } from './unit.ts';
import { pairNames } from './unit.ts';

const hourMs = 3_600_000;

const causeOf = (
  { ours, theirs }: Sides,
  reported: Reported | undefined,
  network: string,
  lookup: Lookup,
): Cause | undefined => {
  if (reported?.refundOf !== undefined) return theirs?.counts ? 'refund' : undefined;
  if (reported?.gone !== undefined) return ours?.counts === false ? undefined : 'no longer listed';
  // Both sides come to the same once their refunds are taken off.
  if (ours && theirs?.counts && reported?.refunded !== undefined) {
    const [our, their] = [ours.counts ? (ours.amount ?? 0) : 0, (theirs.amount ?? 0) + reported.refunded];
    if (our === their && ours.currency === theirs.currency) return 'refund';
  }
  if (!ours) return theirs ? 'no postback' : undefined;
  if (!theirs)
    return lookup.covers(network, dayIn(lookup.zone(network), ours.at))
      ? 'not in report'
      : 'not yet reported';
  if (ours.counts !== theirs.counts) return 'reversed';
  if (ours.amount !== null && theirs.amount !== null && ours.currency !== theirs.currency) return 'currency';
  if (ours.month !== theirs.month) return 'another month';
  // Reversed on both sides, it is worth nothing on either.
  if (!ours.counts || ours.amount === theirs.amount) return undefined;
  return ours.priced && (theirs.amount ?? 0) < (ours.amount ?? 0) ? 'below terms' : 'amount';
};

/** Names why the two sides of each pair differ, if they do. */
export const nameCauses = (
  pairs: readonly ReportMatch[],
  sides: readonly Sides[],
  lookup: Lookup,
): (Cause | undefined)[] =>
  pairs.map((pair, i) => {
    const both = sides[i];
    if (!both) throw new Error('Each pair has its sides.');
    // A postback that is not verified and that no person accepted is not the network's word, so it explains nothing.
    const isTheirWord = pair.ours?.unverified === undefined || pair.ours.trusted === true;
    return causeOf(
      isTheirWord ? both : { ...both, ours: undefined },
      pair.theirs,
      pairNames(pair).network,
      lookup,
    );
  });

/**
 * Finds postbacks that fired twice for one conversion: one without a transaction, of the same click, event and amount as
 * another with one, within an hour. The ledger cannot know them for the same, since their identities differ.
 */
export const nameRepeats = (units: readonly Unit[]): Unit[] => {
  const withTransaction = new Map<string, Unit[]>();
  const keyOf = (network: string, click: string, event: string) =>
    `${network} ${click.trim().toUpperCase()} ${event}`;
  for (const unit of units) {
    const { network, conversion } = unit;
    if (!conversion || conversion.txn === '' || isUnfilled(conversion.click)) continue;
    const key = keyOf(network, conversion.click, conversion.event);
    pushTo(withTransaction, key, unit);
  }
  return units.map((unit): Unit => {
    const { network, conversion, reported } = unit;
    if (!conversion || conversion.txn !== '' || reported) return unit;
    const { click, event, at, amount } = conversion;
    const twin = withTransaction
      .get(keyOf(network, click, event))
      ?.find(
        ({ conversion: other }) =>
          other !== undefined &&
          Math.abs(other.at - at) <= hourMs &&
          (other.amount === amount || amount === null),
      );
    return twin ? { ...unit, cause: 'sent twice', repeats: twin.id } : unit;
  });
};
