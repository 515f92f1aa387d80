import type { ClosedMonth } from '#core/catalogue';
import { monthIn } from '#core/hop';
import type { Adjustment, MonthFigures } from '#core/reconcile';
import { adjustmentsOf, closingOf } from '#core/reconcile';
import type { BalanceLines } from './balance.ts';
import { balanceNow } from './balance.ts';
import type { Dataset } from './dataset.ts';
import { queue } from './discrepancies.ts';
import { tagOf } from './tagOf.ts';

type Shown = NonNullable<ClosedMonth['shown']>;

/** The lines of a balance as a record keeps them. */
const shownOf = ({ clicks, conversions, commission, covered }: BalanceLines): Omit<Shown, 'waiting'> => {
  const bridgeOf = ({ pieces, ...bridge }: BalanceLines['clicks'] | BalanceLines['conversions']) => ({
    ...bridge,
    pieces: pieces.map((piece) => ({ ...piece })),
  });
  return {
    clicks: bridgeOf(clicks),
    conversions: bridgeOf(conversions),
    commission: commission.map(({ currency, bridge }) => ({ currency, bridge: bridgeOf(bridge) })),
    covered: { ...covered },
  };
};

/** What closing a month with a network would freeze: all its figures, and what waits to be settled. */
export const closing = (
  data: Dataset,
  network: string,
  month: string,
): MonthFigures & { readonly shown: Shown } => {
  const arrived = adjustments(data, network).filter((one) => one.arrived === month);
  return {
    ...closingOf(data.reconciled.units, network, month, arrived, tagOf(data)),
    shown: {
      ...shownOf(balanceNow(data, { network, month })),
      waiting: queue(data, { network, month }).map(({ kind, count, worth }) => ({
        kind,
        count,
        worth: worth.map((sum) => ({ ...sum })),
      })),
    },
  };
};

/** What changed in the closed months of a network since, as far as no month closed later has counted it. */
export const adjustments = (data: Dataset, network: string): Adjustment[] => {
  const zone = data.records.networks.find(({ id }) => id === network)?.zone ?? 'UTC';
  return adjustmentsOf(
    data.records.months.filter((closed) => closed.network === network),
    data.reconciled.units,
    (at) => monthIn(zone, at),
  );
};
