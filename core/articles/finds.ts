import type { ArticleChoices, Link, Product } from '#core/catalogue';
import { dayIn } from '#core/hop';
import { anchorOf } from '#core/placing';
import { disclosureToSay } from './disclosed.ts';
import type { Find, FindKind } from './find.ts';
import type { Group } from './groups.ts';
import { filledStretches, groupsOf, runWith } from './groups.ts';
import type { Keyword, KeywordFinder } from './keywords.ts';
import type { LinkReader, Meaning } from './meaning.ts';
import type { ArticleLink, ArticleParts, ArticlePicture, Run } from './parts.ts';
import { staleTexts } from './staleTexts.ts';
import { sourceAt } from './ranges.ts';
import type { ArticleWriter } from './writer.ts';
import { foldWord } from './wordScan.ts';

/** What is looked for in an article. */
export interface Looking {
  readonly reader: LinkReader;
  readonly keywords: readonly Keyword[];
  readonly finder: KeywordFinder;
  readonly choices: ArticleChoices;
  readonly productsOf: ReadonlyMap<string, readonly Product[]>;
}

/** What was found in an article. */
export interface ArticleFinds {
  readonly finds: readonly Find[];
  /** How many words it has. */
  readonly words: number;
  /** The links of ours that stand in it, in their order, as they are now. */
  readonly placed: readonly PlacedHere[];
}
/** A link of ours that stands in an article. */
export interface PlacedHere {
  readonly link: string;
  /** Where it says its visitors come from; empty for nowhere. */
  readonly source: string;
  /** What is linked. */
  readonly text: string;
  /** Where it stands. */
  readonly start: number;
}

/** A link as it stands, or as it stands once what was found is accepted. */
interface Target {
  readonly link: Link;
  readonly start: number;
  readonly block: number;
  readonly isKeyword: boolean;
}

const keyOf = (kind: FindKind, link: string, what: string): string =>
  `${kind}|${link}|${what}`.slice(0, 4200);

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

/** The words of each link. */
const linkTexts = (links: readonly ArticleLink[], runs: readonly Run[]): string[] => {
  const texts = links.map(() => '');
  for (const { link, text } of runs) if (link !== undefined && texts[link] !== undefined) texts[link] += text;
  return texts.map((text) => text.replace(/\s+/g, ' ').trim());
};

