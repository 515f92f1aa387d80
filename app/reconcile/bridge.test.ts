import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { BridgeView } from '#core/queries';
import type { Cause } from '#core/reconcile';
import { drawn, stepsOf } from './bridge.ts';

const causes: readonly Cause[] = ['no postback', 'not read', 'sent twice', 'reversed', 'amount'];
const bridges = fc
  .tuple(
    fc.nat(9000),
    fc.array(fc.integer({ min: -900, max: 900 }), { maxLength: 5 }),
    fc.integer({ min: -50, max: 50 }),
  )
  .map(([ours, values, unexplained]): BridgeView<Cause> => ({
    ours,
    theirs: ours + values.reduce((sum, value) => sum + value, 0) + unexplained,
    unexplained,
    reported: true,
    pieces: values.map((value, i) => ({ cause: causes[i] ?? 'amount', value, count: Math.abs(value) })),
  }));
const words = (cause: string) => [cause, 'sand'] as const;

describe('the drawing of a bridge', () => {
  it('goes from ours by each piece to what is not explained before theirs', () =>
    fc.assert(
      fc.property(bridges, (bridge) => {
        const steps = stepsOf(bridge);
        expect(steps.every(({ value, from, to }) => value !== 0 && to - from === value)).toBe(true);
        expect((steps.at(-1)?.to ?? bridge.ours) + bridge.unexplained).toBe(bridge.theirs);
        expect(steps.map(({ from }) => from)).toEqual(
          [bridge.ours, ...steps.map(({ to }) => to)].slice(0, steps.length),
        );
      }),
    ));

  it('draws a larger piece never smaller than another, and totals as lines of one thickness inside it', () =>
    fc.assert(
      fc.property(bridges, (bridge) => {
        const steps = stepsOf(bridge);
        const { blocks, low, high } = drawn(bridge, steps, words);
        const heights = blocks.map(({ span }) => span[1] - span[0]);
        const line = heights[0] ?? NaN;
        expect(heights.at(-1)).toBeCloseTo(line, 6);
        for (const { span } of blocks) {
          expect(span[0]).toBeGreaterThanOrEqual(low);
          expect(span[1]).toBeLessThanOrEqual(high);
        }
        for (const [i, { value }] of steps.entries())
          expect(heights[i + 1]).toBeCloseTo(Math.max(line, Math.abs(value)), 6);
      }),
    ));
});
