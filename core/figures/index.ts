export { commissionOf, epcOf } from './link.ts';
