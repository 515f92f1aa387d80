import type { Marks } from '#core/catalogue';

const escapes: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

/** Escapes a text for HTML, in content and in attributes. */
export const escapeHtml = (text: string): string =>
  text.replace(/[&<>"']/g, (letter) => escapes[letter] ?? letter);

/** The `rel` value of a placed link; a new tab never hands over its opener (HTML standard, `noopener`). */
export const relOf = (marks: Pick<Marks, 'rel' | 'newTab'>): string =>
  [...marks.rel, ...(marks.newTab ? ['noopener'] : [])].join(' ');

/** A link as HTML with its marks: `<a href="…" rel="sponsored nofollow noopener" target="_blank">…</a>`. */
export const linkHtml = (address: string, text: string, marks: Marks): string => {
  const rel = relOf(marks);
  const attributes = [
    `href="${escapeHtml(address)}"`,
    ...(rel === '' ? [] : [`rel="${rel}"`]),
    ...(marks.newTab ? ['target="_blank"'] : []),
    ...(marks.title === '' ? [] : [`title="${escapeHtml(marks.title)}"`]),
  ];
  return `<a ${attributes.join(' ')}>${escapeHtml(text)}</a>`;
};
