import type { ArticleChoices, Link, Product } from '#core/catalogue';
import type { Keyword, KeywordFinder } from '#core/keywords';
import type { Placing } from '#core/placing';
import type { Find, FindKind } from './find.ts';
import type { Group } from './groups.ts';
import { groupsOf } from './groups.ts';
import type { LinkReader } from './meaning.ts';
import type { ArticleLink, ArticleParts, Run } from './parts.ts';
import type { ArticleWriter } from './writer.ts';

/** What is looked for in an article. */
export interface Looking {
  readonly reader: LinkReader;
  readonly keywords: readonly Keyword[];
  readonly finder: KeywordFinder;
  readonly choices: ArticleChoices;
  readonly productsOf: ReadonlyMap<string, readonly Product[]>;
}

/** A link as it stands, or as it stands once what was found is accepted. */
export interface Target {
  readonly link: Link;
  readonly start: number;
  readonly block: number;
  readonly isKeyword: boolean;
}

/** An article that is being looked at, and what is known of it by now. */
export interface Sight extends Looking {
  readonly parts: ArticleParts;
  readonly writer: ArticleWriter;
  readonly groups: readonly Group[];
  /** The words of each link of the article. */
  readonly texts: readonly string[];
  readonly finds: Find[];
  /** What is linked, in the order in which it was found. */
  readonly targets: Target[];
  /** What each link of the article leads to once all is accepted. */
  readonly targetOf: (Link | undefined)[];
  /** How a link is placed in this article, or why not. */
  readonly placingOf: (link: Link) => Placing | { readonly refused: string };
  /** Whether such a find is looked for, and was not refused for good. */
  readonly isWanted: (kind: FindKind, key: string) => boolean;
}

/** The words of each link. */
const linkTexts = (links: readonly ArticleLink[], runs: readonly Run[]): string[] => {
  const texts = links.map(() => '');
  for (const { link, text } of runs) if (link !== undefined && texts[link] !== undefined) texts[link] += text;
  return texts.map((text) => text.replace(/\s+/g, ' ').trim());
};

/** Begins to look at an article. */
export const beginSight = (
  parts: ArticleParts,
  writer: ArticleWriter,
  looking: Looking,
  source: string,
): Sight => {
  const { reader, choices } = looking;
  const placings = new Map<string, ReturnType<LinkReader['placing']>>();
  const without = new Set<string>(choices.without);
  const never = new Set(choices.never);
  return {
    ...looking,
    parts,
    writer,
    groups: groupsOf(parts),
    texts: linkTexts(parts.links, parts.runs),
    finds: [],
    targets: [],
    targetOf: [],
    placingOf: (link) => {
      let found = placings.get(link.id);
      if (!found) placings.set(link.id, (found = reader.placing(link, source)));
      return found;
    },
    isWanted: (kind, key) => !without.has(kind) && !never.has(key),
  };
};

/** By what a find is known again where it was refused for good. */
export const keyOf = (kind: FindKind, link: string, what: string): string =>
  `${kind}|${link}|${what}`.slice(0, 4200);

/** True for the words of a definition, which is read by nobody. */
export const isDefinition = ({ written }: ArticleLink): boolean =>
  written.as === 'markdown' && written.text === undefined && !written.bare;
