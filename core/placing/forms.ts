import { escapeHtml } from '#core/hop';
import type { PlacingLook } from './look.ts';
import { buttonStyle, linkStyle, usualLook } from './look.ts';
import { bbcodeLink, markdownLink, oneLine } from './markup.ts';
import type { PlacedLink } from './snippet.ts';
import { linkAround, linkHtml } from './snippet.ts';

/** A picture that is linked. */
export interface PlacedPicture {
  /** Where it lies: an address, or the name of a file beside the article. */
  readonly src: string;
  /** What somebody reads who does not see it. */
  readonly alt: string;
  /** In CSS pixels; left out where the picture itself tells. */
  readonly width?: number | undefined;
  readonly height?: number | undefined;
  readonly side: 'left' | 'right' | 'none';
}

/** What is on the clipboard: what a text field takes, and what a rich editor takes. */
export interface Clip {
  readonly plain: string;
  readonly html: string;
}

/** What a link can be copied as. */
export const copyForms = ['link', 'html', 'markdown', 'bbcode', 'picture', 'button', 'post', 'mail'] as const;
export type CopyForm = (typeof copyForms)[number];

/** For forms that say nothing of why a link is there. */
export const noDisclosure: Copied['disclosure'] = { post: '', mail: '' };

export interface Copied {
  readonly link: PlacedLink;
  /** Needed for a picture alone. */
  readonly picture?: PlacedPicture | undefined;
  /** The person's own look; a link without one looks as the page has its links. */
  readonly look?: PlacingLook | undefined;
  /** What is said of why the link is there; stands in a post, and in a mail. */
  readonly disclosure: Readonly<Record<'post' | 'mail', string>>;
}

const pictureHtml = ({ src, alt, width, height, side }: PlacedPicture): string => {
  const margin = { left: '0 16px 12px 0', right: '0 0 12px 16px', none: '' } as const;
  const attributes: [name: string, value: string][] = [
    ['src', src],
    ['alt', alt],
    ['width', width === undefined ? '' : String(width)],
    ['height', height === undefined ? '' : String(height)],
    ['style', side === 'none' ? '' : `float:${side};margin:${margin[side]}`],
  ];
  // A picture without words says so by an empty alt, so that one always stands.
  return `<img${attributes.flatMap(([name, value]) => (value === '' && name !== 'alt' ? [] : [` ${name}="${escapeHtml(value)}"`])).join('')}>`;
};

/** Lines of plain text as paragraphs. */
const paragraphsOf = (lines: readonly string[]): string => lines.map((line) => `<p>${line}</p>`).join('');

/**
 * What goes to the clipboard for a form. Where the form is a code that stands in a text, a rich editor gets the link itself all
 * the same.
 *
 * @throws RangeError for a picture where none is given
 */
export const clipOf = (form: CopyForm, { link, picture, look, disclosure }: Copied): Clip => {
  const html = linkHtml(link, look ? linkStyle(look) : '');
  switch (form) {
    case 'link':
      return { plain: link.address, html };
    case 'html':
      return { plain: html, html };
    case 'markdown':
      return { plain: markdownLink(link.address, link.text, link.marks.title), html };
    case 'bbcode':
      return { plain: bbcodeLink(link.address, link.text), html };
    case 'button': {
      const button = linkHtml(link, buttonStyle(look ?? usualLook));
      return { plain: button, html: button };
    }
    case 'picture': {
      if (!picture) throw new RangeError('A picture is needed.');
      const linked = linkAround(pictureHtml(picture), link);
      return { plain: linked, html: linked };
    }
    case 'post': {
      // The link stands last, where the places that shorten or preview a post look for it.
      const lines = [oneLine(link.text), disclosure.post].filter((line) => line !== '');
      return {
        plain: [...lines, link.address].join('\n\n'),
        html: paragraphsOf([
          ...lines.map(escapeHtml),
          linkHtml({ ...link, text: link.address }, look ? linkStyle(look) : ''),
        ]),
      };
    }
    case 'mail': {
      // A reader of plain text sees the address below the words.
      const plain = [`${oneLine(link.text)}\n${link.address}`, disclosure.mail];
      return {
        plain: plain.filter((part) => part !== '').join('\n\n'),
        html: paragraphsOf([html, ...(disclosure.mail === '' ? [] : [escapeHtml(disclosure.mail)])]),
      };
    }
  }
};
