import { describe, expect, it } from 'vitest';
import { makeLedger } from '#core/conversions';
import { commissionOf, epcOf } from './index.ts';

const sale = (txn: string, amount: number, currency: string, status: 'pending' | 'reversed' = 'pending') => ({
  network: 'net_h',
  click: '',
  event: 'sale',
  status,
  amount,
  whole: false,
  currency,
  txn,
  at: 0,
  timed: true,
  arrived: 0,
  seq: 1,
});

describe('commission', () => {
  it('is summed by currency, without what is reversed', () =>
    expect(
      commissionOf(
        makeLedger([
          sale('1', 1383, 'EUR'),
          sale('2', 900, 'JPY'),
          sale('3', 17, 'EUR'),
          sale('4', 5, 'EUR', 'reversed'),
        ]),
      ),
    ).toEqual([
      { currency: 'EUR', minor: 1400 },
      { currency: 'JPY', minor: 900 },
    ]));
  it('per click is unknown without a click', () => {
    expect(epcOf(1400, 0)).toBeUndefined();
    expect(epcOf(1400, 8)).toBe(175);
  });
});
