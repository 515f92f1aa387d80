export { Feed } from './feed.ts';
export type { Host, Table, TableLink } from './table.ts';
export { readyLink } from './table.ts';
