import type { ClosedMonth } from '#core/catalogue';
import { addTo } from '#core/catalogue';
import type { Minor } from '#core/values';
import { balanceOf } from './balance.ts';
import type { Side, Unit } from './unit.ts';
import { leadingSide } from './unit.ts';

type ClosedRow = ClosedMonth['rows'][number];
type Adjusted = NonNullable<ClosedMonth['adjusted']>[number];

/** What closing a month with a network freezes of its conversions. */
export type MonthFigures = Pick<
  ClosedMonth,
  'network' | 'month' | 'conversions' | 'ours' | 'theirs' | 'rows' | 'adjusted'
>;

/**
 * By what a conversion is known for good: the ID of ours, the key of their row, or both. Neither changes when others come
 * before it, and one is there whichever side was first.
 */
export const keysOf = ({ conversion, reported }: Unit): string[] => [
  ...(conversion ? [conversion.id] : []),
  ...(reported ? [`row ${reported.network} ${reported.key}`] : []),
];

/** What a network approved by one side's word; nothing of what it takes back, lists no longer or has not decided. */
export const approvedOf = (side: Pick<Side, 'counts' | 'status' | 'amount'> | undefined): Minor =>
  side?.counts && (side.status === 'approved' || side.status === 'paid') ? (side.amount ?? 0) : 0;

/** False for a month that was closed before its whole balance was kept: nobody knows what was approved then. */
export const knowsApproved = ({ shown }: ClosedMonth): boolean => shown !== undefined;

/** The units of a network whose month it is, by their word where they have one. */
const unitsOf = (units: readonly Unit[], network: string, month: string): Unit[] =>
  units.filter((unit) => unit.network === network && leadingSide(unit).month === month);

/**
 * The figures of a month with one network as they stand now: what closing it freezes.
 *
 * @param arrived what changed of months closed before and arrived in this one
 * @param tagOf the account tag of who earned a unit's money; empty where nobody knows
 */
export const closingOf = (
  units: readonly Unit[],
  network: string,
  month: string,
  arrived: readonly Adjustment[] = [],
  tagOf: (unit: Unit) => string = () => '',
): MonthFigures => {
  const tagged = (tag: string) => (tag === '' ? {} : { tag });
  const unitsById = new Map(arrived.length > 0 ? units.map((unit) => [unit.id, unit]) : []);
  /** Who has had the conversion in a statement before has its change too. */
  const tagOfChange = ({ tag, unit }: Adjustment): string => {
    const known = unitsById.get(unit);
    return tag ?? (known ? tagOf(known) : '');
  };
  const { conversions, commission } = balanceOf(units, { network, month });
  const sumsOf = (side: 'ours' | 'theirs') =>
    Object.fromEntries([...commission].map(([currency, bridge]) => [currency, bridge[side]]));
  const rows = unitsOf(units, network, month)
    .map((unit): ClosedRow => {
      const { amount, currency, counts } = leadingSide(unit);
      const approved = approvedOf(unit.theirs);
      return {
        ...{ keys: keysOf(unit), amount, currency, counts },
        ...(approved !== 0 && { approved }),
        ...tagged(tagOf(unit)),
      };
    })
    .sort((a, b) => (a.keys.join() < b.keys.join() ? -1 : 1));
  return {
    network,
    month,
    conversions: { ours: conversions.ours, theirs: conversions.theirs },
    ours: sumsOf('ours'),
    theirs: sumsOf('theirs'),
    rows,
    ...(arrived.length > 0 && {
      adjusted: arrived.map((one) => ({
        ...{ month: one.month, keys: [...one.keys], currency: one.currency },
        ...{ change: one.change, approved: one.approved, ...tagged(tagOfChange(one)) },
      })),
    }),
  };
};

/** What changed about a conversion after its month was closed. */
export interface Adjustment {
  /** ID of the unit it is about; empty where the conversion is nowhere any more. */
  readonly unit: string;
  /** Its transaction; empty where it has none, or is nowhere. */
  readonly txn: string;
  /** By what the closed month knows it. */
  readonly keys: readonly string[];
  /** The closed month, `2026-10`. */
  readonly month: string;
  readonly currency: string;
  /** What it adds to the closed month's worth. */
  readonly change: Minor;
  /** What it adds to what the network had approved of that month. */
  readonly approved: Minor;
  /** The month in which it counts: the first open one from its arrival on. */
  readonly arrived: string;
  /** The account tag under which a closed month has it; undefined where none has it, or none says. */
  readonly tag?: string;
  /** Where the conversion is now: in this month, in another, or in none. */
  readonly now: 'here' | 'elsewhere' | 'gone';
}

/** What a conversion counts for in a month: its worth, and what was approved of it, by currency. */
class Change {
  readonly worth = new Map<string, Minor>();
  readonly approved = new Map<string, Minor>();

  add(times: 1 | -1, currency: string, worth: Minor, approved: Minor): void {
    addTo(this.worth, currency, times * worth);
    addTo(this.approved, currency, times * approved);
  }
  addRow(times: 1 | -1, { currency, counts, amount, approved = 0 }: ClosedRow): void {
    this.add(times, currency, counts ? (amount ?? 0) : 0, approved);
  }
}

