import type { Side, Unit } from '#core/reconcile';
import { unitAt } from '#core/reconcile';
import type { Order } from '#core/values';
import { inOrder } from '#core/values';
import type { QueriedLink } from './dataset.ts';

/** The columns conversions can be sorted by. */
export const ledgerColumns = ['at', 'txn', 'link', 'ours', 'theirs', 'click', 'differs'] as const;

/** What conversions are sorted by, and whether the largest come first. */
export interface LedgerSort {
  readonly by: (typeof ledgerColumns)[number];
  readonly down: boolean;
}

/** Amounts of one currency are compared with each other; an amount that is missing comes last. */
const amounts = (side: (unit: Unit) => Side | undefined): Order<Unit> => ({
  key: (unit) => side(unit)?.amount ?? undefined,
  band: (unit) => side(unit)?.currency ?? '', // without a side it comes last
});

/** Conversions in the order a person asked for. */
export const orderUnits = (
  units: readonly Unit[],
  { by, down }: LedgerSort,
  links: readonly QueriedLink[],
): Unit[] => {
  const slugs = new Map(links.map(({ id, slug }) => [id, slug]));
  const orders: Readonly<Record<LedgerSort['by'], Order<Unit>>> = {
    at: { key: unitAt },
    txn: { key: ({ conversion, reported }) => conversion?.txn || reported?.txn || undefined },
    link: { key: ({ link }) => slugs.get(link) },
    ours: amounts(({ ours }) => ours),
    theirs: amounts(({ theirs }) => theirs),
    click: { key: ({ match }) => match.level },
    differs: { key: ({ cause, flags }) => cause ?? flags[0] },
  };
  return inOrder(units, orders[by], down);
};
