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

/** A link as it is placed on a page. */
export interface PlacedLink {
  readonly address: string;
  /** What is read and pressed; plain text. */
  readonly text: string;
  readonly marks: Marks;
  /** What the page script counts it as, where it does. */
  readonly counted?: Counted | undefined;
  /**
   * Whether the next host learns the page: `page` where that is our own hop, which can then say where a visitor came from;
   * `usual` where the browser decides (W3C Referrer Policy: of another host it learns the site alone); `hidden` for nothing.
   */
  readonly referrer: 'page' | 'usual' | 'hidden';
}

const referrerPolicy = { page: 'no-referrer-when-downgrade', usual: '', hidden: 'no-referrer' } as const;

/**
 * A link as HTML around what is already HTML, with its marks:
 * `<a href="…" rel="sponsored nofollow noopener" target="_blank" referrerpolicy="no-referrer-when-downgrade">…</a>`.
 *
 * @param style an inline style; empty for none
 */
export const linkAround = (inside: string, placed: Omit<PlacedLink, 'text'>, style = ''): string => {
  const { address, marks, counted, referrer } = placed;
  const attributes: [name: string, value: string][] = [
    ['href', address],
    ['rel', relOf(marks)],
    ['target', marks.newTab ? '_blank' : ''],
    ['referrerpolicy', referrerPolicy[referrer]],
    ['data-fernhop', counted?.link ?? ''],
    ['data-click', counted?.slot ?? ''],
    ['title', marks.title],
    ['style', style],
  ];
  const written = attributes.flatMap(([name, value]) =>
    value === '' ? [] : [` ${name}="${escapeHtml(value)}"`],
  );
  return `<a${written.join('')}>${inside}</a>`;
};

/** A link as HTML, with its marks. */
export const linkHtml = (placed: PlacedLink, style = ''): string =>
  linkAround(escapeHtml(placed.text), placed, style);
