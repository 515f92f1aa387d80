export type { Sent } from './ask.ts';
export { ask, wordsOf } from './ask.ts';
export type { Bounds } from './guard.ts';
export { addressFor } from './guard.ts';
export { askPicture } from './picture.ts';
export type { Trace } from './trace.ts';
export { outcomeOf, trace, traceSteps } from './trace.ts';
