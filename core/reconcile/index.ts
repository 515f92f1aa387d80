export type { Match } from './match.ts';
export { matchClick } from './match.ts';
