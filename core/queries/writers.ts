import type { ClosedMonth } from '#core/catalogue';
import type { Adjustment, Unit } from '#core/reconcile';
import { approvedOf, keysOf, knowsApproved, leadingSide, unitAt } from '#core/reconcile';
import type { Minor } from '#core/values';
import { adjustments } from './closing.ts';
import type { Dataset } from './dataset.ts';
import { tagOf } from './tagOf.ts';
import { knownOf } from './whatPays.ts';

/** Whose statements are asked: of which month (`2026-10`, each network's by its own days), and when (milliseconds since 1970 UTC). */
export interface WritersQuestion {
  readonly month: string;
  /** In which What pays is asked: what is known for it is used again; no sum here is in it. */
  readonly currency: string;
  readonly now: number;
}

/** What one conversion adds to a writer's month. Money in minor units of its currency. */
export interface StatementEntry {
  /** Whom the account tag stands for; empty where nobody registered it, or there is none. */
  readonly owner: string;
  readonly tag: string;
  readonly network: string;
  /** The earlier month of which this is a change that arrived in this one; undefined for what is of the month itself. */
  readonly changes: string | undefined;
  /** ID of its link; empty where it is not known any more. */
  readonly link: string;
  readonly txn: string;
  /** When it happened; undefined where it is nowhere any more. */
  readonly at: number | undefined;
  readonly currency: string;
  /** It is a conversion that counts, no refund and no change of an earlier one. */
  readonly isSale: boolean;
  /** Nobody has said what it pays. */
  readonly isUnpriced: boolean;
  /** What the network's report approved. */
  readonly approved: Minor;
  /** What counts and no report has approved; of a change what that adds to it. */
  readonly pending: Minor;
  /** Of what is pending the share that usually becomes approved; all of it where a postback said it is. Nought for a change. */
  readonly worth: number;
}

/** What a writer earned with one account tag in one currency. */
export interface WriterSum extends Pick<StatementEntry, 'owner' | 'tag' | 'network' | 'currency'> {
  readonly sales: number;
  readonly unpriced: number;
  readonly approved: Minor;
  /** Approved, or taken back, of earlier closed months since. */
  readonly earlier: Minor;
  readonly pending: Minor;
  readonly worth: number;
}

export interface Writers {
  /** By owner and tag, those that nobody registered last. */
  readonly sums: readonly WriterSum[];
  readonly entries: readonly StatementEntry[];
  /** Networks with something in the month: when it was closed (milliseconds since 1970 UTC), undefined where it is not. */
  readonly networks: readonly { readonly network: string; readonly closedAt: number | undefined }[];
}

/** Months in which anything was earned with any network, newest first. */
export const writersMonths = (data: Dataset): string[] => {
  const found = new Set(data.records.months.map(({ month }) => month));
  for (const unit of data.reconciled.units) found.add(leadingSide(unit).month);
  return [...found].sort().reverse();
};

/** True where no report lists a unit and it is no conversion by itself: one that was sent twice, or that nobody has vouched for. */
const isHeld = ({ theirs, cause, conversion }: Unit): boolean =>
  !theirs && (cause === 'sent twice' || (conversion?.unverified !== undefined && !conversion.trusted));

/** The money of a conversion as closing a month freezes it; what takes back from another is no sale by itself. */
const moneyOf = ({
  currency,
  amount,
  counts,
  approved = 0,
}: Omit<ClosedMonth['rows'][number], 'keys' | 'tag'>) => ({
  ...{ currency, approved },
  pending: (counts ? (amount ?? 0) : 0) - approved,
  isSale: counts && (amount ?? 0) >= 0,
  isUnpriced: counts && amount === null,
});

/** What a network gives to a month: its own conversions and changes of earlier ones, before anything is said of whose they are. */
type Given = Omit<StatementEntry, 'owner' | 'network' | 'worth'>;

/** The sums of entries by owner, tag, network and currency. */
const sumsOf = (entries: readonly StatementEntry[]): WriterSum[] => {
  const sums = new Map<string, WriterSum>();
  for (const { owner, tag, network, currency, changes, ...entry } of entries) {
    const key = JSON.stringify([network, tag, currency]);
    const known = sums.get(key) ?? {
      ...{ owner, tag, network, currency },
      ...{ sales: 0, unpriced: 0, approved: 0, earlier: 0, pending: 0, worth: 0 },
    };
    sums.set(
      key,
      changes === undefined
        ? {
            ...known,
            sales: known.sales + (entry.isSale ? 1 : 0),
            unpriced: known.unpriced + (entry.isUnpriced ? 1 : 0),
            approved: known.approved + entry.approved,
            pending: known.pending + entry.pending,
            worth: known.worth + entry.worth,
          }
        : { ...known, earlier: known.earlier + entry.approved },
    );
  }
  const place = ({ owner, tag, network, currency }: WriterSum) =>
    `${owner === '' ? '1' : '0'} ${owner} ${tag === '' ? '1' : '0'} ${network} ${tag} ${currency}`;
  return [...sums.values()].sort((a, b) => (place(a) < place(b) ? -1 : 1));
};

