import { TZDate } from '@date-fns/tz';

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

const formatOf = (zone: string): Intl.DateTimeFormat => {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-CA', {
      timeZone: zone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
      hour: '2-digit',
      minute: '2-digit',
      hourCycle: 'h23',
    });
    formats.set(zone, format);
  }
  return format;
};

const weekdayOf = (day: string): number => new Date(`${day}T00:00:00Z`).getUTCDay() || 7;

/** The day before a day, both as `2026-10-25`. */
export const dayBefore = (day: string): string =>
  new Date(Date.parse(`${day}T00:00:00Z`) - 86_400_000).toISOString().slice(0, 10);

/** Reads the clock of a zone at a moment (milliseconds since 1970 UTC). */
export const wallClock = (zone: string, at: number): WallClock => {
  // en-CA writes `2026-10-25, 02:30`.
  const text = formatOf(zone).format(at);
  const day = text.slice(0, 10);
  return { day, minute: Number(text.slice(-5, -3)) * 60 + Number(text.slice(-2)), weekday: weekdayOf(day) };
};

/** Minutes since midnight of a time of day such as `22:30`. */
export const minutesOf = (time: string): number => Number(time.slice(0, 2)) * 60 + Number(time.slice(3, 5));

/**
 * The moment at which a zone's clock shows a local time, in milliseconds since 1970 UTC. A time that the clock skips
 * in spring counts as much later as the clock jumps; one it shows twice in autumn means the first.
 */
export const momentOf = (zone: string, local: string): number => {
  const [year = 0, month = 1, day = 1, hour = 0, minute = 0] = local.split(/[-T:]/).map(Number);
  const found = new TZDate(year, month - 1, day, hour, minute, zone).getTime();
  // Of two moments with the same clock the earlier one is meant.
  const earlier = found - 3_600_000;
  const shows = (at: number) => {
    const clock = wallClock(zone, at);
    return clock.day === local.slice(0, 10) && clock.minute === hour * 60 + minute;
  };
  return shows(found) && shows(earlier) ? earlier : found;
};
