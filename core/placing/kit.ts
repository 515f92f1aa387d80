import { escapeHtml } from '#core/hop';
import type { Clip } from './forms.ts';
import { oneLine } from './markup.ts';
import type { PlacedLink } from './snippet.ts';
import { linkHtml } from './snippet.ts';

/** A place where a post can stand. */
export interface PostPlace {
  readonly name: string;
  /** The most letters it takes; undefined where it takes as many as anybody writes. */
  readonly most?: number;
  /** How many letters are shown before somebody asks for more. */
  readonly shown?: number;
  /** On pages where people talk, which some merchants do not allow. */
  readonly social: boolean;
}

/** Places by what they take (common practice, from memory; each can change its limits any day). A text message is by its standard. */
export const postPlaces = [
  { name: 'short post', most: 280, social: true },
  { name: 'post', most: 500, social: true },
  { name: 'caption of a picture', most: 2200, shown: 125, social: true },
  { name: 'text below a video', most: 5000, shown: 150, social: true },
  { name: 'text message', social: false },
] as const satisfies readonly PostPlace[];

/** Letters of the default alphabet of text messages, and those of its extension, which count twice (3GPP TS 23.038, §6.2.1). */
const messageLetters =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞ !"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüàÆæßÉ';
const messageExtension = '^{}\\[~]|€\f';

/** How long a text message is. */
export interface MessageLength {
  readonly units: number;
  /** How many messages it is sent and paid as. */
  readonly parts: number;
  /** How many units the last of them has room for still. */
  readonly left: number;
}

/**
 * How many messages a text is: 160 letters of the default alphabet or 70 of any other, and 153 or 67 in each of several
 * (3GPP TS 23.038, §6.2.1 and §6.2.3; TS 23.040, §9.2.3.24.1).
 */
export const messageLength = (text: string): MessageLength => {
  const isPlain = [...text].every(
    (letter) => messageLetters.includes(letter) || messageExtension.includes(letter),
  );
  const units = isPlain
    ? [...text].reduce((sum, letter) => sum + (messageExtension.includes(letter) ? 2 : 1), 0)
    : text.length;
  const [alone, each] = isPlain ? [160, 153] : [70, 67];
  const parts = units <= alone ? 1 : Math.ceil(units / each);
  return { units, parts, left: parts === 1 ? alone - units : parts * each - units };
};

const segmenter = new Intl.Segmenter('en', { granularity: 'grapheme' });
/** How many letters people see in a text. */
export const lettersOf = (text: string): number => [...segmenter.segment(text)].length;

/** What a post is made of. */
export interface PostWords {
  readonly text: string;
  readonly action: string;
  readonly disclosure: string;
}

/** The parts of a post in their order: its text, what to do, why the link is there, and the link last. */
const postParts = ({ text, action, disclosure }: PostWords, link: PlacedLink): string[] =>
  [text.trim(), oneLine(action), oneLine(disclosure), link.address].filter((part) => part !== '');

/** A post for the clipboard. */
export const postClip = (words: PostWords, link: PlacedLink): Clip => {
  const parts = postParts(words, link);
  const html = parts.slice(0, -1).map((part) => `<p>${escapeHtml(part).replaceAll('\n', '<br>')}</p>`);
  return {
    plain: parts.join('\n\n'),
    html: [...html, `<p>${linkHtml({ ...link, text: link.address })}</p>`].join(''),
  };
};
