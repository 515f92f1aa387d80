import { daysOf } from '#core/traffic';
import type { Dataset } from './dataset.ts';
import type { ConversionLine } from './linkFigures.ts';
import { lineOf } from './linkFigures.ts';
import type { TrafficQuestion } from './traffic.ts';
import { unitsBy } from './traffic.ts';
import { dimensionsOf } from './trafficDimensions.ts';

/** A conversion behind a number of Traffic. Its click is empty where none is known. */
export interface ConversionBehind extends ConversionLine {
  readonly link: string;
}

/**
 * The conversions that Traffic counts for a question, in any state, the newest first: behind its numbers of conversions and, with
 * them, behind its commission.
 */
export const newestConversions = (
  data: Dataset,
  { from, to, where: asked }: Pick<TrafficQuestion, 'from' | 'to' | 'where'>,
  most: number,
): ConversionBehind[] => {
  const dimension = dimensionsOf(data);
  const where = asked.map(({ of, ...rest }) => ({ ...rest, of: dimension(of) }));
  return unitsBy(data, daysOf(data.zone, from, to), where, dimension('link'))
    .all.filter(({ conversion }) => !conversion.refundOnly)
    .toSorted((a, b) => b.conversion.at - a.conversion.at)
    .slice(0, most)
    .map((unit) => ({ ...lineOf(data, unit), link: unit.link }));
};
