export type { Counted } from './snippet.ts';
export { linkHtml, relOf } from './snippet.ts';