/** True for the words of a definition, which is read by nobody. */
const isDefinition = ({ written }: ArticleLink): boolean =>
  written.as === 'markdown' && written.text === undefined && !written.bare;

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
  const { reader, keywords, finder, choices, productsOf } = looking;
  const { links, runs, pictures, blocks } = parts;
  const placings = new Map<string, ReturnType<LinkReader['placing']>>();
  /** How a link is placed in this article. */
  const placingOf = (link: Link) => {
    let found = placings.get(link.id);
    if (!found) placings.set(link.id, (found = reader.placing(link, source)));
    return found;
  };
  const texts = linkTexts(links, runs);
  const groups = groupsOf(parts);
  const finds: Find[] = [];
  const targets: Target[] = [];
  const placed: PlacedHere[] = [];
  /** What each link of the article leads to once all is accepted. */
  const targetOf: (Link | undefined)[] = [];
  const isWanted = (kind: FindKind) => !choices.without.includes(kind);
  const isNever = new Set(choices.never);
  const add = (find: Find) => {
    if (isWanted(find.kind) && !isNever.has(find.key)) finds.push(find);
  };

  // Links that stand there.
  const readLink = (link: ArticleLink, i: number) => {
    const text = texts[i] ?? '';
    const meaning = reader.meaning(link.address);
    const now = meaning.kind === 'ours' ? meaning.link : undefined;
    if (meaning.kind === 'ours' && !isDefinition(link))
      placed.push({ link: meaning.link.id, source: meaning.source, text, start: link.start });
    const found = link.written.as === 'reference' ? undefined : findOfLink(link, meaning, text);
    const isTaken = found !== undefined && isWanted(found.kind) && !isNever.has(found.key);
    if (isTaken) finds.push(found);
    const target =
      isTaken && found.edits.length > 0 && found.link !== undefined ? reader.linkOf(found.link) : now;
    // The links of a definition are where it is referred to.
    targetOf[i] =
      link.written.as === 'reference' && !now && 'links' in meaning && meaning.links[0]
        ? meaning.links[0]
        : target;
    const leads = targetOf[i];
    if (leads && !isDefinition(link))
      targets.push({ link: leads, start: link.start, block: link.block, isKeyword: false });
  };
  const findOfLink = (link: ArticleLink, meaning: Meaning, text: string): Find | undefined => {
    const base = { start: link.start, end: link.end, edits: [] };
    const { address } = link;
    const short = address.length > 300 ? `${address.slice(0, 299)}…` : address;
    /** It becomes another link, or the same as its merchant wants it. */
    const becomes = (kind: FindKind, to: Link, was: string, others: readonly Link[] = []): Find => {
      const placing = placingOf(to);
      const key = keyOf(kind, to.id, address);
      if ('refused' in placing) return { ...base, kind: 'rule', was: placing.refused, key, link: to.id };
      return {
        ...base,
        kind,
        link: to.id,
        others: others.map(({ id }) => id),
        was,
        key,
        edits: writer.retarget(link, { ...placing.link, text: text || placing.link.text }),
      };
    };
    switch (meaning.kind) {
      case 'other':
        return undefined;
      case 'not joined':
        return {
          ...base,
          kind: 'not joined',
          was: `${meaning.program.name} is ${meaning.program.state}: ${short} earns nothing.`,
          key: keyOf('not joined', meaning.program.id, address),
        };
      case 'nowhere':
        return {
          ...base,
          kind: 'nowhere',
          was: `No link of yours is at ${short}.`,
          key: keyOf('nowhere', '', address),
        };
      case 'shop':
      case 'raw': {
        const [first, ...others] = meaning.links;
        if (first) return becomes(meaning.kind, first, short, others);
        return {
          ...base,
          kind: meaning.kind,
          make: address,
          was: short,
          key: keyOf(meaning.kind, '', address),
        };
      }
      case 'ours': {
        const { link: ours, isShort } = meaning;
        const ended = reader.ended(ours);
        if (ended?.to) return becomes('ended', ended.to, ended.says);
        if (ended)
          return { ...base, kind: 'ended', link: ours.id, was: ended.says, key: keyOf('ended', ours.id, '') };
        const dead = reader.register.dead.get(ours.id);
        if (dead !== undefined)
          return { ...base, kind: 'dead', link: ours.id, was: dead, key: keyOf('dead', ours.id, dead) };
        const forbidden = reader.forbidden(ours, isShort);
        if (forbidden !== undefined) return becomes('rule', ours, forbidden);
        const placing = reader.placing(ours, meaning.source);
        if ('refused' in placing)
          return {
            ...base,
            kind: 'rule',
            link: ours.id,
            was: placing.refused,
            key: keyOf('rule', ours.id, ''),
          };
        const { name } = placing;
        if (
          name !== '' &&
          text !== '' &&
          !isDefinition(link) &&
          !text.toLowerCase().includes(name.toLowerCase())
        )
          add({
            ...base,
            kind: 'name',
            link: ours.id,
            was: placing.restrictions.find(({ what }) => what === 'name')?.because ?? '',
            key: keyOf('name', ours.id, text),
          });
        const marked = writer.mark(link, { ...placing.link, address, text: text || placing.link.text });
        return (
          marked && {
            ...base,
            kind: 'marks',
            link: ours.id,
            ...marked,
            key: keyOf('marks', ours.id, marked.was),
          }
        );
      }
    }
  };
  links.forEach(readLink);

  // Keywords, by what is read in each block.
  let words = 0;
  /** By link: how many, and after how many words. */
  const counts = new Map<string, { count: number; at: number[] }>();
  const countOf = (link: string) => {
    let found = counts.get(link);
    if (!found) counts.set(link, (found = { count: 0, at: [] }));
    return found;
  };
  const perKeyword = new Int32Array(keywords.length);
  const madeOf = ({ counter }: Keyword): number => perKeyword[counter] ?? 0;
  let made = 0;
  const countKeyword = (keyword: Keyword) => {
    perKeyword[keyword.counter] = madeOf(keyword) + 1;
    made += 1;
  };
  links.forEach((link, i) => {
    const target = targetOf[i];
    if (!target || isDefinition(link)) return;
    countOf(target.id).count += 1;
    const same = finder.whole(texts[i] ?? '').find((each) => keywords[each]?.link === target.id);
    const keyword = keywords[same ?? -1];
    if (keyword) countKeyword(keyword);
  });
  /** Keywords as they are read; each is linked or not when all links that stand there are counted. */
  const read = {
    groups: [] as Group[],
    wordsBefore: [] as number[],
    starts: [] as number[],
    ends: [] as number[],
    keywords: [] as (readonly number[])[],
  };
  const seenLinks = new Set<number>();
  for (const group of groups) {
    const before = words;
    /** The next run whose beginning was not passed yet. */
    let next = 0;
    const passRuns = (until: number, wordsBefore: number) => {
      for (; next < group.runs.length && (group.starts[next] ?? 0) <= until; next++) {
        const link = group.runs[next]?.link;
        if (link === undefined || seenLinks.has(link)) continue;
        seenLinks.add(link);
        const target = targetOf[link];
        if (target) countOf(target.id).at.push(before + wordsBefore);
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
  const stretches = new Map<Group, ReturnType<typeof filledStretches>>();
  /** Whether a site's generator fills in what stands there. */
  const isFilledIn = (group: Group, start: number, end: number): boolean => {
    let found = stretches.get(group);
    if (!found) stretches.set(group, (found = filledStretches(group.text)));
    return found.some(([from, to]) => start < to && end > from);
  };
  /** By keyword: 1 where it may be linked here, 2 where it may not; 0 until that is known. */
  const allowed = new Uint8Array(keywords.length);
  const isAllowed = (index: number): boolean => {
    if (allowed[index] === 0) {
      const keyword = keywords[index];
      const link = keyword && reader.linkOf(keyword.link);
      const placing = link && placingOf(link);
      const isFit =
        keyword !== undefined &&
        placing !== undefined &&
        !('refused' in placing) &&
        !isNever.has(keywordKey(keyword)) &&
        // Its merchant wants its name to be read in what is linked.
        keyword.text.toLowerCase().includes(placing.name.toLowerCase());
      allowed[index] = isFit ? 1 : 2;
    }
    return allowed[index] === 1;
  };
  /** What says why the links are there has none: it is before the first of them. */
  let firstLink = Math.min(...targets.map((target) => target.start));
  const owns = new Map<Group, boolean>();
  const isOwn = (group: Group): boolean => {
    if ((group.runs[0]?.base ?? 0) > firstLink || group.text.length > 1500) return false;
    let found = owns.get(group);
    if (found === undefined)
      owns.set(group, (found = disclosureToSay(group.text, choices.disclosure, []) === ''));
    return found;
  };
  for (let i = 0; i < read.groups.length && isWanted('keyword') && made < choices.perArticle; i++) {
    const found = read.keywords[i] ?? [];
    const at = read.wordsBefore[i] ?? 0;
    for (const each of found) {
      const keyword = keywords[each];
      if (!keyword || madeOf(keyword) >= choices.perKeyword) continue;
      const { count, at: others } = countOf(keyword.link);
      if (count >= choices.perLink || isNear(others, at, choices.apart) || !isAllowed(each)) continue;
      const group = read.groups[i];
      if (!group) break;
      const [start, end] = [read.starts[i] ?? 0, read.ends[i] ?? 0];
      const place = runWith(group, start, end);
      if (!place) break;
      const { run, at: inRun } = place;
      if (run.where !== 'free' && !(run.where === 'heading' && choices.headings)) break;
      if (isFilledIn(group, start, end) || isOwn(group)) break;
      const link = reader.linkOf(keyword.link);
      const placing = link && placingOf(link);
      if (!placing || 'refused' in placing) continue;
      const [from, to] = [sourceAt(run, inRun), sourceAt(run, inRun + end - start)];
      const beside = run.text.charAt(inRun - 1) + run.text.charAt(inRun + end - start);
      if (!writer.mayStand({ start: from, end: to }, run.isHtml ?? false, beside)) break;
      finds.push({
        kind: 'keyword',
        start: from,
        end: to,
        link: link.id,
        others: found.flatMap((other) => {
          const id = keywords[other]?.link;
          return id === undefined || id === link.id ? [] : [id];
        }),
        was: keyword.text,
        key: keywordKey(keyword),
        edits: writer.around({ start: from, end: to }, placing.link, run.isHtml ?? false),
      });
      countOf(link.id).count += 1;
      others.splice(firstAfter(others, at), 0, at);
      countKeyword(keyword);
      firstLink = Math.min(firstLink, from);
      targets.push({ link, start: from, block: group.block, isKeyword: true });
      break;
    }
  }

  // Pictures beside what is linked, and linked pictures that say nothing.
  const inBlock = new Map<number, Target[]>();
  for (const target of targets) {
    const own = inBlock.get(target.block);
    if (own) own.push(target);
    else inBlock.set(target.block, [target]);
  }
  const worded = groups.filter(({ text }) => /[\p{Letter}\p{Number}]/u.test(text));
  const wordsIn = new Set(worded.map(({ block }) => block));
  /** The first words behind the picture that is looked at; pictures stand in their order. */
  let behindAt = 0;
  const besides = ({ block, start }: ArticlePicture): Target | undefined => {
    const near = inBlock.get(block);
    if (near)
      return near.toSorted((a, b) => Number(a.isKeyword) - Number(b.isKeyword) || a.start - b.start)[0];
    if (wordsIn.has(block)) return undefined;
    // Alone in its block, it belongs to the words behind it.
    while (worded[behindAt] && (worded[behindAt]?.runs[0]?.base ?? 0) <= start) behindAt += 1;
    const next = worded[behindAt];
    const behind = next && inBlock.get(next.block);
    // What is linked there goes before what could be.
    const linked = behind?.filter(({ isKeyword }) => !isKeyword) ?? [];
    const those = linked.length > 0 ? linked : (behind ?? []);
    return new Set(those.map(({ link }) => link.id)).size === 1 ? those[0] : undefined;
  };
  const noWords = (alt: string | undefined) => (alt ?? '').trim() === '';
  const altOf = (link: Link) => {
    const placing = placingOf(link);
    return anchorOf(link, 'refused' in placing ? '' : placing.name);
  };
  const firstPictures: Target[] = [];
  const spoken = new Set<number>();
  for (const picture of pictures)
    if (picture.link !== undefined && !noWords(picture.alt)) spoken.add(picture.link);
  for (const picture of pictures) {
    if (picture.link !== undefined) {
      const target = targetOf[picture.link];
      if (!target || (texts[picture.link] ?? '') !== '' || spoken.has(picture.link)) continue;
      // One of several is enough: together they are one link.
      spoken.add(picture.link);
      add({
        kind: 'alt',
        start: picture.start,
        end: picture.end,
        link: target.id,
        was: 'A linked picture without words: who does not see it hears nothing.',
        key: keyOf('alt', target.id, String(picture.start)),
        edits: writer.alt(picture, altOf(target)),
      });
      continue;
    }
    if (picture.closed || isSmall(picture)) continue;
    if (!writer.mayStand(picture, picture.written.as === 'tag')) continue;
    const beside = besides(picture);
    if (!beside) continue;
    const { link } = beside;
    const placing = placingOf(link);
    if ('refused' in placing) continue;
    const key = keyOf('picture', link.id, srcOf(picture));
    if (!isWanted('picture') || isNever.has(key)) continue;
    const isSilent = noWords(picture.alt);
    finds.push({
      kind: 'picture',
      start: picture.start,
      end: picture.end,
      link: link.id,
      was: isSilent ? 'Not linked, and has no alt text.' : 'Stands beside the link and is not linked.',
      key,
      edits: [
        ...writer.around(picture, placing.link, picture.written.as === 'tag'),
        ...(isSilent ? writer.alt(picture, altOf(link)) : []),
      ],
    });
    firstPictures.push({ link, start: picture.start, block: picture.block, isKeyword: false });
  }

  // What says why the links are there.
  const all = [...targets, ...firstPictures].toSorted((a, b) => a.start - b.start);
  const [first] = all;
  if (first) {
    const before = groups
      .filter(({ runs: own }) => (own[0]?.base ?? 0) < first.start)
      .map(({ text }) => text)
      .join('\n');
    const asked = all.map(({ link }) => {
      const placing = placingOf(link);
      return 'refused' in placing ? '' : placing.disclosure;
    });
    const say = disclosureToSay(before, choices.disclosure, asked);
    if (say !== '') {
      const group = groups.find(
        ({ block, runs: own }) => block === first.block && (own[0]?.base ?? 0) <= first.start,
      );
      const beginning = group?.runs.find(({ where }) => where !== 'closed')?.base;
      const at = blocks[first.block]?.before ?? Math.min(beginning ?? first.start, first.start);
      add({
        kind: 'disclosure',
        start: at,
        end: at,
        was: say,
        key: keyOf('disclosure', '', ''),
        edits: at > (parts.openFrom ?? Infinity) ? [] : writer.paragraph(at, say),
      });
    }
  }

  // What is read of products and is no longer so.
  for (const stale of staleTexts(groups, all, productsOf, dayIn('UTC', reader.register.now)))
    add({
      ...stale,
      edits: stale.edits.map(({ start, end, text }) => ({ start, end, text: writer.text(text) })),
    });

  return {
    finds: finds.toSorted((a, b) => a.start - b.start || b.end - a.end),
    words,
    placed,
  };
};

/** True for a picture that is a sign among the words. */
const isSmall = ({ written }: ArticlePicture): boolean =>
  written.as === 'tag' &&
  ['width', 'height'].some((name) => {
    const value = Number(written.tag.attributes.get(name)?.value ?? NaN);
    return value > 0 && value < 40;
  });
const srcOf = ({ written, start }: ArticlePicture): string =>
  written.as === 'tag' ? (written.tag.attributes.get('src')?.value.slice(0, 300) ?? '') : String(start);
