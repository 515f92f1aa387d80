import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import { describe, expect, it } from 'vitest';
import { calendarDay, dayIn, dayName, dayNumber, momentOf, monthIn, offsetIn, wallClock } from './index.ts';

const zones = Intl.supportedValuesOf('timeZone');
const from = Date.UTC(2024, 0, 1);
const until = Date.UTC(2028, 0, 1);
const inZone = (zone: string, at: number) =>
  Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone);

/** The moments at which a zone changes its clock between two others. */
const changesOf = (zone: string): number[] => {
  const found: number[] = [];
  let at = inZone(zone, from).getTimeZoneTransition('next');
  while (at && at.epochMilliseconds < until) {
    found.push(at.epochMilliseconds);
    at = at.getTimeZoneTransition('next');
  }
  return found;
};

describe('a zone, beside Temporal as the reference', () => {
  it('shows the same clock at any moment', () =>
    fc.assert(
      fc.property(fc.constantFrom(...zones), fc.integer({ min: from, max: until }), (zone, at) => {
        const there = inZone(zone, at);
        expect(wallClock(zone, at)).toEqual({
          day: there.toPlainDate().toString(),
          minute: there.hour * 60 + there.minute,
          weekday: there.dayOfWeek,
        });
        expect(offsetIn(zone, at)).toBe(there.offsetNanoseconds / 1e6);
        expect([dayIn(zone, at), monthIn(zone, at)]).toEqual([
          there.toPlainDate().toString(),
          there.toPlainDate().toString().slice(0, 7),
        ]);
      }),
      { numRuns: 2000 },
    ));

  it('shows the same just before and after each change of a clock, in every zone there is', () => {
    let changes = 0;
    for (const zone of zones) {
      let before = -Infinity;
      for (const at of changesOf(zone)) {
        changes += 1;
        // Offsets are asked for whole days, which no two changes may share.
        expect([zone, at - before > 48 * 3_600_000]).toEqual([zone, true]);
        before = at;
        for (const moment of [at - 1, at])
          expect([zone, moment, offsetIn(zone, moment)]).toEqual([
            zone,
            moment,
            inZone(zone, moment).offsetNanoseconds / 1e6,
          ]);
      }
    }
    expect(changes).toBeGreaterThan(500);
  });

  it('finds the moment of a local time around every change, skipped and doubled ones too', () => {
    for (const zone of [
      'Europe/Berlin',
      'America/St_Johns',
      'Australia/Lord_Howe',
      'Africa/Casablanca',
      'Asia/Gaza',
    ])
      for (const change of changesOf(zone))
        for (let minutes = -180; minutes <= 180; minutes += 5) {
          const local = new Date(change + offsetIn(zone, change - 1) + minutes * 60_000)
            .toISOString()
            .slice(0, 16);
          expect([zone, local, momentOf(zone, local)]).toEqual([
            zone,
            local,
            // A time that is skipped counts as much later as the clock jumps, a doubled one is the first: RFC 5545 §3.3.5.
            Temporal.PlainDateTime.from(local).toZonedDateTime(zone, { disambiguation: 'compatible' })
              .epochMilliseconds,
          ]);
        }
  });

  it('means the first of two moments in autumn, and goes on after the gap in spring', () => {
    // IANA tz database: Berlin 25 October 2026 back at 01:00 UTC, 29 March 2026 forward at 01:00 UTC.
    expect(momentOf('Europe/Berlin', '2026-10-25T02:30')).toBe(Date.UTC(2026, 9, 25, 0, 30));
    expect(momentOf('Europe/Berlin', '2026-03-29T02:30')).toBe(Date.UTC(2026, 2, 29, 1, 30));
    expect(momentOf('America/Los_Angeles', '2026-11-01T01:30')).toBe(Date.UTC(2026, 10, 1, 8, 30));
  });

  it('knows the half hour of Lord Howe, skipped and doubled', () => {
    const zone = 'Australia/Lord_Howe';
    expect(new Date(momentOf(zone, '2026-04-05T01:45')).toISOString()).toBe('2026-04-04T14:45:00.000Z');
    expect(new Date(momentOf(zone, '2026-10-04T02:15')).toISOString()).toBe('2026-10-03T15:45:00.000Z');
  });

  it('counts days', () => {
    expect([dayNumber('1970-01-02'), dayName(-1), calendarDay('UTC', -1)]).toEqual([1, '1969-12-31', -1]);
    expect(dayName(dayNumber('2026-10-25'))).toBe('2026-10-25');
  });
});
