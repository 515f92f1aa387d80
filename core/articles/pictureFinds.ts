import type { Link } from '#core/catalogue';
import { anchorOf } from '#core/placing';
import type { ArticlePicture } from './parts.ts';
import type { Sight, Target } from './sight.ts';
import { keyOf } from './sight.ts';

/** Pictures smaller than this are signs among the words, in CSS pixels. */
const smallest = 40;
const isSmall = ({ written }: ArticlePicture): boolean =>
  written.as === 'tag' &&
  ['width', 'height'].some((name) => {
    const value = Number(written.tag.attributes.get(name)?.value ?? NaN);
    return value > 0 && value < smallest;
  });
const sourceOf = ({ written, start }: ArticlePicture): string =>
  written.as === 'tag' ? (written.tag.attributes.get('src')?.value.slice(0, 300) ?? '') : String(start);
const saysNothing = ({ alt }: ArticlePicture): boolean => (alt ?? '').trim() === '';

/** Tells the link that a picture stands beside; pictures have to be asked for in their order. */
const makeBesides = ({ targets, groups }: Sight): ((picture: ArticlePicture) => Target | undefined) => {
  const inBlock = new Map<number, Target[]>();
  for (const target of targets) {
    const own = inBlock.get(target.block);
    if (own) own.push(target);
    else inBlock.set(target.block, [target]);
  }
  const worded = groups.filter(({ runs }) => runs.some(({ text }) => /[\p{Letter}\p{Number}]/u.test(text)));
  const blocksWithWords = new Set(worded.map(({ block }) => block));
  /** The first words behind the picture that is asked for. */
  let behind = 0;
  return ({ block, start }) => {
    const near = inBlock.get(block);
    // What is linked there goes before what could be.
    if (near)
      return near.toSorted((a, b) => Number(a.isKeyword) - Number(b.isKeyword) || a.start - b.start)[0];
    if (blocksWithWords.has(block)) return undefined;
    // Alone in its block, it belongs to the words behind it.
    while (worded[behind] && (worded[behind]?.runs[0]?.base ?? 0) <= start) behind += 1;
    const next = worded[behind];
    const there = (next && inBlock.get(next.block)) ?? [];
    const linked = there.filter(({ isKeyword }) => !isKeyword);
    const those = linked.length > 0 ? linked : there;
    return new Set(those.map(({ link }) => link.id)).size === 1 ? those[0] : undefined;
  };
};

/**
 * Looks at pictures: those beside what is linked that are not, and linked ones that say nothing to who does not see them.
 *
 * @returns the links that pictures become
 */
export const lookAtPictures = (sight: Sight): Target[] => {
  const { parts, texts, writer, finds, targetOf, placingOf } = sight;
  const { pictures } = parts;
  const besides = makeBesides(sight);
  const altOf = (link: Link): string => {
    const placing = placingOf(link);
    return anchorOf(link, 'refused' in placing ? '' : placing.name);
  };
  const made: Target[] = [];
  /** Links of which one picture says what they are; together with others it is one link. */
  const spoken = new Set<number>();
  for (const picture of pictures)
    if (picture.link !== undefined && !saysNothing(picture)) spoken.add(picture.link);
  for (const picture of pictures) {
    const { start, end, link: linked, block } = picture;
    const isTag = picture.written.as === 'tag';
    if (linked !== undefined) {
      const target = targetOf[linked];
      if (!target || texts[linked] !== '' || spoken.has(linked)) continue;
      spoken.add(linked);
      const key = keyOf('alt', target.id, sourceOf(picture));
      const was = 'A linked picture without words: who does not see it hears nothing.';
      if (sight.isWanted('alt', key))
        finds.push({
          kind: 'alt',
          start,
          end,
          link: target.id,
          was,
          key,
          edits: writer.alt(picture, altOf(target)),
        });
      continue;
    }
    if (picture.closed || isSmall(picture) || !writer.mayStand(picture, isTag)) continue;
    const link = besides(picture)?.link;
    const placing = link && placingOf(link);
    if (!placing || 'refused' in placing) continue;
    const key = keyOf('picture', link.id, sourceOf(picture));
    if (!sight.isWanted('picture', key)) continue;
    const isSilent = saysNothing(picture);
    finds.push({
      kind: 'picture',
      start,
      end,
      link: link.id,
      was: isSilent ? 'Not linked, and has no alt text.' : 'Stands beside the link and is not linked.',
      key,
      edits: [
        ...writer.around(picture, placing.link, isTag),
        ...(isSilent ? writer.alt(picture, altOf(link)) : []),
      ],
    });
    made.push({ link, start, block, isKeyword: false });
  }
  return made;
};
