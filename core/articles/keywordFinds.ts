import type { Keyword, KeywordPlace, Linked, LinkedWords } from '#core/keywords';
import { filledStretches, foldWord, isDisclosing, KeywordPlaces } from '#core/keywords';
import type { Group } from './groups.ts';
import { runWith } from './groups.ts';
import { sourceAt } from './ranges.ts';
import type { Sight } from './sight.ts';
import { isDefinition, keyOf } from './sight.ts';

const keywordKey = ({ link, text }: Keyword): string => keyOf('keyword', link, foldWord(text));

/** Reads all words of an article once, with the links that stand there. */
const readArticle = ({
  groups,
  parts,
  texts,
  targetOf,
  finder,
  keywords,
  choices,
}: Sight): KeywordPlaces<Group> => {
  const places = new KeywordPlaces<Group>(finder, keywords, choices);
  parts.links.forEach((link, i) => {
    const target = targetOf[i];
    if (target && !isDefinition(link)) places.countLinked(target.id, texts[i] ?? '');
  });
  const seen = new Set<number>();
  for (const group of groups) {
    const links: LinkedWords[] = [];
    group.runs.forEach(({ link }, i) => {
      if (link === undefined || seen.has(link)) return;
      seen.add(link);
      const target = targetOf[link];
      if (target) links.push({ start: group.starts[i] ?? 0, link: target.id });
    });
    places.read(group.text, group, links);
  }
  return places;
};

/**
 * Looks for keywords, and holds them to the limits a person set; the links that stand there count too.
 *
 * @returns how many words the article has
 */
export const lookForKeywords = (sight: Sight): number => {
  const { reader, writer, keywords, choices, finds, targets, placingOf } = sight;
  const places = readArticle(sight);

  const stretches = new Map<Group, ReturnType<typeof filledStretches>>();
  /** Whether a site's generator fills in what stands there. */
  const isFilledIn = (group: Group, start: number, end: number): boolean => {
    let found = stretches.get(group);
    if (!found) stretches.set(group, (found = filledStretches(group.text)));
    return found.some(([from, to]) => start < to && end > from);
  };
  const allowed = new Map<Keyword, boolean>();
  /** Whether a keyword may be linked in this article at all. */
  const isAllowed = (keyword: Keyword): boolean => {
    let isFit = allowed.get(keyword);
    if (isFit === undefined) {
      const link = reader.linkOf(keyword.link);
      const placing = link && placingOf(link);
      isFit =
        placing !== undefined &&
        !('refused' in placing) &&
        sight.isWanted('keyword', keywordKey(keyword)) &&
        // Its merchant wants its name to be read in what is linked.
        keyword.text.toLowerCase().includes(placing.name.toLowerCase());
      allowed.set(keyword, isFit);
    }
    return isFit;
  };
  const disclosures = new Map<Group, boolean>();
  /** What says why the links are there has none itself. */
  const isDisclosure = (group: Group): boolean => {
    let found = disclosures.get(group);
    if (found === undefined) {
      const own = choices.disclosure;
      found = isDisclosing(group.text) || (own !== '' && group.text.includes(own));
      disclosures.set(group, found);
    }
    return found;
  };

  const link = (
    keyword: Keyword,
    { text: group, start, end, keywords: found }: KeywordPlace<Group>,
  ): Linked => {
    if (!isAllowed(keyword)) return 'not this';
    const place = runWith(group, start, end);
    if (!place || isFilledIn(group, start, end) || isDisclosure(group)) return 'not here';
    const { run, at: inRun } = place;
    if (run.where !== 'free' && !(run.where === 'heading' && choices.headings)) return 'not here';
    const isHtml = run.isHtml ?? false;
    const range = { start: sourceAt(run, inRun), end: sourceAt(run, inRun + end - start) };
    const beside = run.text.charAt(inRun - 1) + run.text.charAt(inRun + end - start);
    if (!writer.mayStand(range, isHtml, beside)) return 'not here';
    const to = reader.linkOf(keyword.link);
    const placing = to && placingOf(to);
    if (!placing || 'refused' in placing) return 'not this';
    finds.push({
      ...range,
      kind: 'keyword',
      link: to.id,
      others: found.flatMap((other) => {
        const id = keywords[other]?.link;
        return id === undefined || id === to.id ? [] : [id];
      }),
      was: keyword.text,
      key: keywordKey(keyword),
      edits: writer.around(range, placing.link, isHtml),
    });
    targets.push({ link: to, start: range.start, block: group.block, isKeyword: true });
    return 'linked';
  };
  while (places.step(link));
  return places.words;
};
