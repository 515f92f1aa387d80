import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { dayName } from '#core/hop';
import type { TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { dimensionNames } from '#core/traffic';
import { outcomes } from '#core/visits';
import { addressOf, questionIn } from './question.ts';

const usual = ['2026-10-24', '2026-11-22'] as const;
const isDimension = (name: string): name is DimensionName => dimensionNames.some((one) => one === name);
const read = (query: Parameters<typeof questionIn>[0]) => questionIn(query, usual, isDimension);

describe('a question in an address', () => {
  it('comes back as it was, through the text of the address', () => {
    const values = fc.uniqueArray(fc.string(), { minLength: 1, maxLength: 3 });
    const conditions = (not: boolean) =>
      fc
        .uniqueArray(fc.tuple(fc.constantFrom(...dimensionNames), values), {
          maxLength: 3,
          selector: ([of]) => of,
        })
        .map((list) => list.map(([of, all]) => ({ of, values: all, ...(not && { not: true }) })));
    const days = fc
      .tuple(fc.integer({ min: 18_000, max: 22_000 }), fc.nat(400))
      .map(([first, length]) => [dayName(first), dayName(first + length)] as const);
    fc.assert(
      fc.property(
        fc.constantFrom(...dimensionNames),
        days,
        conditions(false),
        conditions(true),
        fc.constantFrom(undefined, ...outcomes.filter((one) => one !== 'counted')),
        (by, [from, to], only, without, show) => {
          const question: TrafficQuestion = {
            ...{ by, from, to },
            where: [...only, ...without],
            ...(show && { show }),
          };
          const text = new URLSearchParams(
            Object.entries(addressOf(question, usual)).flatMap(([name, value]) =>
              [value].flat().map((each) => [name, each] as [string, string]),
            ),
          ).toString();
          const params = new URLSearchParams(text);
          const query = Object.fromEntries([...params.keys()].map((name) => [name, params.getAll(name)]));
          expect(read(query)).toEqual(question);
        },
      ),
    );
  });

  it('that is none is the usual one, and what is no part of one is passed over', () => {
    const plain = { by: 'source', from: usual[0], to: usual[1], where: [] };
    expect(read({})).toEqual(plain);
    expect(
      read({ by: 'colour', from: '2026-13-01', to: 'never', with: ['red', 'colour:red', null], show: 'all' }),
    ).toEqual(plain);
    expect(read({ from: '2026-11-22', to: '2026-10-24' })).toEqual(plain);
    // Nobody's browser counts thousands of years.
    expect(read({ from: '0001-01-01', to: '9999-12-31' })).toEqual(plain);
    expect(addressOf(read({}), usual)).toEqual({ by: 'source' });
  });
});
