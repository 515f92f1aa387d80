import { pushTo } from '#core/catalogue';
import type { Reported } from '#core/conversions';
import { dayIn } from '#core/hop';
import type { ReportMatch } from './join.ts';
import type { Lookup } from './lookup.ts';
import { isUnfilled } from './match.ts';
import type { Sides } from './priceStage.ts';
import type { Cause, Unit } from './unit.ts';
import { isRefund, pairNames } from './unit.ts';

const hourMs = 3_600_000;

/** True where both sides come to the same once their refunds are taken off. */
const agreesAfterRefunds = ({ ours, theirs }: Sides, reported: Reported | undefined): boolean => {
  if (!ours || !theirs?.counts || reported?.refunded === undefined) return false;
  const [our, their] = [ours.counts ? (ours.amount ?? 0) : 0, (theirs.amount ?? 0) + reported.refunded];
  return our === their && ours.currency === theirs.currency;
};

/**
 * Places of the rows that take back what a postback took back too: their sale comes to the same on both sides with that. They
 * wait for nobody.
 */
export const heardRefunds = (
  pairs: readonly ReportMatch[],
  sides: readonly Sides[],
  lookup: Lookup,
): ReadonlySet<number> => {
  const heard = new Set<number>();
  if (!pairs.some(isRefund)) return heard;
  const saleOf = ({ network, txn, event }: Reported) =>
    JSON.stringify([network, lookup.txnKey(network, txn), event]);
  const agreed = new Set<string>();
  for (const [i, { theirs }] of pairs.entries()) {
    const both = sides[i];
    if (theirs && both && agreesAfterRefunds(both, theirs)) agreed.add(saleOf(theirs));
  }
  for (const [i, { theirs }] of pairs.entries())
    if (theirs?.refundOf === 'sale' && agreed.has(saleOf(theirs))) heard.add(i);
  return heard;
};

const causeOf = (
  both: Sides,
  reported: Reported | undefined,
  network: string,
  lookup: Lookup,
): Cause | undefined => {
  const { ours, theirs } = both;
  if (reported?.refundOf !== undefined && !ours) return theirs?.counts ? 'refund' : undefined;
  if (reported?.gone !== undefined) return ours?.counts === false ? undefined : 'no longer listed';
  if (agreesAfterRefunds(both, reported)) return 'refund';
  if (!ours) {
    if (!theirs) return undefined;
    const isUnread = reported && lookup.isUnread(network, reported.txn, reported.click);
    return isUnread ? 'not read' : 'no postback';
  }
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
  const keyOf = (network: string, click: string, event: string) =>
    `${network} ${click.trim().toUpperCase()} ${event}`;
  /** Clicks of which a postback without a transaction came that no row lists. */
  const asked = new Set<string>();
  for (const { network, conversion, reported } of units)
    if (conversion?.txn === '' && !reported) asked.add(keyOf(network, conversion.click, conversion.event));
  if (asked.size === 0) return [...units];
  const withTransaction = new Map<string, Unit[]>();
  for (const unit of units) {
    const { network, conversion } = unit;
    if (!conversion || conversion.txn === '' || isUnfilled(conversion.click)) continue;
    const key = keyOf(network, conversion.click, conversion.event);
    if (asked.has(key)) pushTo(withTransaction, key, unit);
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
