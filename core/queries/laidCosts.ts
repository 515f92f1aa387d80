import type { CostRates, LaidCosts } from '#core/costs';
import { layCosts } from '#core/costs';
import type { Dimension } from '#core/traffic';
import { passedCosts } from '#core/traffic';
import type { DimensionName } from '#core/traffic';
import type { Dataset } from './dataset.ts';

/** The costs a person noted, and those sellers passed along, laid on the visits they paid for. */
export const laidCosts = (
  data: Dataset,
  dimension: (name: DimensionName) => Dimension,
  rates: CostRates,
  today: string,
): LaidCosts =>
  layCosts({
    columns: data.journal.columns,
    classification: data.classification,
    rolledUp: data.rolledUp.counts,
    costs: data.records.costs,
    rates,
    zone: data.zone,
    today,
    sourceOf: data.sourceOf,
    placement: dimension('placement'),
    promotion: data.records.costs.some(({ of }) => of.kind === 'promotion')
      ? dimension('promotion')
      : undefined,
    passed: passedCosts(data.journal.columns, data.passesOf),
  });
