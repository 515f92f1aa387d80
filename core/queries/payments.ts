import type { Approved, Owing, Side } from '#core/reconcile';
import { approvedBy, owedBy } from '#core/reconcile';
import type { Minor } from '#core/values';
import { adjustments } from './closing.ts';
import type { Dataset } from './dataset.ts';
import { tagOf } from './tagOf.ts';

/** Money of one currency by what we heard and by what the network reports, in minor units. */
export interface EarnedSum {
  readonly currency: string;
  readonly ours: Minor;
  readonly theirs: Minor;
  /** Conversions we heard of. */
  readonly sales: number;
}

/** What one account tag earned with a network, in each currency. */
export interface EarnedByTag {
  /** Empty where the link carries none, or where no click was found. */
  readonly tag: string;
  /** Who or which site the tag stands for; empty where nobody registered it. */
  readonly owner: string;
  readonly network: string;
  readonly sums: readonly EarnedSum[];
}

/** Approved commission of a network by month and currency, oldest month first; closed months as they were. */
export const approved = (data: Dataset, network: string): Approved[] =>
  approvedBy(
    data.reconciled.units,
    network,
    data.records.months.filter((one) => one.network === network),
    adjustments(data, network),
  );

/** What a network still owes by month, what each payment was laid on, and what it paid ahead, up to a day (`2026-11-23`). */
export const owed = (data: Dataset, network: string, today: string): Owing => {
  const { pays, currency } = data.records.networks.find(({ id }) => id === network) ?? {};
  return owedBy(
    approved(data, network),
    data.records.payments.filter((payment) => payment.network === network),
    today,
    pays && currency !== undefined ? { terms: pays, currency } : undefined,
  );
};

/** Money that is owed beyond the day by which a network's own terms have it paid. */
export interface Overdue {
  readonly network: string;
  readonly currency: string;
  readonly minor: Minor;
  /** Days since the oldest of it was due. */
  readonly days: number;
}

/** What every network should have paid by its own terms and has not, the latest first. */
export const overdue = (data: Dataset, today: string): Overdue[] =>
  data.records.networks
    .filter(({ pays }) => pays !== undefined)
    .flatMap(({ id }) => {
      const late = owed(data, id, today).months.filter((one) => one.late > 0);
      return [...new Set(late.map(({ currency }) => currency))].map((currency): Overdue => {
        const months = late.filter((one) => one.currency === currency);
        return {
          network: id,
          currency,
          minor: months.reduce((sum, one) => sum + one.owed, 0),
          days: Math.max(...months.map((one) => one.late)),
        };
      });
    })
    .sort((a, b) => b.days - a.days);

/** What the links of a network earned in a month, by the account tag in the address that was shown. Dearest first. */
export const earnedByTag = (data: Dataset, network: string, month: string): EarnedByTag[] => {
  const { accounts } = data.records;
  const tag = tagOf(data);
  const byTag = new Map<string, Map<string, EarnedSum>>();
  const add = (name: string, side: Side | undefined, whose: 'ours' | 'theirs', isSale = false) => {
    if (!side?.counts || side.month !== month) return;
    let sums = byTag.get(name);
    if (!sums) byTag.set(name, (sums = new Map()));
    const { currency } = side;
    const sum = sums.get(currency) ?? { currency, ours: 0, theirs: 0, sales: 0 };
    sums.set(currency, {
      ...sum,
      [whose]: sum[whose] + (side.amount ?? 0),
      sales: sum.sales + (isSale ? 1 : 0),
    });
  };
  for (const unit of data.reconciled.units) {
    if (unit.network !== network) continue;
    if (unit.cause !== 'sent twice') add(tag(unit), unit.ours, 'ours', !unit.conversion?.refundOnly);
    add(tag(unit), unit.theirs, 'theirs');
  }
  const worth = ({ sums }: EarnedByTag) =>
    Math.max(...sums.map(({ ours, theirs }) => Math.max(ours, theirs)));
  return [...byTag]
    .map(([name, sums]): EarnedByTag => ({
      tag: name,
      network,
      owner: accounts.find((account) => account.network === network && account.tag === name)?.owner ?? '',
      sums: [...sums.values()],
    }))
    .sort((a, b) => worth(b) - worth(a) || (a.tag < b.tag ? -1 : 1));
};
