import type { ClosedMonth } from '#core/catalogue';
import type { Minor } from '#core/conversions';
import { balanceOf } from './balance.ts';
import type { Unit } from './units.ts';

type Figures = Pick<ClosedMonth, 'network' | 'month' | 'conversions' | 'ours' | 'theirs' | 'rows'>;

/** The units of a network whose month it is, by their word where they have one, each with what it is known by there. */
const keyed = (
  units: readonly Unit[],
  network: string,
  month: string,
): { readonly key: string; readonly unit: Unit }[] => {
  const times = new Map<string, number>();
  return units
    .filter((unit) => unit.network === network && (unit.theirs ?? unit.ours)?.month === month)
    .sort((a, b) => ((a.theirs ?? a.ours)?.at ?? 0) - ((b.theirs ?? b.ours)?.at ?? 0))
    .map((unit) => {
      const { txn = '', event = '' } = unit.conversion?.txn ? unit.conversion : (unit.reported ?? {});
      const name = txn === '' ? unit.id : `${txn}|${event}`;
      // One that recurs may do so twice in a month.
      const n = (times.get(name) ?? 0) + 1;
      times.set(name, n);
      return { key: n === 1 ? name : `${name}#${n}`, unit };
    });
};

/** The figures of a month with one network as they stand now: what closing it freezes. */
export const closingOf = (units: readonly Unit[], network: string, month: string): Figures => {
  const { conversions, commission } = balanceOf(units, { network, month });
  const of = (side: 'ours' | 'theirs') =>
    Object.fromEntries([...commission].map(([currency, bridge]) => [currency, bridge[side]]));
  const rows = keyed(units, network, month)
    .map(({ key, unit }): [string, Figures['rows'][string]] => {
      const { amount = null, currency = '', counts = false } = unit.theirs ?? unit.ours ?? {};
      return [key, { amount, currency, counts }];
    })
    .sort(([a], [b]) => (a < b ? -1 : 1));
  return {
    network,
    month,
    conversions: { ours: conversions.ours, theirs: conversions.theirs },
    ours: of('ours'),
    theirs: of('theirs'),
    rows: Object.fromEntries(rows),
  };
};

const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : typeof value === 'object' && value !== null
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([name, of]) => [name, sorted(of)]),
        )
      : value;

/** The text a month's checksum is taken over: its figures as JSON, names in their order. */
export const checksumText = ({ network, month, conversions, ours, theirs, rows }: Figures): string =>
  JSON.stringify(sorted({ network, month, conversions, ours, theirs, rows }));

/** What changed about a conversion after its month was closed. */
export interface Adjustment {
  readonly key: string;
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
 * What arrived after a month was closed: conversions that came later, were corrected or taken back. They count in the
 * month in which they arrived; the closed figures stay.
 *
 * @param monthAt the month of a moment, in the network's zone
 */
export const adjustmentsOf = (
  closed: ClosedMonth,
  units: readonly Unit[],
  monthAt: (at: number) => string,
): Adjustment[] => {
  const found: Adjustment[] = [];
  const row = (key: string) => (Object.hasOwn(closed.rows, key) ? closed.rows[key] : undefined);
  for (const { key, unit } of keyed(units, closed.network, closed.month)) {
    const now = unit.theirs ?? unit.ours;
    if (!now) continue;
    // A month that was closed before events were told apart knows a conversion by its transaction alone.
    const before = row(key) ?? row(key.slice(0, key.lastIndexOf('|')));
    const arrived = monthAt(
      Math.max(unit.reported?.told ?? 0, unit.conversion?.steps.at(-1)?.arrived ?? 0, closed.at),
    );
    const put = (currency: string, change: Minor) => {
      if (change !== 0) found.push({ key, month: closed.month, currency, change, arrived });
    };
    if (before && before.currency !== now.currency && before.currency !== '') {
      put(before.currency, -worth(before));
      put(now.currency, worth(now));
    } else put(now.currency, worth(now) - worth(before));
  }
  return found;
};
