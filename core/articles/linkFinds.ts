import type { Link } from '#core/catalogue';
import { faultOf } from './faults.ts';
import type { Find, FindKind } from './find.ts';
import type { Meaning } from './meaning.ts';
import type { ArticleLink } from './parts.ts';
import type { Sight } from './sight.ts';
import { isDefinition, keyOf } from './sight.ts';

/** An address of ours, or one that a link of ours may take the place of, as it stands in an article. */
export interface Standing {
  readonly address: string;
  /** The link it is, or may become first; undefined for none. */
  readonly link: string | undefined;
  /** What its marks lack, as a sentence; empty where nothing. */
  readonly marks: string;
}

/** What could be better about a link that stands there: nothing, one thing, or its words besides. */
const findsOfLink = (sight: Sight, link: ArticleLink, meaning: Meaning, text: string): Find[] => {
  const { reader, writer } = sight;
  const base = { start: link.start, end: link.end, edits: [] };
  const { address } = link;
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
  const fault = faultOf(reader, address, meaning);
  if (fault) {
    const { kind, says, to } = fault;
    if (meaning.kind === 'shop' || meaning.kind === 'raw') {
      const [, ...others] = meaning.links;
      return [to ? becomes(kind, to, says, others) : { ...byHand(kind, says, '', address), make: address }];
    }
    if (to) return [becomes(kind, to, says)];
    switch (meaning.kind) {
      case 'not joined':
        return [{ ...base, kind, was: says, key: keyOf(kind, meaning.program.id, address) }];
      case 'ours':
        return [byHand(kind, says, meaning.link.id, kind === 'dead' ? says : '')];
      default:
        return [byHand(kind, says, '', address)];
    }
  }
  if (meaning.kind !== 'ours') return [];
  const { link: ours, source } = meaning;
  const { id } = ours;
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
};

/**
 * Looks at the links that stand in an article: what each is, what it leads to once all is accepted, and what could be better.
 *
 * @returns what of it is ours or may become so, in its order, as it is now
 */
export const lookAtLinks = (sight: Sight): Standing[] => {
  const { reader, parts, texts, finds, targets, targetOf } = sight;
  const standing: Standing[] = [];
  parts.links.forEach((link, i) => {
    const text = texts[i] ?? '';
    const meaning = reader.meaning(link.address);
    const now = meaning.kind === 'ours' ? meaning.link : undefined;
    const isReference = link.written.as === 'reference';
    const found = isReference
      ? []
      : findsOfLink(sight, link, meaning, text).filter(({ kind, key }) => sight.isWanted(kind, key));
    finds.push(...found);
    if (meaning.kind !== 'other' && !isDefinition(link))
      standing.push({
        address: link.address,
        link: now?.id ?? ('links' in meaning ? meaning.links[0]?.id : undefined),
        marks: found.find(({ kind }) => kind === 'marks')?.was ?? '',
      });
    const becomes = found.find(({ edits }) => edits.length > 0)?.link;
    // What a definition becomes, what refers to it becomes too.
    const referred = isReference && 'links' in meaning ? meaning.links[0] : undefined;
    const leads = becomes === undefined ? (now ?? referred) : reader.linkOf(becomes);
    targetOf[i] = leads;
    if (leads && !isDefinition(link))
      targets.push({ link: leads, start: link.start, block: link.block, isKeyword: false });
  });
  return standing;
};
