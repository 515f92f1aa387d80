import { promotionSeparator } from '#core/catalogue';
import { costShare } from '#core/costs';
import { dayIn } from '#core/hop';
import type { Condition, Days, Dimension } from '#core/traffic';
import { holdsAt, valueAt } from '#core/traffic';
import { pricedConversion } from './countedUnits.ts';
import type { Dataset } from './dataset.ts';
import type { Sums } from './paysSums.ts';
import type { PaidUnit, Usual } from './usual.ts';

export interface ConversionInput {
  readonly data: Dataset;
  readonly days: Days;
  readonly where: readonly Condition[];
  readonly of: Dimension;
  readonly placement: Dimension;
  readonly promotion: Dimension;
  readonly units: readonly PaidUnit[];
  readonly usual: (program: string) => Usual;
  /** Parts of costs in a minor unit of the one currency. */
  readonly partsPerMinor: number;
  readonly sumOf: (value: string) => Sums;
  /** Hears of a currency without a rate, and of the day for which there is none. */
  readonly note: (currency: string, day: string) => void;
}

/**
 * Adds the conversions of clicks of some days, whenever they came: what is approved, what pending is worth, and the shares of commission
 * that go to who sold the visits.
 */
export const addConversions = ({
  data: { zone, records, journal, sourceOf },
  days: { starts, names },
  where,
  of,
  placement,
  promotion,
  units,
  usual,
  partsPerMinor,
  sumOf,
  note,
}: ConversionInput): void => {
  const [first, until] = [starts[0] ?? Infinity, starts[names.length] ?? -Infinity];
  const shareFor = records.costs.some(({ per }) => per === 'share')
    ? costShare(records.costs, sourceOf)
    : undefined;
  for (const { unit, program, clickAt, minor } of units) {
    if (clickAt < first || clickAt >= until) continue;
    // Looked up where it is needed only: a calendar is slow.
    const day = () => dayIn(zone, clickAt);
    const valueBy = (dimension: Dimension): string =>
      unit.match.row < 0
        ? dimension.ofLink(unit.link, unit.source, day())
        : valueAt(dimension, journal.columns, unit.match.row);
    if (!where.every((condition) => holdsAt(condition, valueBy(condition.of)))) continue;
    const { status, refundOnly } = unit.conversion;
    const known = sumOf(valueBy(of));
    const approval = usual(program).approval?.share ?? 1;
    const chance = { reversed: 0, pending: approval, approved: 1, paid: 1 }[status];
    if (!refundOnly) {
      known.stays += chance;
      if (status === 'reversed') known.reversed += 1;
      else known.conversions += 1;
    }
    if (status === 'reversed') continue;
    if (minor === undefined) {
      known.unpriced = true;
      note(pricedConversion(unit).currency, day());
      continue;
    }
    if (status === 'pending') {
      known.pending += minor;
      known.worth += minor * chance;
    } else known.approved += minor;
    if (!shareFor) continue;
    const share = shareFor({
      ...{ source: unit.source, link: unit.link, day: day() },
      ...{ placement: valueBy(placement), promotions: valueBy(promotion).split(promotionSeparator) },
    });
    known.parts += minor * chance * share * partsPerMinor;
  }
};
