export type { Deadlines } from './ask.ts';
export type { Bounds } from './guard.ts';
export type { PagesOptions } from './pages.ts';
export { Pages } from './pages.ts';
export type { Picture } from './picture.ts';
export type { Sample, SampleAnswer } from './sample.ts';
export { sampleBody } from './sample.ts';
export type { Trace, TraceOptions } from './trace.ts';
export { outcomeOf } from './trace.ts';
