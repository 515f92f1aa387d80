import type { BridgeView } from '#core/queries';
import type { Cause, ClickCause } from '#core/reconcile';

/** A piece of a bridge, and between which running totals it lies. */
export interface BridgeStep {
  readonly cause: Cause | ClickCause;
  readonly value: number;
  /** How many records it is made of. */
  readonly count: number;
  readonly from: number;
  readonly to: number;
}

/** The pieces of a bridge that explain anything, each from where the one before ended. */
export const stepsOf = (bridge: BridgeView<Cause | ClickCause>): BridgeStep[] => {
  let at = bridge.ours;
  return bridge.pieces
    .filter(({ value }) => value !== 0)
    .map(({ cause, value, count }) => {
      const from = at;
      at += value;
      return { cause, value, count, from, to: at };
    });
};

/** What is drawn: a total as a line, a piece as a block, all on one scale. */
export interface Drawn {
  readonly name: string;
  readonly tone: string;
  /** Lower and upper end; of a total the same but for the thickness of its line. */
  readonly span: readonly [low: number, high: number];
}

/** How thick a total's line is, as a share of what the drawing spans; a piece is never drawn thinner. */
const lineShare = 0.06;

/**
 * The drawing of a bridge: ours, each piece, theirs. Only pieces have height, so that nothing has to be cut off at the foot
 * to see them; totals are lines at their level.
 *
 * @param toneOf the meaning of a cause: `fern`, `slate`, `copper`, `plum` or `sand`
 */
export const drawn = (
  bridge: BridgeView<Cause | ClickCause>,
  steps: readonly BridgeStep[],
  toneOf: (cause: Cause | ClickCause) => readonly [name: string, tone: string],
): { readonly blocks: readonly Drawn[]; readonly low: number; readonly high: number } => {
  const totals = [bridge.ours, bridge.theirs, ...steps.map(({ to }) => to)];
  const [least, most] = [Math.min(...totals), Math.max(...totals)];
  const line = Math.max(1, most - least) * lineShare;
  const at = (name: string, tone: string, one: number, other: number): Drawn => {
    const [low, high] = [Math.min(one, other), Math.max(one, other)];
    const lacks = Math.max(0, line - (high - low)) / 2;
    return { name, tone, span: [low - lacks, high + lacks] };
  };
  return {
    blocks: [
      at('ours', 'fern', bridge.ours, bridge.ours),
      ...steps.map(({ cause, from, to }) => at(...toneOf(cause), from, to)),
      at('theirs', 'slate', bridge.theirs, bridge.theirs),
    ],
    low: least - line,
    high: most + line,
  };
};
