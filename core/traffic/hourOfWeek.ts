import { element } from '#core/catalogue';
import { offsetIn } from '#core/hop';
import type { Segment } from '#core/visits';

export const hoursOfWeek = 168;
const hourMs = 3_600_000;
/** Every zone's clock stands still or jumps on a quarter of an hour. */
const quarterMs = 900_000;
/** The first of 1970 was a Thursday: the week began three days before it. */
const firstHour = 72;

/** What was read of a segment, and of how many rows. */
const known = new WeakMap<Segment, Map<string, { rows: number; hours: Uint8Array }>>();

/** For each row of a segment the hour of the week by a zone's clock, from 0 on Monday at midnight; read once. */
export const hoursIn = (segment: Segment, zone: string): Uint8Array => {
  let zones = known.get(segment);
  if (!zones) known.set(segment, (zones = new Map()));
  let read = zones.get(zone);
  if (!read || read.hours.length < segment.seq.length) {
    read = { rows: 0, hours: new Uint8Array(segment.seq.length) };
    zones.set(zone, read);
  }
  let quarter = NaN;
  let offset = 0;
  for (let i = read.rows; i < segment.rows; i++) {
    const at = element(segment.at[i]);
    const here = Math.floor(at / quarterMs);
    if (here !== quarter) {
      quarter = here;
      offset = offsetIn(zone, at);
    }
    const hour = (Math.floor((at + offset) / hourMs) + firstHour) % hoursOfWeek;
    read.hours[i] = hour < 0 ? hour + hoursOfWeek : hour;
  }
  read.rows = segment.rows;
  return read.hours;
};

/** An hour of the week as `4-18`: the day from 1 on Monday to 7, and the hour. */
export const hourName = (hour: number): string => `${Math.floor(hour / 24) + 1}-${hour % 24}`;
