/** What a paste or a drop brings. */
export interface Transfer {
  readonly plain: string;
  readonly html: string;
  readonly files: readonly File[];
}

/** What a clipboard or a drag holds; it can be read only while its event is handled. */
export const transferOf = (data: DataTransfer | null): Transfer => ({
  plain: data?.getData('text/plain') ?? '',
  html: data?.getData('text/html') ?? '',
  files: [...(data?.files ?? [])],
});

/** The addresses rich text leads to, as far as they can be seen without reading it as a page. */
const addressesOf = (html: string): string[] =>
  [...html.matchAll(/<a\s[^>]*?href\s*=\s*["']?((?:https?:)?\/\/[^"'>\s]+)/gi)].map(([, address = '']) =>
    address.replaceAll('&amp;', '&'),
  );

/** True where a field would take the plain text alone and lose something: a picture, or an address behind words. */
export const hasMoreThanText = ({ plain, html, files }: Transfer): boolean =>
  (files.length > 0 && plain === '') || addressesOf(html).some((address) => !plain.includes(address));
