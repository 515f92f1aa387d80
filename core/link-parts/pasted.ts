import type { PageElement } from './pageInLink.ts';
import { attributeOf, elementsIn, elementsOf, textOf } from './pageInLink.ts';

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

type Image = { src: string; width: number; height: number; alt: string; hidden: boolean };

const imagesIn = (elements: readonly PageElement[]): Image[] =>
  elements
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
const counts = (image: Image): boolean =>
  image.hidden ||
  (image.width <= 1 && image.height <= 1 && image.width + image.height > 0) ||
  /(?:^|[^\d])1x1/.test(image.src);

/**
 * Reads what pasted HTML or script links to: for each linked address its text, its picture with its size, and a counting
 * picture beside it; else the address a script holds. Empty for a text that is none or links nowhere.
 */
export const readSnippets = (text: string): PastedSnippet[] => {
  if (!/<[a-z!/]/i.test(text)) return [];
  const elements = elementsOf(text);
  const counting = imagesIn(elements).find(counts)?.src;
  const beside = counting === undefined ? {} : { counting };
  const snippets = elements
    .filter((e) => e.tagName === 'a' || e.tagName === 'area')
    .flatMap((anchor): PastedSnippet[] => {
      const address = whole(attributeOf(anchor, 'href'));
      if (address === undefined) return [];
      const picture = imagesIn(elementsIn(anchor)).find((image) => !counts(image));
      return [
        {
          address,
          text: textOf(anchor) || picture?.alt || '',
          ...(picture && { picture: { src: picture.src, width: picture.width, height: picture.height } }),
          ...beside,
        },
      ];
    });
  if (snippets.length > 0) return snippets;
  const script = elements
    .filter((e) => e.tagName === 'script' || e.tagName === 'iframe')
    .map(
      (e) =>
        /(["'])(https?:\\?\/\\?\/[^"'\s]+)\1/i.exec(textOf(e))?.[2]?.replaceAll('\\/', '/') ??
        whole(attributeOf(e, 'src')),
    )
    .find((url) => url !== undefined);
  const picture = imagesIn(elements).find((image) => !counts(image));
  return script === undefined
    ? []
    : [
        {
          address: script,
          text: picture?.alt ?? '',
          ...(picture && { picture: { src: picture.src, width: picture.width, height: picture.height } }),
          ...beside,
        },
      ];
};

/** The first of what a snippet links to; undefined for a text that is none or links nowhere. */
export const readSnippet = (text: string): PastedSnippet | undefined => readSnippets(text)[0];
