import type { Marks } from '#core/catalogue';
import { escapeHtml } from '#core/hop';

/** The `rel` value of a placed link; a new tab never hands over its opener (HTML standard, `noopener`). */
export const relOf = (marks: Pick<Marks, 'rel' | 'newTab'>): string =>
  [...marks.rel, ...(marks.newTab ? ['noopener'] : [])].join(' ');

/** What the page script counts a placed link as, and where it puts the click ID. */
export interface Counted {
  /** The link's ID. */
  readonly link: string;
  /** The parameter of the address that carries the click ID; empty where there is none. */
  readonly slot: string;
}

/** A link as HTML with its marks, and what it is counted as where the page script counts it: `<a href="…" rel="sponsored nofollow noopener" target="_blank">…</a>`. */
export const linkHtml = (address: string, text: string, marks: Marks, counted?: Counted): string => {
  const rel = relOf(marks);
  const attributes = [
    `href="${escapeHtml(address)}"`,
    ...(rel === '' ? [] : [`rel="${rel}"`]),
    ...(marks.newTab ? ['target="_blank"'] : []),
    ...(counted ? [`data-fernhop="${escapeHtml(counted.link)}"`] : []),
    ...(counted && counted.slot !== '' ? [`data-click="${escapeHtml(counted.slot)}"`] : []),
    ...(marks.title === '' ? [] : [`title="${escapeHtml(marks.title)}"`]),
  ];
  return `<a ${attributes.join(' ')}>${escapeHtml(text)}</a>`;
};
