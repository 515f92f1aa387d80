import { describe, expect, it } from 'vitest';
import { Temporal } from 'temporal-polyfill';
import { openingOf } from './index.ts';

const domain = { zone: 'Europe/Berlin' };
const at = (text: string) => Date.parse(text);
const state = (now: string, hours: object) => openingOf({ hours }, domain, at(now))?.state;

describe('how a link stands to its hours', () => {
  const hours = { from: '2026-11-20T08:00', until: '2026-12-10T20:00' };
  it.each([
    ['2026-11-20T06:59:59Z', 'not open yet'],
    ['2026-11-20T07:00:00Z', 'open'],
    ['2026-12-03T18:59:59Z', 'open'],
    ['2026-12-03T19:00:00Z', 'closing'],
    ['2026-12-10T18:59:59Z', 'closing'],
    ['2026-12-10T19:00:00Z', 'closed'],
  ])('at %s it is %s', (now, wanted) => expect(state(now, hours)).toBe(wanted));

  it('is nothing where it has none, or only answers for when it would be closed', () => {
    expect(openingOf({}, domain, 0)).toBeUndefined();
    expect(openingOf({ hours: { zone: 'UTC' } }, domain, 0)).toBeUndefined();
  });

  it('goes by the zone in which the hours were entered, and gives them as they were entered', () => {
    const opening = openingOf({ hours: { ...hours, zone: 'America/New_York' } }, domain, 0);
    // The same by the Temporal proposal's own implementation.
    const wanted = Temporal.PlainDateTime.from('2026-11-20T08:00').toZonedDateTime('America/New_York');
    expect(opening).toMatchObject({
      zone: 'America/New_York',
      from: '2026-11-20T08:00',
      opens: wanted.epochMilliseconds,
    });
  });
});
