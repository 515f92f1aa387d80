import type { Cost } from '#core/catalogue';
import { pushTo } from '#core/catalogue';

/** Two costs for the same visits on the same days: either may be meant, or the same was noted twice. */
export interface CostOverlap {
  readonly one: Cost;
  readonly other: Cost;
  /** The days they share; without a last one where both go on. */
  readonly from: string;
  readonly until?: string;
}

/** Whose visits a cost pays for, as a text to compare. */
const target = ({ of }: Cost, sourceOf: (name: string) => string): string =>
  JSON.stringify(
    of.kind === 'link'
      ? ['link', of.link]
      : of.kind === 'promotion'
        ? ['promotion', of.promotion]
        : [of.kind, sourceOf(of.source), of.kind === 'placement' && of.placement],
  );

/** Costs that lie over each other. Both count all the same: a person says whether one of them is too much. */
export const overlapping = (costs: readonly Cost[], sourceOf: (name: string) => string): CostOverlap[] => {
  const groups = new Map<string, Cost[]>();
  for (const cost of costs) pushTo(groups, target(cost, sourceOf), cost);
  return [...groups.values()].flatMap((group) =>
    group.flatMap((one, i) =>
      group.slice(i + 1).flatMap((other) => {
        const from = one.from > other.from ? one.from : other.from;
        const ends = [one.until, other.until].filter((day) => day !== undefined).sort();
        const [until] = ends;
        if (until === undefined) return [{ one, other, from }];
        return from <= until ? [{ one, other, from, until }] : [];
      }),
    ),
  );
};
