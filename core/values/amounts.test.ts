import { describe, expect, it } from 'vitest';
import { currencyIn, inferDecimal, readReportAmount } from './index.ts';

describe('an amount in a report', () => {
  it.each([
    ['13.83', '.', 'EUR', 1383],
    ['13,83 €', ',', 'EUR', 1383],
    ['€ 1.234,50', ',', 'EUR', 123_450],
    ['$1,234.5', '.', 'USD', 123_450],
    ['(4.20)', '.', 'USD', -420],
    ['-4.20', '.', 'USD', -420],
    ['4,20-', ',', 'EUR', -420],
    ['\u2212£0.07', '.', 'GBP', -7],
    ['1,234', '.', 'JPY', 1234],
    ['¥8,558', '.', 'JPY', 8558],
    ['1.234', '.', 'KWD', 1234],
    ["1'234.50 CHF", '.', 'CHF', 123_450],
    ['1 234,50', ',', 'EUR', 123_450],
    ['0', '.', 'EUR', 0],
  ] as const)('%s is %s %s', (cell, decimal, currency, expected) =>
    expect(readReportAmount(cell, decimal, currency)).toBe(expected),
  );
  it.each([
    ['', '.', 'EUR'],
    ['free', '.', 'EUR'],
    ['1.2.3', '.', 'EUR'],
    ['13.835', '.', 'EUR'],
    ['5.5', '.', 'JPY'],
  ] as const)('%s is none with %s in %s', (cell, decimal, currency) =>
    expect(readReportAmount(cell, decimal, currency)).toBeUndefined(),
  );
  it('tells point from comma by the whole column', () => {
    expect(inferDecimal(['1.234', '1.234,50'])).toBe(',');
    expect(inferDecimal(['1,234', '12.5'])).toBe('.');
    expect(inferDecimal(['1.234.567'])).toBe(',');
    expect(inferDecimal(['1,234'])).toBeUndefined();
    expect(inferDecimal(['1,234'], () => 'JPY')).toBe('.');
    expect(inferDecimal(['12', '3'])).toBeUndefined();
  });
});

describe('a currency in a cell', () => {
  it.each([
    ['€ 3.00', 'USD', 'EUR'],
    ['$3.00', 'EUR', 'USD'],
    ['$3.00', 'CAD', 'CAD'],
    ['A$3.00', 'CAD', 'AUD'],
    ['US$ 3', 'CAD', 'USD'],
    ['¥300', 'CNY', 'CNY'],
    ['3,00 CHF', 'EUR', 'CHF'],
    ['3.00', 'EUR', undefined],
  ])('%s of a network of %s is %s', (cell, usual, expected) =>
    expect(currencyIn(cell, usual)).toBe(expected),
  );
});
