export type { AloneCost, LaidCost, LaidCosts, LayInput, UnpricedSource } from './lay.ts';
export { layCosts } from './lay.ts';
export type { CostRates, MissingRate } from './rates.ts';
export { costRates, partsPerUnit } from './rates.ts';
export { costShare } from './share.ts';
export type { CostOverlap } from './overlaps.ts';
export { overlapping } from './overlaps.ts';
export { apportion } from './apportion.ts';
