import { dayIn } from '#core/hop';
import type { Unit } from '#core/reconcile';
import { unitAt } from '#core/reconcile';
import { valueAt } from '#core/traffic';
import type { Dataset } from './dataset.ts';
import { dimensionsOf } from './trafficDimensions.ts';

/**
 * Finds the account tag of who earned a unit's money: the one in the address to which its click's branch leads now, without a click that of
 * its link. Empty where it has none.
 */
export const tagOf = (data: Dataset): ((unit: Unit) => string) => {
  const writer = dimensionsOf(data)('writer');
  return (unit) =>
    unit.match.row < 0
      ? writer.ofLink(unit.link, unit.source, dayIn(data.zone, unitAt(unit)))
      : valueAt(writer, data.journal.columns, unit.match.row);
};
