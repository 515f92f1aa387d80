export { escapeHtml, linkHtml, relOf } from './snippet.ts';
