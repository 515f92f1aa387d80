export { linkHtml, relOf } from './snippet.ts';
