export { usedCsv } from './csv.ts';
export type { ReadAs } from './pageRecord.ts';
export { isNews, pageId, pageRecord } from './pageRecord.ts';
export type { ToMend } from './toMend.ts';
export type { UsedLink, UsedPage } from './whereUsed.ts';
export { whereUsed } from './whereUsed.ts';
