import type { MappedText, Range } from './ranges.ts';

/** An attribute as it stands in a tag, and its value decoded. */
export interface Attribute extends Range {
  readonly value: string;
}

/** A start tag of HTML and its attributes by name, lower case. */
export interface Tag extends Range {
  readonly attributes: ReadonlyMap<string, Attribute>;
}

/**
 * Whether words may be linked where they stand: `free`; in a `heading`, if a person allows that; `link` not, as they are linked;
 * `closed` not, as they are code, a form, or what the site's generator fills in.
 */
export type Where = 'free' | 'heading' | 'link' | 'closed';

/** Words that are read one after the other. */
export interface Run extends MappedText {
  readonly where: Where;
  /** Which link they are the words of, by its place in the list. */
  readonly link?: number | undefined;
  /** Which block they stand in. */
  readonly block: number;
  /** They stand in HTML, whatever the article is written in. */
  readonly isHtml?: boolean;
}

/** A link of an article. */
export interface ArticleLink extends Range {
  /** The address as a browser reads it: decoded, and whole where the article has a base. */
  readonly address: string;
  readonly block: number;
  /** How it is written, which says how it is changed. */
  readonly written:
    | { readonly as: 'tag'; readonly tag: Tag }
    /** Markdown: the address alone stands at `at`; `text` is what is linked, where all of it stands in one place. */
    | {
        readonly as: 'markdown';
        readonly at: Range;
        readonly text?: Range | undefined;
        readonly bare: boolean;
      }
    /** Markdown: its address stands in a definition, which is a link of its own in the list. */
    | { readonly as: 'reference' };
}

/** A picture of an article. */
export interface ArticlePicture extends Range {
  /** What is read by who does not see it; undefined where nothing was said. */
  readonly alt: string | undefined;
  readonly link?: number | undefined;
  /** It may not be linked where it stands. */
  readonly closed: boolean;
  readonly block: number;
  readonly written:
    | { readonly as: 'tag'; readonly tag: Tag }
    /** Markdown: where its words stand. */
    | { readonly as: 'markdown'; readonly at: Range };
}

/** A block of an article: a paragraph, a cell, a figure. */
export interface Block {
  /** Where something can be put in before all of it; undefined where nothing can. */
  readonly before: number | undefined;
}

/** What of an article is read and changed. */
export interface ArticleParts {
  readonly language: string;
  /** Words in the order in which they are read. */
  readonly runs: readonly Run[];
  readonly links: readonly ArticleLink[];
  readonly pictures: readonly ArticlePicture[];
  readonly blocks: readonly Block[];
  /** From where on bold letters or a link are still open, as somebody forgot to end them; a new paragraph would be of them. */
  readonly openFrom?: number | undefined;
  /** What could not be read and is left as it is, as sentences. */
  readonly left: readonly string[];
}
