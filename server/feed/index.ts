export { Feed } from './feed.ts';
export type { Host, Table, TableLink, TableNetwork } from './table.ts';
export { answering, readyLink } from './table.ts';
