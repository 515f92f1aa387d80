export { ask, wordsOf } from './ask.ts';
export type { Bounds } from './guard.ts';
export { addressFor } from './guard.ts';
export type { Trace } from './trace.ts';
export { trace, traceSteps } from './trace.ts';
