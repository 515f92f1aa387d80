export { commissionOf, epcOf } from './link.ts';
export { isMoreThanChance } from './change.ts';
