export * from './change.ts';
export * from './check.ts';
export * from './defaults.ts';
export * from './id.ts';
export * from './problem.ts';
export * from './records.ts';
export * from './slug.ts';
