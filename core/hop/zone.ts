const hourMs = 3_600_000;
const dayMs = 86_400_000;

const formats = new Map<string, Intl.DateTimeFormat>();
const offsets = new Map<string, Map<number, number>>();

const formatOf = (zone: string): Intl.DateTimeFormat => {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-US', {
      timeZone: zone,
      hourCycle: 'h23',
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: 'numeric',
      minute: 'numeric',
      second: 'numeric',
    });
    formats.set(zone, format);
  }
  return format;
};

const computeOffset = (zone: string, at: number): number => {
  const parts: Record<string, number> = {};
  for (const { type, value } of formatOf(zone).formatToParts(at)) parts[type] = Number(value);
  const { year = 0, month = 1, day = 1, hour = 0, minute = 0, second = 0 } = parts;
  return Date.UTC(year, month - 1, day, hour, minute, second) - Math.floor(at / 1000) * 1000;
};

/**
 * How far a zone's clock is ahead of UTC at a moment, both in milliseconds. Asked of the platform once a quarter of an
 * hour, since zones change theirs on such a quarter; so a million moments cost little more than a few.
 */
export const offsetIn = (zone: string, at: number): number => {
  let known = offsets.get(zone);
  if (!known) offsets.set(zone, (known = new Map()));
  const quarter = Math.floor(at / (hourMs / 4));
  let offset = known.get(quarter);
  if (offset === undefined) known.set(quarter, (offset = computeOffset(zone, quarter * (hourMs / 4))));
  return offset;
};

/** Day of a zone's calendar at a moment, counted in days since 1 January 1970. */
export const calendarDay = (zone: string, at: number): number =>
  Math.floor((at + offsetIn(zone, at)) / dayMs);

const dayNames = new Map<number, string>();
/** A counted day as `2026-10-25`. */
export const dayName = (day: number): string => {
  let name = dayNames.get(day);
  if (name === undefined) dayNames.set(day, (name = new Date(day * dayMs).toISOString().slice(0, 10)));
  return name;
};

/** Days since 1 January 1970 of a day such as `2026-10-25`. */
export const dayNumber = (name: string): number => Math.round(Date.parse(`${name}T00:00:00Z`) / dayMs);

/** Month of a zone's calendar at a moment, `2026-10`. */
export const monthIn = (zone: string, at: number): string => dayName(calendarDay(zone, at)).slice(0, 7);

/**
 * The moment at which a zone's clock shows a local time, given as if it were UTC. A time that the clock skips in spring
 * counts as much later as the clock jumps; one it shows twice in autumn means the first.
 */
export const momentIn = (zone: string, local: number): number => {
  // The offsets a day around are all that can hold there.
  const before = offsetIn(zone, local - dayMs);
  const after = offsetIn(zone, local + dayMs);
  const first = local - Math.max(before, after);
  const second = local - Math.min(before, after);
  if (first + offsetIn(zone, first) === local) return first;
  if (second + offsetIn(zone, second) === local) return second;
  return local - before;
};
