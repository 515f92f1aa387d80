/** What the paste bar needs once something stands in it; loaded apart from the first screen. */
export { pageChoices, productCode, recognise } from '#core/link-parts';
export { makeLink, makePageLink } from '../links/makeLink.ts';
export { readTransfer } from '../links/readTransfer.ts';
