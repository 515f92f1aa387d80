export { Feed } from './feed.ts';
export type { Host, LinkTable, TableLink, TableNetwork } from './linkTable.ts';
export { answering, readyLink } from './linkTable.ts';
