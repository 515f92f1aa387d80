import { accountTag } from '#core/link-parts';
import type { Approved, Owed, Side } from '#core/reconcile';
import { owedBy } from '#core/reconcile';
import type { Minor } from '#core/values';
import type { Dataset } from './dataset.ts';

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

/** Approved commission of a network by month and currency, oldest month first. */
export const approved = (data: Dataset, network: string): Approved[] => {
  const sums = new Map<string, Approved>();
  for (const { network: whose, theirs } of data.reconciled.units) {
    // What is listed no longer, or takes back from what is worth nothing, is owed by nobody.
    if (whose !== network || !theirs?.counts) continue;
    if (theirs.status !== 'approved' && theirs.status !== 'paid') continue;
    const { month, currency, amount } = theirs;
    const key = `${month} ${currency}`;
    sums.set(key, { month, currency, minor: (sums.get(key)?.minor ?? 0) + (amount ?? 0) });
  }
  return [...sums.values()].sort((a, b) =>
    a.month === b.month ? (a.currency < b.currency ? -1 : 1) : a.month < b.month ? -1 : 1,
  );
};

/** What a network still owes by month, and what it paid ahead by currency, up to a day (`2026-11-23`). */
export const owed = (
  data: Dataset,
  network: string,
  today: string,
): { readonly months: readonly Owed[]; readonly ahead: ReadonlyMap<string, Minor> } =>
  owedBy(
    approved(data, network),
    data.records.payments.filter((payment) => payment.network === network),
    today,
  );

/** What the links of a network earned in a month, by the account tag in their destination. Dearest first. */
export const earnedByTag = (data: Dataset, network: string, month: string): EarnedByTag[] => {
  const { links, networks, programs, accounts } = data.records;
  const tagOf = new Map<string, string>();
  const destinations = new Map(links.map((link) => [link.id, link.destination]));
  const tag = (link: string): string => {
    let found = tagOf.get(link);
    if (found === undefined) {
      const destination = destinations.get(link);
      found = destination === undefined ? '' : accountTag(destination, networks, programs);
      tagOf.set(link, found);
    }
    return found;
  };
  const byTag = new Map<string, Map<string, EarnedSum>>();
  const add = (name: string, side: Side | undefined, whose: 'ours' | 'theirs') => {
    if (!side?.counts || side.month !== month) return;
    let sums = byTag.get(name);
    if (!sums) byTag.set(name, (sums = new Map()));
    const { currency } = side;
    const sum = sums.get(currency) ?? { currency, ours: 0, theirs: 0, sales: 0 };
    sums.set(currency, {
      ...sum,
      [whose]: sum[whose] + (side.amount ?? 0),
      sales: sum.sales + (whose === 'ours' ? 1 : 0),
    });
  };
  for (const unit of data.reconciled.units) {
    if (unit.network !== network) continue;
    if (unit.cause !== 'sent twice') add(tag(unit.link), unit.ours, 'ours');
    add(tag(unit.link), unit.theirs, 'theirs');
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
