import { escapeHtml } from '#core/hop';
import type { PlacedLink } from '#core/placing';
import { markdownAddress, markdownText } from '#core/placing';
import type { ArticleLink, ArticlePicture } from './parts.ts';
import type { Edit, Range } from './ranges.ts';
import { attributeEdits, lackWords, startTag, wantedOf } from './writeHtml.ts';

/** How what is found is written into an article. */
export interface ArticleWriter {
  /** A link that leads elsewhere from now on, with its marks. */
  readonly retarget: (link: ArticleLink, placed: PlacedLink) => Edit[];
  /** What gives a link the marks it has to have, and what it lacks; undefined where it lacks nothing. */
  readonly mark: (
    link: ArticleLink,
    placed: PlacedLink,
  ) => { readonly edits: readonly Edit[]; readonly was: string } | undefined;
  /**
   * Whether a link can stand around it without what is beside it being read otherwise.
   *
   * @param beside the letters that are read right before and behind it
   */
  readonly mayStand: (range: Range, isHtml: boolean, beside?: string) => boolean;
  /** A link around what stands there, in HTML or not. */
  readonly around: (range: Range, placed: PlacedLink, isHtml: boolean) => Edit[];
  /** What is said to who does not see a picture. */
  readonly alt: (picture: ArticlePicture, alt: string) => Edit[];
  /** A paragraph of its own before what stands at a place. */
  readonly paragraph: (at: number, text: string) => Edit[];
  /** Words as they are written among others. */
  readonly text: (text: string) => string;
}

const put = (at: number, text: string): Edit => ({ start: at, end: at, text });
/** The line end that a text has. */
const lineEndOf = (source: string): string => /\r\n|\n|\r/.exec(source)?.[0] ?? '\n';

/** Start tags by what is placed: of a keyword they are the same many times. */
const startTags = new WeakMap<PlacedLink, string>();
const tagFor = (placed: PlacedLink): string => {
  let tag = startTags.get(placed);
  if (tag === undefined) startTags.set(placed, (tag = startTag(placed)));
  return tag;
};

const aroundHtml = ({ start, end }: Range, placed: PlacedLink): Edit[] => [
  put(start, tagFor(placed)),
  { ...put(end, '</a>'), order: 'closes' },
];

/** Writes into an article of HTML. */
export const htmlWriter = (source: string): ArticleWriter => ({
  retarget: ({ written }, placed) =>
    written.as === 'tag' ? attributeEdits(source, written.tag, wantedOf(written.tag, placed, true)) : [],
  mark: ({ written }, placed) => {
    if (written.as !== 'tag') return undefined;
    const wanted = wantedOf(written.tag, placed, false);
    const edits = attributeEdits(source, written.tag, wanted);
    return edits.length === 0 ? undefined : { edits, was: lackWords(written.tag, wanted) };
  },
  mayStand: () => true,
  around: (range, placed) => aroundHtml(range, placed),
  alt: ({ written }, alt) => (written.as === 'tag' ? attributeEdits(source, written.tag, { alt }) : []),
  paragraph: (at, text) => [{ ...put(at, `<p>${escapeHtml(text)}</p>${lineEndOf(source)}`), order: 'apart' }],
  text: escapeHtml,
});

/** White space or punctuation, by which emphasis begins and ends (CommonMark 0.31, §6.2). */
const isOpenTo = (letter: string): boolean => letter === '' || /[\s\p{Punctuation}\p{Symbol}]/u.test(letter);
/**
 * True where a bracket or a tag may be put in on both sides of what stands in Markdown: what is before it would make a picture, a
 * label or an escape of it, and `*` within a word ends nothing beside a bracket.
 */
const standsAlone = (source: string, { start, end }: Range): boolean => {
  if (/[!\]\\[<&]$/.test(source.slice(Math.max(0, start - 1), start))) return false;
  if (/^[[(:]/.test(source.slice(end, end + 1))) return false;
  const before = /[*_~]+$/.exec(source.slice(Math.max(0, start - 20), start))?.[0].length ?? 0;
  const after = /^[*_~]+/.exec(source.slice(end, end + 20))?.[0].length ?? 0;
  return (
    (before === 0 || source.charAt(start - before - 1).trim() === '') &&
    (after === 0 || isOpenTo(source.charAt(end + after)))
  );
};

/** Writes into an article of Markdown; a link is HTML where its marks are to stand there too. */
export const markdownWriter = (source: string, form: 'markdown' | 'html'): ArticleWriter => {
  const html = htmlWriter(source);
  const end = lineEndOf(source);
  const asHtml = (link: ArticleLink, placed: PlacedLink): Edit[] => {
    const { written } = link;
    if (written.as !== 'markdown' || (!written.text && !written.bare)) return [];
    const { text } = written;
    return text
      ? [
          { start: link.start, end: text.start, text: startTag(placed) },
          { start: text.end, end: link.end, text: '</a>' },
        ]
      : [{ start: link.start, end: link.end, text: `${startTag(placed)}${escapeHtml(placed.address)}</a>` }];
  };
  return {
    retarget: (link, placed) => {
      const { written } = link;
      if (written.as === 'tag') return html.retarget(link, placed);
      if (written.as === 'reference') return [];
      const edits = form === 'html' ? asHtml(link, placed) : [];
      if (edits.length > 0) return edits;
      // A bare address ends at what a person would not take for a part of it; brackets say where it ends.
      const isPlain = /^[\w:/?&=.~-]*[\w/=-]$/.test(placed.address);
      const isBracketed = source[written.at.start - 1] === '<';
      const address = written.bare
        ? isPlain || isBracketed
          ? placed.address
          : `<${placed.address}>`
        : markdownAddress(placed.address);
      return [{ ...written.at, text: address }];
    },
    mark: (link, placed) => {
      if (link.written.as === 'tag') return html.mark(link, placed);
      if (form !== 'html') return undefined;
      const edits = asHtml(link, placed);
      return edits.length === 0 ? undefined : { edits, was: 'is Markdown, which has no place for marks' };
    },
    // A star that is read is none of emphasis, and may become one beside a bracket.
    mayStand: (range, isHtml, beside = '') => isHtml || (!/[*_~]/.test(beside) && standsAlone(source, range)),
    around: (range, placed, isHtml) =>
      form === 'html' || isHtml
        ? aroundHtml(range, placed)
        : [
            put(range.start, '['),
            { ...put(range.end, `](${markdownAddress(placed.address)})`), order: 'closes' },
          ],
    alt: (picture, alt) =>
      picture.written.as === 'tag'
        ? html.alt(picture, alt)
        : [{ ...picture.written.at, text: markdownText(alt) }],
    paragraph: (at, text) => {
      const before = source.slice(0, at).replace(/^\uFEFF/, '');
      const isApart = before === '' || /(?:\r\n|\n|\r)[ \t]*(?:\r\n|\n|\r)[ \t]*$/.test(before);
      return [{ ...put(at, `${isApart ? '' : end}${markdownText(text)}${end}${end}`), order: 'apart' }];
    },
    text: markdownText,
  };
};
