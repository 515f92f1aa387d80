import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inferDateOrder, readMoment } from './index.ts';

const iso = (at: number | undefined) => (at === undefined ? undefined : new Date(at).toISOString());

describe('a date in a report', () => {
  it.each([
    // ISO 8601, and the same with an offset.
    ['2026-10-12', '', 'ymd', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['2026-10-12T21:22:40Z', '', 'dmy', 'Europe/Berlin', '2026-10-12T21:22:40.000Z'],
    ['2026-10-12 21:22:40+02:00', '', 'ymd', 'UTC', '2026-10-12T19:22:40.000Z'],
    ['12.10.2026 21:22', '', 'dmy', 'Europe/Berlin', '2026-10-12T19:22:00.000Z'],
    ['10/12/2026', '9:22:40 PM', 'mdy', 'America/Los_Angeles', '2026-10-13T04:22:40.000Z'],
    ['10/12/2026', '12:05 AM', 'mdy', 'UTC', '2026-10-12T00:05:00.000Z'],
    ['10/12/2026', '12:05 PM', 'mdy', 'UTC', '2026-10-12T12:05:00.000Z'],
    ['12 Oct 2026 21:22', '', 'dmy', 'Europe/London', '2026-10-12T20:22:00.000Z'],
    ['October 12, 2026', '', 'mdy', 'UTC', '2026-10-12T00:00:00.000Z'],
    // RFC 5322, with the day of the week in front.
    ['Mon, 12 Oct 2026 21:22:40 +0200', '', 'dmy', 'UTC', '2026-10-12T19:22:40.000Z'],
    ['lundi 12 octobre 2026', '', 'dmy', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['3/4/26', '', 'dmy', 'UTC', '2026-04-03T00:00:00.000Z'],
    // Months by the names `Intl` has for them.
    ['12. Oktober 2026', '', 'dmy', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['3 de mayo de 2026', '', 'dmy', 'UTC', '2026-05-03T00:00:00.000Z'],
    ['12 août 2026', '', 'dmy', 'UTC', '2026-08-12T00:00:00.000Z'],
    ['12 Mrz 2026', '', 'dmy', 'UTC', '2026-03-12T00:00:00.000Z'],
    ['12-Okt-2026', '', 'dmy', 'UTC', '2026-10-12T00:00:00.000Z'],
    // Seconds and milliseconds since 1970, and a spreadsheet's days: 1 is the first of January 1900 there (ECMA-376 §18.17.4.1).
    ['1791840160', '', 'ymd', 'Europe/Berlin', '2026-10-12T21:22:40.000Z'],
    ['1791840160000', '', 'ymd', 'Europe/Berlin', '2026-10-12T21:22:40.000Z'],
    ['46307', '', 'ymd', 'UTC', '2026-10-12T00:00:00.000Z'],
    ['46307.8907407407', '', 'ymd', 'UTC', '2026-10-12T21:22:40.000Z'],
  ] as const)('%s %s (%s, %s) is %s', (cell, time, order, zone, expected) =>
    expect(iso(readMoment(cell, time, order, zone))).toBe(expected),
  );
  it.each([
    '',
    'yesterday',
    '31.06.2026',
    '2026-13-01',
    '12/10/2026 25:00',
    '12/10',
    '1.2.345',
    '12 sol 2026',
    '7',
    '123456789',
  ])('%s is none', (cell) => expect(readMoment(cell, '', 'dmy', 'UTC')).toBeUndefined());
  it('takes the order from the whole column, and asks where every date could be read both ways', () => {
    expect(inferDateOrder(['03/04/2026', '13/04/2026'])).toMatchObject({ order: 'dmy', proofs: 1 });
    expect(inferDateOrder(['03/04/2026', '04/13/2026'])).toMatchObject({ order: 'mdy', proofs: 1 });
    expect(inferDateOrder(['2026/04/03'])).toMatchObject({ order: 'ymd' });
    expect(inferDateOrder(['03/04/2026', '05/06/2026'])).toMatchObject({ order: undefined, mixed: false });
    expect(inferDateOrder(['13/04/2026', '04/13/2026'])).toMatchObject({ order: undefined, mixed: true });
  });
  it('is read back as it was written, in every order', () =>
    fc.assert(
      fc.property(
        fc.date({ min: new Date('2000-01-01'), max: new Date('2099-12-31'), noInvalidDate: true }),
        fc.constantFrom('dmy' as const, 'mdy' as const, 'ymd' as const),
        fc.constantFrom('.', '/', '-'),
        (date, order, sign) => {
          const [y = '', m = '', d = ''] = date.toISOString().slice(0, 10).split('-');
          const cell = { dmy: [d, m, y], mdy: [m, d, y], ymd: [y, m, d] }[order].join(sign);
          expect(iso(readMoment(cell, '', order, 'UTC'))).toBe(`${y}-${m}-${d}T00:00:00.000Z`);
        },
      ),
    ));
});
