import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  calendarDay,
  dayName,
  dayNumber,
  momentIn,
  momentOf,
  monthIn,
  offsetIn,
  wallClock,
} from './index.ts';

const zones = [
  'UTC',
  'Europe/Berlin',
  'Europe/London',
  'America/Los_Angeles',
  'Asia/Kolkata',
  'Australia/Lord_Howe',
];
const from = Date.UTC(2024, 0, 1);
const until = Date.UTC(2028, 0, 1);

describe('a zone', () => {
  it('shows the same clock as the platform does', () =>
    fc.assert(
      fc.property(fc.constantFrom(...zones), fc.integer({ min: from, max: until }), (zone, at) => {
        const { day, minute } = wallClock(zone, at);
        const local = at + offsetIn(zone, at);
        expect(dayName(calendarDay(zone, at))).toBe(day);
        expect(Math.floor((local % 86_400_000) / 60_000)).toBe(minute);
        expect(monthIn(zone, at)).toBe(day.slice(0, 7));
      }),
      { numRuns: 500 },
    ));

  it('finds the moment of a local time as @date-fns/tz does, around changes of the clock too', () => {
    const around = [
      Date.UTC(2026, 2, 29),
      Date.UTC(2026, 9, 25),
      Date.UTC(2026, 2, 8),
      Date.UTC(2026, 10, 1),
    ];
    for (const zone of zones.filter((name) => name !== 'Australia/Lord_Howe'))
      for (const day of around)
        for (let minute = 0; minute < 1440; minute += 15) {
          const local = day + minute * 60_000;
          expect(momentIn(zone, local), `${zone} ${new Date(local).toISOString()}`).toBe(
            momentOf(zone, new Date(local).toISOString().slice(0, 16)),
          );
        }
  });

  it('counts days', () => {
    expect(dayNumber('1970-01-02')).toBe(1);
    expect(dayName(dayNumber('2026-10-25'))).toBe('2026-10-25');
  });
});
