export { Feed } from './feed.ts';
export type { Host, TableLink, TableNetwork } from './linkTable.ts';
export { answering, LinkTable, readyLink } from './linkTable.ts';
