import { monthIn } from '#core/hop';
import type { Adjustment, MonthFigures } from '#core/reconcile';
import { adjustmentsOf, closingOf } from '#core/reconcile';
import type { Dataset } from './dataset.ts';

/** What closing a month with a network would freeze. */
export const closing = (data: Dataset, network: string, month: string): MonthFigures =>
  closingOf(data.reconciled.units, network, month);

/** What changed in the closed months of a network since. */
export const adjustments = (data: Dataset, network: string): Adjustment[] => {
  const zone = data.records.networks.find(({ id }) => id === network)?.zone ?? 'UTC';
  return data.records.months
    .filter((closed) => closed.network === network)
    .flatMap((closed) => adjustmentsOf(closed, data.reconciled.units, (at) => monthIn(zone, at)));
};
