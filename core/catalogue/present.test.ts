import { describe, expect, it } from 'vitest';
import { addTo, element, present, pushTo } from './index.ts';

describe('what has to be there', () => {
  it('is given, and its absence is a bug that says what is missing', () => {
    expect([present(0, 'sum'), present('', 'name'), element([false][0])]).toEqual([0, '', false]);
    expect(() => present(undefined, 'place of the unit')).toThrow('There is no place of the unit.');
    expect(() => element([1, 2][2])).toThrow(RangeError);
  });

  it('is made where a sum or a list begins', () => {
    const sums = new Map<string, number>();
    for (const [key, by] of [
      ['EUR', 3],
      ['USD', 1],
      ['EUR', -3],
    ] as const)
      addTo(sums, key, by);
    expect([...sums]).toEqual([
      ['EUR', 0],
      ['USD', 1],
    ]);
    const lists = new Map<string, number[]>();
    for (const n of [1, 2, 3]) pushTo(lists, n % 2 === 0 ? 'even' : 'odd', n);
    expect([...lists]).toEqual([
      ['odd', [1, 3]],
      ['even', [2]],
    ]);
  });
});
