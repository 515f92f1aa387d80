import type { Cost } from '#core/catalogue';
import { pushTo } from '#core/catalogue';

/** What a conversion is paid for by: where its click came from and went, and its day in the person's own zone. */
export interface SharedBy {
  readonly source: string;
  readonly link: string;
  /** Empty where it is not known. */
  readonly placement: string;
  /** IDs of those the visit belongs to. */
  readonly promotions: readonly string[];
  readonly day: string;
}

/** Gives the share of a conversion's commission that goes to who sold its visit, 0 to 1, where costs say so; several add up to at most all of it. */
export const costShare = (
  costs: readonly Cost[],
  sourceOf: (name: string) => string,
): ((by: SharedBy) => number) => {
  const bySource = new Map<string, Cost[]>();
  const byLink = new Map<string, Cost[]>();
  const byPromotion = new Map<string, Cost[]>();
  for (const cost of costs) {
    if (cost.per !== 'share') continue;
    if (cost.of.kind === 'link') pushTo(byLink, cost.of.link, cost);
    else if (cost.of.kind === 'promotion') pushTo(byPromotion, cost.of.promotion, cost);
    else pushTo(bySource, sourceOf(cost.of.source), cost);
  }
  return ({ source, link, placement, promotions, day }) => {
    const percent = [
      ...(bySource.get(sourceOf(source)) ?? []),
      ...(byLink.get(link) ?? []),
      ...promotions.flatMap((id) => byPromotion.get(id) ?? []),
    ]
      .filter(({ of, from, until = day }) => {
        const isPlaced = of.kind !== 'placement' || of.placement === placement;
        return isPlaced && from <= day && day <= until;
      })
      .reduce((sum, { amount }) => sum + Number(amount), 0);
    return Math.min(100, percent) / 100;
  };
};
