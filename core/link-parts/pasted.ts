import { attributeOf, elementsOf, textOf } from './pageInLink.ts';

/** What a piece of pasted HTML or script holds. */
export interface PastedSnippet {
  /** The address it links to. */
  readonly address: string;
  /** The linked text, or the picture's text. */
  readonly text: string;
  readonly picture?: { readonly src: string; readonly width: number; readonly height: number };
  /** A picture of one pixel that counts who saw the snippet. */
  readonly counting?: string;
}

const number = (text: string | undefined): number => {
  const n = Number.parseInt(text ?? '', 10);
  return Number.isFinite(n) && n >= 0 ? n : 0;
};
const whole = (url: string | undefined): string | undefined => {
  const trimmed = (url ?? '').trim();
  if (/^https?:\/\//i.test(trimmed)) return trimmed;
  return trimmed.startsWith('//') ? `https:${trimmed}` : undefined;
};

/**
 * Reads the address, the picture with its size, and a counting picture out of a pasted HTML or script snippet. Gives
 * undefined for a text that is none or links nowhere.
 */
export const readSnippet = (text: string): PastedSnippet | undefined => {
  if (!/<[a-z!/]/i.test(text)) return undefined;
  const elements = elementsOf(text);
  const anchor = elements.find((e) => e.tagName === 'a' && whole(attributeOf(e, 'href')) !== undefined);
  const images = elements
    .filter((e) => e.tagName === 'img')
    .flatMap((e) => {
      const src = whole(attributeOf(e, 'src'));
      const style = attributeOf(e, 'style') ?? '';
      return src === undefined
        ? []
        : [
            {
              src,
              width: number(attributeOf(e, 'width')),
              height: number(attributeOf(e, 'height')),
              alt: attributeOf(e, 'alt') ?? '',
              hidden: /display\s*:\s*none|visibility\s*:\s*hidden/i.test(style),
            },
          ];
    });
  const counts = (image: (typeof images)[number]) =>
    image.hidden ||
    (image.width <= 1 && image.height <= 1 && image.width + image.height > 0) ||
    /(?:^|[^\d])1x1/.test(image.src);
  const counting = images.find(counts);
  const picture = images.find((image) => !counts(image));
  const script = elements
    .filter((e) => e.tagName === 'script')
    .map(
      (e) =>
        /(["'])(https?:\\?\/\\?\/[^"'\s]+)\1/i.exec(textOf(e))?.[2]?.replaceAll('\\/', '/') ??
        whole(attributeOf(e, 'src')),
    )
    .find((url) => url !== undefined);
  const address = whole(anchor && attributeOf(anchor, 'href')) ?? script;
  if (address === undefined) return undefined;
  return {
    address,
    text: (anchor && textOf(anchor)) || picture?.alt || '',
    ...(picture && { picture: { src: picture.src, width: picture.width, height: picture.height } }),
    ...(counting && { counting: counting.src }),
  };
};
