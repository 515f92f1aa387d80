import { disclosureToSay } from './disclosed.ts';
import type { Group } from './groups.ts';
import { filledStretches, runWith } from './groups.ts';
import type { Keyword } from './keywords.ts';
import { sourceAt } from './ranges.ts';
import type { Sight } from './sight.ts';
import { isDefinition, keyOf } from './sight.ts';
import { foldWord } from './wordScan.ts';

const keywordKey = ({ link, text }: Keyword): string => keyOf('keyword', link, foldWord(text));

/** The place of the first number behind another in a sorted list. */
const firstAfter = (sorted: readonly number[], at: number): number => {
  let [low, high] = [0, sorted.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((sorted[middle] ?? 0) <= at) low = middle + 1;
    else high = middle;
  }
  return low;
};
/** True where one of a sorted list is nearer than so much. */
const isNear = (sorted: readonly number[], at: number, apart: number): boolean => {
  const after = firstAfter(sorted, at);
  return at - (sorted[after - 1] ?? -Infinity) < apart || (sorted[after] ?? Infinity) - at < apart;
};

/** How often each link and each keyword is linked, and where. */
interface Counts {
  /** Of a link: how many, and after how many words. */
  readonly ofLink: (link: string) => { count: number; readonly at: number[] };
  readonly ofKeyword: (keyword: Keyword) => number;
  readonly countKeyword: (keyword: Keyword) => void;
  /** How many links keywords have made in all. */
  readonly made: () => number;
}

/** Counts what is linked there already. */
const countLinked = ({ parts, texts, targetOf, keywords, finder }: Sight): Counts => {
  const links = new Map<string, { count: number; readonly at: number[] }>();
  const perKeyword = new Int32Array(keywords.length);
  let made = 0;
  const counts: Counts = {
    ofLink: (link) => {
      let found = links.get(link);
      if (!found) links.set(link, (found = { count: 0, at: [] }));
      return found;
    },
    ofKeyword: ({ counter }) => perKeyword[counter] ?? 0,
    countKeyword: (keyword) => {
      perKeyword[keyword.counter] = counts.ofKeyword(keyword) + 1;
      made += 1;
    },
    made: () => made,
  };
  parts.links.forEach((link, i) => {
    const target = targetOf[i];
    if (!target || isDefinition(link)) return;
    counts.ofLink(target.id).count += 1;
    // A link whose words are a keyword of its own was made by it, or might have been.
    const same = finder.whole(texts[i] ?? '').find((each) => keywords[each]?.link === target.id);
    const keyword = same === undefined ? undefined : keywords[same];
    if (keyword) counts.countKeyword(keyword);
  });
  return counts;
};

/** Keywords as they are read, in lists beside each other: of a long article there are tens of thousands. */
interface ReadKeywords {
  readonly groups: Group[];
  readonly wordsBefore: number[];
  readonly starts: number[];
  readonly ends: number[];
  readonly keywords: (readonly number[])[];
}

/** Reads all words once: where keywords are, and after how many words each link that stands there begins. */
const readWords = (
  { groups, finder, targetOf }: Sight,
  counts: Counts,
): { readonly read: ReadKeywords; readonly words: number } => {
  const read: ReadKeywords = { groups: [], wordsBefore: [], starts: [], ends: [], keywords: [] };
  const seen = new Set<number>();
  let words = 0;
  for (const group of groups) {
    const before = words;
    /** The next run whose beginning was not passed yet. */
    let next = 0;
    const passRuns = (until: number, wordsBefore: number) => {
      for (; next < group.runs.length && (group.starts[next] ?? 0) <= until; next++) {
        const link = group.runs[next]?.link;
        if (link === undefined || seen.has(link)) continue;
        seen.add(link);
        const target = targetOf[link];
        if (target) counts.ofLink(target.id).at.push(before + wordsBefore);
      }
    };
    words += finder.scan(
      group.text,
      (start, end, found, wordsBefore) => {
        read.groups.push(group);
        read.wordsBefore.push(before + wordsBefore);
        read.starts.push(start);
        read.ends.push(end);
        read.keywords.push(found);
      },
      passRuns,
    );
    passRuns(Infinity, words - before);
  }
  return { read, words };
};

