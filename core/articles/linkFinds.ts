import type { Link } from '#core/catalogue';
import type { Find, FindKind } from './find.ts';
import type { Meaning } from './meaning.ts';
import type { ArticleLink } from './parts.ts';
import type { Sight } from './sight.ts';
import { isDefinition, keyOf } from './sight.ts';

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

const longestShown = 300;

/** What could be better about a link that stands there: nothing, one thing, or its words besides. */
const findsOfLink = (sight: Sight, link: ArticleLink, meaning: Meaning, text: string): Find[] => {
  const { reader, writer } = sight;
  const base = { start: link.start, end: link.end, edits: [] };
  const { address } = link;
  const short = address.length > longestShown ? `${address.slice(0, longestShown - 1)}…` : address;
  /** What a person has to do. */
  const byHand = (kind: FindKind, was: string, to: string, what: string): Find => ({
    ...base,
    kind,
    was,
    ...(to !== '' && { link: to }),
    key: keyOf(kind, to, what),
  });
  /** It becomes another link, or the same as its merchant wants it. */
  const becomes = (kind: FindKind, to: Link, was: string, others: readonly Link[] = []): Find => {
    const placing = sight.placingOf(to);
    if ('refused' in placing) return byHand('rule', placing.refused, to.id, address);
    return {
      ...byHand(kind, was, to.id, address),
      others: others.map(({ id }) => id),
      edits: writer.retarget(link, { ...placing.link, text: text || placing.link.text }),
    };
  };
  switch (meaning.kind) {
    case 'other':
      return [];
    case 'not joined': {
      const { name, state, id } = meaning.program;
      const was = `${name} is ${state}: ${short} earns nothing.`;
      return [{ ...base, kind: 'not joined', was, key: keyOf('not joined', id, address) }];
    }
    case 'nowhere':
      return [byHand('nowhere', `No link of yours is at ${short}.`, '', address)];
    case 'shop':
    case 'raw': {
      const [first, ...others] = meaning.links;
      return [
        first
          ? becomes(meaning.kind, first, short, others)
          : { ...byHand(meaning.kind, short, '', address), make: address },
      ];
    }
    case 'ours': {
      const { link: ours, isShort, source } = meaning;
      const { id } = ours;
      const ended = reader.ended(ours);
      if (ended)
        return [ended.to ? becomes('ended', ended.to, ended.says) : byHand('ended', ended.says, id, '')];
      const dead = reader.register.dead.get(id);
      if (dead !== undefined) return [byHand('dead', dead, id, dead)];
      const forbidden = reader.forbidden(ours, isShort);
      if (forbidden !== undefined) return [becomes('rule', ours, forbidden)];
      const placing = reader.placing(ours, source);
      if ('refused' in placing) return [byHand('rule', placing.refused, id, '')];
      const { name } = placing;
      const lacksName =
        name !== '' && text !== '' && !isDefinition(link) && !text.toLowerCase().includes(name.toLowerCase());
      const because = placing.restrictions.find(({ what }) => what === 'name')?.because ?? '';
      const marked = writer.mark(link, { ...placing.link, address, text: text || placing.link.text });
      return [
        ...(marked ? [{ ...byHand('marks', marked.was, id, marked.was), edits: marked.edits }] : []),
        ...(lacksName ? [byHand('name', because, id, text)] : []),
      ];
    }
  }
};

/**
 * Looks at the links that stand in an article: what each is, what it leads to once all is accepted, and what could be better.
 *
 * @returns those of ours, in their order, as they are now
 */
export const lookAtLinks = (sight: Sight): PlacedHere[] => {
  const { reader, parts, texts, finds, targets, targetOf } = sight;
  const placed: PlacedHere[] = [];
  parts.links.forEach((link, i) => {
    const text = texts[i] ?? '';
    const meaning = reader.meaning(link.address);
    const now = meaning.kind === 'ours' ? meaning.link : undefined;
    const isReference = link.written.as === 'reference';
    if (meaning.kind === 'ours' && !isDefinition(link))
      placed.push({ link: meaning.link.id, source: meaning.source, text, start: link.start });
    const found = isReference
      ? []
      : findsOfLink(sight, link, meaning, text).filter(({ kind, key }) => sight.isWanted(kind, key));
    finds.push(...found);
    const becomes = found.find(({ edits }) => edits.length > 0)?.link;
    // What a definition becomes, what refers to it becomes too.
    const referred = isReference && 'links' in meaning ? meaning.links[0] : undefined;
    const leads = becomes === undefined ? (now ?? referred) : reader.linkOf(becomes);
    targetOf[i] = leads;
    if (leads && !isDefinition(link))
      targets.push({ link: leads, start: link.start, block: link.block, isKeyword: false });
  });
  return placed;
};
