import { dayName, dayNumber, momentOf } from '#core/hop';

/** Days of a zone's calendar, one after the other. */
export interface Days {
  /** As `2026-10-25`. */
  readonly names: readonly string[];
  /** The first moment of each, and the first after the last; milliseconds since 1970 UTC. */
  readonly starts: Float64Array;
}

/** Most days that are asked for at once: each is counted for each value. */
export const mostDays = 1100;

/**
 * The days from one to another, both included.
 *
 * @param zone IANA name; of a day whose midnight the clock skips, the first moment is when the clock goes on
 */
export const daysOf = (zone: string, from: string, to: string): Days => {
  const first = dayNumber(from);
  const count = Math.max(0, dayNumber(to) - first + 1);
  const names = Array.from({ length: count }, (_, i) => dayName(first + i));
  const starts = Float64Array.from({ length: count + 1 }, (_, i) =>
    momentOf(zone, `${dayName(first + i)}T00:00`),
  );
  return { names, starts };
};

/** The period of as many days that ends where another begins; both as first and last day. */
export const periodBefore = (from: string, to: string): readonly [from: string, to: string] => {
  const [first, last] = [dayNumber(from), dayNumber(to)];
  return [dayName(first - (last - first + 1)), dayName(first - 1)];
};
