export type { Breakdown, CountInput, RequestCounts } from './count.ts';
export { countRequests } from './count.ts';
export type { Days } from './days.ts';
export { daysOf, periodBefore } from './days.ts';
export type { Condition, Dimension } from './dimension.ts';
export { holdsAt, valueAt } from './dimension.ts';
export type { DimensionInput, DimensionName, LinkTraits } from './requestDimensions.ts';
export { dimensionNames, requestDimensions } from './requestDimensions.ts';
