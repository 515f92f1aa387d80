import type { PaysFigures } from '#core/queries';

/** A row that few came by has a band of any width: the axis is made for those with at least so much of all visitors. */
const leastShare = 0.01;

/** The ends of an axis on which the bands of rows stand with nought through all of them, in minor units a visitor. */
export const bandAxis = (
  lines: readonly Pick<PaysFigures, 'band' | 'visitors'>[],
): readonly [low: number, high: number] => {
  const all = lines.reduce((sum, { visitors }) => sum + visitors, 0);
  const bands = lines.flatMap(({ band, visitors }) => (band && visitors >= all * leastShare ? [band] : []));
  const low = Math.min(0, ...bands.map((band) => band.low));
  const high = Math.max(0, ...bands.map((band) => band.high));
  const margin = (high - low || 1) * 0.06;
  return [low - margin, high + margin];
};
