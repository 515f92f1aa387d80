import type { ClosedMonth } from '#core/catalogue';
import type { Minor } from '#core/values';
import { balanceOf } from './balance.ts';
import type { Unit } from './unit.ts';
import { leadingSide } from './unit.ts';

type ClosedRow = ClosedMonth['rows'][number];

/** The figures of a month with a network that closing it freezes. */
export type MonthFigures = Pick<
  ClosedMonth,
  'network' | 'month' | 'conversions' | 'ours' | 'theirs' | 'rows'
>;

/**
 * By what a conversion is known for good: the ID of ours, the key of their row, or both. Neither changes when others come
 * before it, and one is there whichever side was first.
 */
const keysOf = ({ conversion, reported }: Unit): string[] => [
  ...(conversion ? [conversion.id] : []),
  ...(reported ? [`row ${reported.network} ${reported.key}`] : []),
];

/** The units of a network whose month it is, by their word where they have one. */
const unitsOf = (units: readonly Unit[], network: string, month: string): Unit[] =>
  units.filter((unit) => unit.network === network && leadingSide(unit).month === month);

/** The figures of a month with one network as they stand now: what closing it freezes. */
export const closingOf = (units: readonly Unit[], network: string, month: string): MonthFigures => {
  const { conversions, commission } = balanceOf(units, { network, month });
  const sumsOf = (side: 'ours' | 'theirs') =>
    Object.fromEntries([...commission].map(([currency, bridge]) => [currency, bridge[side]]));
  const rows = unitsOf(units, network, month)
    .map((unit) => {
      const { amount, currency, counts } = leadingSide(unit);
      return { keys: keysOf(unit), amount, currency, counts };
    })
    .sort((a, b) => (a.keys.join() < b.keys.join() ? -1 : 1));
  return {
    network,
    month,
    conversions: { ours: conversions.ours, theirs: conversions.theirs },
    ours: sumsOf('ours'),
    theirs: sumsOf('theirs'),
    rows,
  };
};

const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([name, value]) => [name, sorted(value)]),
        )
      : value;

/** The text a month's checksum is taken over: its figures as JSON, names in their order. */
export const checksumText = ({ network, month, conversions, ours, theirs, rows }: MonthFigures): string =>
  JSON.stringify(sorted({ network, month, conversions, ours, theirs, rows }));

/** What changed about a conversion after its month was closed. */
export interface Adjustment {
  /** ID of the unit it is about. */
  readonly unit: string;
  readonly month: string;
  readonly currency: string;
  /** What it adds to the closed figure. */
  readonly change: Minor;
  /** Month in which the change became known, `2026-11`. */
  readonly arrived: string;
}

const worth = (row: { readonly amount: Minor | null; readonly counts: boolean } | undefined): Minor =>
  row?.counts ? (row.amount ?? 0) : 0;

/**
 * What arrived after a month was closed: conversions that came later, were corrected or reversed. They count in the
 * month in which they arrived; the closed figures stay.
 *
 * @param monthAt the month of a moment, in the network's zone
 */
export const adjustmentsOf = (
  closed: ClosedMonth,
  units: readonly Unit[],
  monthAt: (at: number) => string,
): Adjustment[] => {
  const rowOf = new Map(closed.rows.flatMap((row) => row.keys.map((key) => [key, row] as const)));
  const taken = new Set<ClosedRow>();
  const found: Adjustment[] = [];
  for (const unit of unitsOf(units, closed.network, closed.month)) {
    const row = keysOf(unit)
      .map((key) => rowOf.get(key))
      .find((one) => one !== undefined && !taken.has(one));
    if (row) taken.add(row);
    const now = leadingSide(unit);
    const arrived = monthAt(
      Math.max(
        closed.at,
        unit.reported?.reportedAt ?? -Infinity,
        unit.conversion?.steps.at(-1)?.arrived ?? -Infinity,
      ),
    );
    const put = (currency: string, change: Minor) => {
      if (change !== 0) found.push({ unit: unit.id, month: closed.month, currency, change, arrived });
    };
    if (row && row.currency !== now.currency) {
      put(row.currency, -worth(row));
      put(now.currency, worth(now));
    } else put(now.currency, worth(now) - worth(row));
  }
  return found;
};
