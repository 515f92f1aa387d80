export { GivenBack } from './givenBack.ts';
export type { Batch } from './journal.ts';
export type { Rest } from './journal.ts';
export { Journal } from './journal.ts';
