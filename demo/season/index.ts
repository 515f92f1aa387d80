export type { Made, StandinAddress } from './catalogue.ts';
export { importReport } from './importReport.ts';
export type { ReportFile } from './reports.ts';
export type { Fault, Sale } from './sale.ts';
export type { Season } from './season.ts';
export { makeSeason, numbered } from './season.ts';
