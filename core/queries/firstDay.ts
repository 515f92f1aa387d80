import { element } from '#core/catalogue';
import { dayIn } from '#core/hop';
import type { VisitColumns } from '#core/visits';
import { segmentRows } from '#core/visits';
import type { Dataset } from './dataset.ts';
import { isFromLog } from './visits.ts';

const hourMs = 3_600_000;
const halfDayMs = 12 * hourMs;

/** The day before one, both as `2026-10-24`. */
const dayBefore = (day: string): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) - halfDayMs).toISOString().slice(0, 10);

/** Hours since 1970 UTC in which requests came: to this server, and to others by their logs. */
interface Hours {
  rows: number;
  readonly own: Set<number>;
  readonly log: Set<number>;
}
/** Rows are only ever added to columns, so what was seen of them stays. */
const seen = new WeakMap<VisitColumns, Hours>();

const hoursOf = (columns: VisitColumns): Hours => {
  let hours = seen.get(columns);
  if (!hours) seen.set(columns, (hours = { rows: 0, own: new Set(), log: new Set() }));
  for (; hours.rows < columns.rows; hours.rows++) {
    const { at } = columns.segmentOf(hours.rows);
    const hour = Math.floor(element(at[hours.rows % segmentRows]) / hourMs);
    (isFromLog(columns, hours.rows) ? hours.log : hours.own).add(hour);
  }
  return hours;
};

/**
 * The first day from which on requests are known without a gap, as `2026-10-24` in the person's own zone; undefined where there is
 * none. A server writes down all it sees, so a day without requests had none. Of what access logs tell only the days that lead up to
 * that without one missing count: a day of which no log was brought in is not known.
 */
export const firstDay = ({ journal: { columns }, rolledUp, zone }: Dataset): string | undefined => {
  const hours = hoursOf(columns);
  // Days may begin at half an hour: both ends of an hour are looked at.
  const daysOf = (all: ReadonlySet<number>) =>
    new Set([...all].flatMap((hour) => [dayIn(zone, hour * hourMs), dayIn(zone, (hour + 1) * hourMs - 1)]));
  const oldest = hours.own.size === 0 ? undefined : Math.min(...hours.own) * hourMs;
  const own = [
    ...(oldest === undefined ? [] : [dayIn(zone, oldest)]),
    ...rolledUp.counts.map(({ day }) => day),
  ];
  const told = daysOf(hours.log);
  let first = own.length > 0 ? own.reduce((a, b) => (b < a ? b : a)) : [...told].sort().at(-1);
  while (first !== undefined && told.has(dayBefore(first))) first = dayBefore(first);
  return first;
};
