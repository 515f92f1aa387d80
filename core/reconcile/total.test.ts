import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Rate } from '#core/catalogue';
import { rateOn, totalIn } from './index.ts';

const rate = (from: string, to: string, day: string, value: string): Rate => ({
  id: `rat_${from}${day}`,
  from,
  to,
  day,
  rate: value,
  source: 'our bank',
});
const rates = [
  rate('JPY', 'EUR', '2026-09-30', '0.0061'),
  rate('JPY', 'EUR', '2026-10-31', '0.0058'),
  rate('KWD', 'EUR', '2026-10-01', '2.8'),
];

describe('one total of several currencies', () => {
  // Worked by hand: 12,000 yen at 0.0058 are 69.60 euro; 1.234 dinar at 2.8 are 3.4552, so 3.46.
  it('is by the newest rate up to the day, each sum rounded by itself', () => {
    const sums = [
      { currency: 'EUR', minor: 1000 },
      { currency: 'JPY', minor: 12_000 },
      { currency: 'KWD', minor: 1234 },
    ];
    expect(totalIn(sums, 'EUR', '2026-10-31', rates)).toEqual({
      ok: true,
      minor: 1000 + 6960 + 346,
      rates: [rates[1], rates[2]],
    });
    expect(totalIn(sums, 'EUR', '2026-10-30', rates)).toMatchObject({ minor: 1000 + 7320 + 346 });
  });

  it('is none where a rate is missing, and says of what', () => {
    const sums = [
      { currency: 'JPY', minor: 1 },
      { currency: 'USD', minor: 1 },
    ];
    expect(totalIn(sums, 'EUR', '2026-09-29', rates)).toEqual({ ok: false, missing: ['JPY', 'USD'] });
    // A rate the other way round is not turned: nobody gave it.
    expect(rateOn(rates, 'EUR', 'JPY', '2026-12-31')).toBeUndefined();
  });

  it('of one currency alone is the sum itself', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -1e9, max: 1e9 })), (list) => {
        const sums = list.map((minor) => ({ currency: 'EUR', minor }));
        expect(totalIn(sums, 'EUR', '2026-10-31', [])).toEqual({
          ok: true,
          minor: list.reduce((sum, minor) => sum + minor, 0),
          rates: [],
        });
      }),
    ));
});
