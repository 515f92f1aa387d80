export type { Bounds } from './guard.ts';
export type { Trace } from './trace.ts';
export { trace } from './trace.ts';
