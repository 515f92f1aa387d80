export { columnsFolder, madeParts } from './columnFiles.ts';
export type { JournalPart } from './columnFiles.ts';
export { Columns } from './columns.ts';