/** The month after one, `2027-01` after `2026-12`. */
const nextMonth = (month: string): string => {
  const [year = 0, number = 1] = month.split('-').map(Number);
  return new Date(Date.UTC(year, number, 1)).toISOString().slice(0, 7);
};

/** When the last word on a unit came; milliseconds since 1970 UTC. */
const lastWordOn = ({ reported, conversion }: Unit): number =>
  Math.max(reported?.reportedAt ?? -Infinity, conversion?.steps.at(-1)?.arrived ?? -Infinity);

/**
 * What changed of one network's closed months since each was closed: conversions that came later, were corrected or
 * reversed, moved to another month, or are nowhere any more. A change counts in the month in which it arrived, or in the
 * first after it that is not closed; what a month closed since has taken is not told again. The closed figures and all
 * changes, taken or not, add up to what the month's conversions come to now.
 *
 * @param closed every closed month of the network
 * @param monthAt the month of a moment, in the network's zone
 */
export const adjustmentsOf = (
  closed: readonly ClosedMonth[],
  units: readonly Unit[],
  monthAt: (at: number) => string,
): Adjustment[] => {
  const shut = new Set(closed.map(({ month }) => month));
  const firstOpen = (month: string): string => {
    let open = month;
    while (shut.has(open)) open = nextMonth(open);
    return open;
  };
  return [...closed]
    .sort((a, b) => (a.month < b.month ? -1 : 1))
    .flatMap((one) =>
      changesOf(
        one,
        closed.flatMap(({ adjusted = [] }) => adjusted.filter(({ month }) => month === one.month)),
        units,
        (at) => firstOpen(monthAt(Math.max(at, one.at))),
      ),
    );
};

const changesOf = (
  closed: ClosedMonth,
  taken: readonly Adjusted[],
  units: readonly Unit[],
  countsIn: (at: number) => string,
): Adjustment[] => {
  const whole = units.filter(({ network }) => network === closed.network);
  const rowOf = new Map(closed.rows.flatMap((row) => row.keys.map((key) => [key, row] as const)));
  const left = new Set(closed.rows);
  const untold = new Set(taken);
  const takenOf = new Map<string, Adjusted[]>();
  for (const entry of taken)
    for (const key of entry.keys) takenOf.set(key, [...(takenOf.get(key) ?? []), entry]);
  const found: Adjustment[] = [];
  const tell = (
    change: Change,
    keys: readonly string[],
    unit: Unit | undefined,
    now: Adjustment['now'],
    row?: ClosedRow,
  ) => {
    const tag =
      row?.tag ?? keys.flatMap((key) => takenOf.get(key) ?? []).find((one) => one.tag !== undefined)?.tag;
    // What a month closed since has counted already counts no second time.
    for (const entry of new Set(keys.flatMap((key) => takenOf.get(key) ?? [])))
      if (untold.delete(entry)) change.add(-1, entry.currency, entry.change, entry.approved);
    for (const [currency, worth] of change.worth) {
      const approved = knowsApproved(closed) ? (change.approved.get(currency) ?? 0) : 0;
      if (worth === 0 && approved === 0) continue;
      found.push({
        unit: unit?.id ?? '',
        txn: unit?.conversion?.txn || (unit?.reported?.txn ?? ''),
        keys: keys.slice(0, 2),
        month: closed.month,
        currency,
        change: worth,
        approved,
        arrived: countsIn(unit ? lastWordOn(unit) : -Infinity),
        ...(tag !== undefined && { tag }),
        now,
      });
    }
  };
  const elsewhere = new Map<string, Unit>();
  for (const unit of whole) {
    const keys = keysOf(unit);
    if (leadingSide(unit).month !== closed.month) {
      for (const key of keys) if (rowOf.has(key) || takenOf.has(key)) elsewhere.set(key, unit);
      continue;
    }
    const row = keys.map((key) => rowOf.get(key)).find((one) => one !== undefined && left.has(one));
    const change = new Change();
    const { currency, counts, amount } = leadingSide(unit);
    change.add(1, currency, counts ? (amount ?? 0) : 0, approvedOf(unit.theirs));
    if (row) {
      left.delete(row);
      change.addRow(-1, row);
    }
    tell(change, [...new Set([...keys, ...(row?.keys ?? [])])], unit, 'here', row);
  }
  const tellMissing = (change: Change, keys: readonly string[], row?: ClosedRow) => {
    const unit = keys.map((key) => elsewhere.get(key)).find((one) => one !== undefined);
    tell(change, keys, unit, unit ? 'elsewhere' : 'gone', row);
  };
  for (const row of left) {
    const change = new Change();
    change.addRow(-1, row);
    tellMissing(change, row.keys, row);
  }
  // What was taken as a change and is none any more is taken back.
  for (const entry of untold) tellMissing(new Change(), entry.keys);
  return found;
};