/**
 * What everybody earned in a month by account tag, conversion by conversion. A month that is closed with a network stays as it was closed;
 * what changed of earlier ones since counts in the month in which it arrived, so that over all months each cent is approved once.
 */
export const writers = (data: Dataset, { month, currency: asked, now }: WritersQuestion): Writers => {
  const { accounts, links, months } = data.records;
  const units = data.reconciled.units;
  const tagNow = tagOf(data);
  const owners = new Map(accounts.map(({ network, tag, owner }) => [`${network} ${tag}`, owner]));
  const programs = new Map(links.map(({ id, program = '' }) => [id, program]));
  const { usual } = knownOf(data, { currency: asked, now });
  const byKey = new Map(units.flatMap((unit) => keysOf(unit).map((key) => [key, unit] as const)));
  const unitOf = (keys: readonly string[]): Unit | undefined =>
    keys.map((key) => byKey.get(key)).find((unit) => unit !== undefined);

  /** Of what is pending the share that usually becomes approved. */
  const chanceOf = (unit: Unit | undefined): number => {
    const heard = unit?.conversion?.status;
    if (heard === 'approved' || heard === 'paid') return 1;
    const program = unit?.program || (programs.get(unit?.link ?? '') ?? '');
    return usual.of(program).approval?.share ?? 1;
  };
  const entryOf = (
    network: string,
    keptTag: string | undefined,
    unit: Unit | undefined,
    given: Omit<Given, 'tag' | 'link' | 'txn' | 'at'>,
  ): StatementEntry => {
    const tag = keptTag ?? (unit ? tagNow(unit) : '');
    // What is held back counts for nothing, however a closed month had it; what was approved of it was.
    const told = unit && isHeld(unit) ? { ...given, pending: 0, isSale: false, isUnpriced: false } : given;
    return {
      ...{ owner: owners.get(`${network} ${tag}`) ?? '', tag, network },
      ...{ link: unit?.link ?? '', at: unit && unitAt(unit) },
      txn: unit?.conversion?.txn || (unit?.reported?.txn ?? ''),
      ...told,
      worth: told.changes === undefined ? told.pending * chanceOf(unit) : 0,
    };
  };
  /** Changes of earlier months that were closed knowing what was approved. */
  const changesOf = (
    network: string,
    changes: readonly (Pick<Adjustment, 'month' | 'keys' | 'currency' | 'change' | 'approved'> & {
      readonly tag?: string | undefined;
    })[],
  ): StatementEntry[] =>
    changes
      .filter((one) =>
        months.some(
          (whose) => knowsApproved(whose) && whose.network === network && whose.month === one.month,
        ),
      )
      .map(({ month: changed, keys, tag, currency, change, approved }) =>
        entryOf(network, tag, unitOf(keys), {
          ...{ changes: changed, currency, approved, pending: change - approved },
          ...{ isSale: false, isUnpriced: false },
        }),
      );

  const entries: StatementEntry[] = [];
  const found: Writers['networks'][number][] = [];
  for (const { id: network } of data.records.networks) {
    const closed = months.find((one) => one.network === network && one.month === month && knowsApproved(one));
    const own = closed
      ? closed.rows.map(({ keys, tag, ...row }) =>
          entryOf(network, tag, unitOf(keys), { changes: undefined, ...moneyOf(row) }),
        )
      : units.flatMap((unit) => {
          const side = leadingSide(unit);
          if (unit.network !== network || side.month !== month) return [];
          const money = moneyOf({ ...side, approved: approvedOf(unit.theirs) });
          return [entryOf(network, undefined, unit, { changes: undefined, ...money })];
        });
    const arrived = adjustments(data, network).filter((one) => one.arrived === month);
    const all = [...own, ...changesOf(network, [...(closed?.adjusted ?? []), ...arrived])];
    const told = all.filter(({ isSale, approved, pending }) => isSale || approved !== 0 || pending !== 0);
    if (told.length === 0) continue;
    found.push({ network, closedAt: closed?.at });
    entries.push(...told);
  }
  return { sums: sumsOf(entries), entries, networks: found };
};
