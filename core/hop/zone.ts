const minuteMs = 60_000;
const hourMs = 60 * minuteMs;
const dayMs = 24 * hourMs;
/** Zones change their clocks on a quarter of an hour of UTC; so an offset holds for one. */
const quarterMs = hourMs / 4;

/** What a clock on the wall shows somewhere. */
export interface WallClock {
  /** ISO 8601, `2026-10-25`. */
  readonly day: string;
  /** Minutes since midnight by the clock. */
  readonly minute: number;
  /** 1 is Monday, 7 is Sunday. */
  readonly weekday: number;
}

const formats = new Map<string, Intl.DateTimeFormat>();
/** What was asked of a zone: offsets by quarters of an hour, and by days of UTC on which its clock stays. */
interface Asked {
  readonly quarters: Map<number, number>;
  readonly days: Map<number, number | undefined>;
}
const asked = new Map<string, Asked>();

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

const askOffset = (zone: string, at: number): number => {
  const parts: Record<string, string> = {};
  for (const { type, value } of formatOf(zone).formatToParts(at)) parts[type] = value;
  const part = (name: string): number => {
    const value = Number(parts[name]);
    if (!Number.isInteger(value)) throw new Error(`The platform gives no ${name} for ${zone}.`);
    return value;
  };
  const local = Date.UTC(
    part('year'),
    part('month') - 1,
    part('day'),
    part('hour'),
    part('minute'),
    part('second'),
  );
  return local - Math.floor(at / 1000) * 1000;
};

const offsetOfQuarter = (zone: string, { quarters }: Asked, quarter: number): number => {
  let offset = quarters.get(quarter);
  if (offset === undefined) quarters.set(quarter, (offset = askOffset(zone, quarter * quarterMs)));
  return offset;
};

/**
 * How far a zone's clock is ahead of UTC at a moment, both in milliseconds. Asked of the platform twice a day, and each quarter of an
 * hour of a day on which the clock changes, so that a million moments cost little more than a few. A day that ends as it began has no
 * change: in all 600 zones of the time zone database (Debian's tzdata, by `zdump -v -c 1900,2040`) two changes are 95 hours apart at least.
 */
export const offsetIn = (zone: string, at: number): number => {
  let known = asked.get(zone);
  if (!known) asked.set(zone, (known = { quarters: new Map(), days: new Map() }));
  const day = Math.floor(at / dayMs);
  let offset = known.days.get(day);
  if (offset === undefined && !known.days.has(day)) {
    const [begin, end] = [day, day + 1].map((each) =>
      offsetOfQuarter(zone, known, (each * dayMs) / quarterMs),
    );
    known.days.set(day, (offset = begin === end ? begin : undefined));
  }
  return offset ?? offsetOfQuarter(zone, known, Math.floor(at / quarterMs));
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

/** Day of a zone's calendar at a moment, `2026-10-25`. */
export const dayIn = (zone: string, at: number): string => dayName(calendarDay(zone, at));

/** Month of a zone's calendar at a moment, `2026-10`. */
export const monthIn = (zone: string, at: number): string => dayIn(zone, at).slice(0, 7);

/** Day of the week of a counted day: 1 is Monday, 7 is Sunday. The first of 1970 was a Thursday. */
const weekdayOf = (day: number): number => ((((day + 3) % 7) + 7) % 7) + 1;

/** Reads the clock of a zone at a moment (milliseconds since 1970 UTC). */
export const wallClock = (zone: string, at: number): WallClock => {
  const local = at + offsetIn(zone, at);
  const day = Math.floor(local / dayMs);
  return {
    day: dayName(day),
    minute: Math.floor((local - day * dayMs) / minuteMs),
    weekday: weekdayOf(day),
  };
};

/** The day before a day, both as `2026-10-25`. */
export const dayBefore = (day: string): string => dayName(dayNumber(day) - 1);

/** Minutes since midnight of a time of day such as `22:30`. */
export const minutesOf = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5));

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

/** The same for a local time such as `2026-10-24T22:00`. */
export const momentOf = (zone: string, local: string): number => momentIn(zone, Date.parse(`${local}Z`));