/** Longer blocks say more than why the links are there. */
const longestDisclosure = 1500;

/**
 * Looks for keywords, and holds them to the limits a person set; the links that stand there count too.
 *
 * @returns how many words the article has
 */
export const lookForKeywords = (sight: Sight): number => {
  const { reader, writer, keywords, choices, finds, targets, placingOf } = sight;
  const counts = countLinked(sight);
  const { read, words } = readWords(sight, counts);

  const stretches = new Map<Group, ReturnType<typeof filledStretches>>();
  /** Whether a site's generator fills in what stands there. */
  const isFilledIn = (group: Group, start: number, end: number): boolean => {
    let found = stretches.get(group);
    if (!found) stretches.set(group, (found = filledStretches(group.text)));
    return found.some(([from, to]) => start < to && end > from);
  };
  /** By keyword: 1 where it may be linked here, 2 where it may not; 0 until that is known. */
  const allowed = new Uint8Array(keywords.length);
  const isAllowed = (index: number, keyword: Keyword): boolean => {
    if (allowed[index] === 0) {
      const link = reader.linkOf(keyword.link);
      const placing = link && placingOf(link);
      const isFit =
        placing !== undefined &&
        !('refused' in placing) &&
        sight.isWanted('keyword', keywordKey(keyword)) &&
        // Its merchant wants its name to be read in what is linked.
        keyword.text.toLowerCase().includes(placing.name.toLowerCase());
      allowed[index] = isFit ? 1 : 2;
    }
    return allowed[index] === 1;
  };
  let firstLink = targets.reduce((first, { start }) => Math.min(first, start), Infinity);
  const disclosures = new Map<Group, boolean>();
  /** What says why the links are there has none itself; it is before the first of them. */
  const isDisclosure = (group: Group): boolean => {
    if ((group.runs[0]?.base ?? 0) > firstLink || group.text.length > longestDisclosure) return false;
    let found = disclosures.get(group);
    if (found === undefined)
      disclosures.set(group, (found = disclosureToSay(group.text, choices.disclosure, []) === ''));
    return found;
  };

  for (let i = 0; i < read.groups.length && counts.made() < choices.perArticle; i++) {
    const [group, found = [], at = 0] = [read.groups[i], read.keywords[i], read.wordsBefore[i]];
    for (const index of found) {
      const keyword = keywords[index];
      if (!group || !keyword || counts.ofKeyword(keyword) >= choices.perKeyword) continue;
      const linked = counts.ofLink(keyword.link);
      if (linked.count >= choices.perLink || isNear(linked.at, at, choices.apart)) continue;
      if (!isAllowed(index, keyword)) continue;
      const [start = 0, end = 0] = [read.starts[i], read.ends[i]];
      const place = runWith(group, start, end);
      if (!place || isFilledIn(group, start, end) || isDisclosure(group)) break;
      const { run, at: inRun } = place;
      if (run.where !== 'free' && !(run.where === 'heading' && choices.headings)) break;
      const isHtml = run.isHtml ?? false;
      const range = { start: sourceAt(run, inRun), end: sourceAt(run, inRun + end - start) };
      const beside = run.text.charAt(inRun - 1) + run.text.charAt(inRun + end - start);
      if (!writer.mayStand(range, isHtml, beside)) break;
      const link = reader.linkOf(keyword.link);
      const placing = link && placingOf(link);
      if (!placing || 'refused' in placing) continue;
      finds.push({
        ...range,
        kind: 'keyword',
        link: link.id,
        others: found.flatMap((other) => {
          const id = keywords[other]?.link;
          return id === undefined || id === link.id ? [] : [id];
        }),
        was: keyword.text,
        key: keywordKey(keyword),
        edits: writer.around(range, placing.link, isHtml),
      });
      linked.count += 1;
      linked.at.splice(firstAfter(linked.at, at), 0, at);
      counts.countKeyword(keyword);
      firstLink = Math.min(firstLink, range.start);
      targets.push({ link, start: range.start, block: group.block, isKeyword: true });
      break;
    }
  }
  return words;
};
