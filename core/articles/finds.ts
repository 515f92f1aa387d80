import { dayIn } from '#core/hop';
import { disclosureToSay } from './disclosed.ts';
import type { Find } from './find.ts';
import { lookForKeywords } from './keywordFinds.ts';
import type { Standing } from './linkFinds.ts';
import { lookAtLinks } from './linkFinds.ts';
import type { ArticleParts } from './parts.ts';
import { lookAtPictures } from './pictureFinds.ts';
import type { Looking, Sight, Target } from './sight.ts';
import { beginSight, keyOf } from './sight.ts';
import type { Mention } from './staleTexts.ts';
import { lookAtTexts } from './staleTexts.ts';
import type { ArticleWriter } from './writer.ts';

/** What was found in an article. */
export interface ArticleFinds {
  readonly finds: readonly Find[];
  /** How many words it has. */
  readonly words: number;
  /** What of ours stands in it, in its order, as it is now. */
  readonly standing: readonly Standing[];
  /** What it says of products beside their links. */
  readonly mentions: readonly Mention[];
}

/** What says why the links are there, before the first of them. */
const disclosureFind = (
  { parts, groups, choices, writer, placingOf }: Sight,
  linked: readonly Target[],
): Find | undefined => {
  const [first] = linked;
  if (!first) return undefined;
  const before = groups
    .filter(({ runs }) => (runs[0]?.base ?? 0) < first.start)
    // It may stand where nothing is linked.
    .map(({ runs }) => runs.map(({ text }) => text).join(''))
    .join('\n');
  const asked = linked.map(({ link }) => {
    const placing = placingOf(link);
    return 'refused' in placing ? '' : placing.disclosure;
  });
  const say = disclosureToSay(before, choices.disclosure, asked);
  if (say === '') return undefined;
  const group = groups.find(
    ({ block, runs }) => block === first.block && (runs[0]?.base ?? 0) <= first.start,
  );
  const beginning = group?.runs.find(({ where }) => where !== 'closed')?.base ?? first.start;
  const at = parts.blocks[first.block]?.before ?? Math.min(beginning, first.start);
  // In what was never closed, a new paragraph would be bold, or a link.
  const isOpen = at > (parts.openFrom ?? Infinity);
  return {
    kind: 'disclosure',
    start: at,
    end: at,
    was: say,
    key: keyOf('disclosure', '', ''),
    edits: isOpen ? [] : writer.paragraph(at, say),
  };
};

/**
 * What is found in an article, in the order in which it stands there. Where all of it that can be done is accepted, a second
 * reading finds nothing more of it.
 *
 * @param source what stands after `~` in the addresses that are put in; empty for none
 */
export const findsIn = (
  parts: ArticleParts,
  writer: ArticleWriter,
  looking: Looking,
  source: string,
): ArticleFinds => {
  const sight = beginSight(parts, writer, looking, source);
  const { finds, targets, groups, productsOf, reader } = sight;
  // Each rests on what the one before it found: keywords on the links that stand there, pictures on both.
  const standing = lookAtLinks(sight);
  const words = lookForKeywords(sight);
  const pictures = lookAtPictures(sight);
  const linked = [...targets, ...pictures].toSorted((a, b) => a.start - b.start);
  const disclosure = disclosureFind(sight, linked);
  const texts = lookAtTexts(groups, linked, productsOf, dayIn('UTC', reader.register.now));
  const stale = texts.stale.map((find) => ({
    ...find,
    edits: find.edits.map((edit) => ({ ...edit, text: writer.text(edit.text) })),
  }));
  for (const find of [...(disclosure ? [disclosure] : []), ...stale])
    if (sight.isWanted(find.kind, find.key)) finds.push(find);
  return {
    finds: finds.toSorted((a, b) => a.start - b.start || b.end - a.end),
    words,
    standing,
    mentions: texts.mentions,
  };
};
