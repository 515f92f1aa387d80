export type { Sum } from './link.ts';
export { commissionOf, epcOf } from './link.ts';
