import type { DefaultTreeAdapterMap } from 'parse5';
import { defaultTreeAdapter, parse, parseFragment } from 'parse5';
import { blockElements, closedElements, headingElements, partingElements } from '#core/keywords';
import { decodeReferences } from './characterReferences.ts';
import type {
  ArticleLink,
  ArticleParts,
  ArticlePicture,
  Attribute,
  Block,
  Run,
  Tag,
  Where,
} from './parts.ts';
import { resolved } from './addresses.ts';

type Node = DefaultTreeAdapterMap['childNode'];
type Element = DefaultTreeAdapterMap['element'];

const names = (list: string): ReadonlySet<string> => new Set(list.split(' '));
const headings = names(headingElements);
const blocksOfHtml = names(blockElements);
const parting = names(partingElements);
/** Elements in which nothing is words of an article. */
export const closedNames = names(closedElements);
/** Elements that go on in the next block where they were not ended (HTML standard, §13.2.4.3, list of active formatting elements). */
const formatting: ReadonlySet<string> = new Set(
  'a b big code em font i nobr s small strike strong tt u'.split(' '),
);
/** Blocks before which a paragraph may be put, as no paragraph or list has to be cut for it. */
const topBlocks: ReadonlySet<string> = new Set(
  'blockquote center dir dl figure h1 h2 h3 h4 h5 h6 menu ol p pre table ul'.split(' '),
);

export const tagOf = (source: string, element: Element, base: number): Tag | undefined => {
  const location = element.sourceCodeLocation;
  const start = location?.startTag ?? location;
  if (!start || source[start.startOffset] !== '<') return undefined;
  const attributes = new Map<string, Attribute>();
  for (const { name, value } of element.attrs) {
    const at = location?.attrs?.[name];
    if (at) attributes.set(name, { start: at.startOffset + base, end: at.endOffset + base, value });
  }
  return { start: start.startOffset + base, end: start.endOffset + base, attributes };
};

/** Whether somebody said of an element that it is edited by readers, or is to be left alone. */
const isLeft = (element: Element): boolean =>
  element.attrs.some(
    ({ name, value }) =>
      (name === 'contenteditable' && value.toLowerCase() !== 'false') ||
      (name === 'data-fernhop' && value === 'leave'),
  );

const isBlock = (node: Node): boolean =>
  defaultTreeAdapter.isElementNode(node) && blocksOfHtml.has(node.tagName);

/** What is known of the place that is read. */
interface Place {
  readonly where: Where;
  readonly link: number | undefined;
  readonly block: number;
  /** Top block it stands in. */
  readonly top: number | undefined;
  /** End of what a person wrote around it; a child outside of it was moved by the browser. */
  readonly from: number;
  readonly to: number;
}

/** Places of what stands in a block with blocks in it: words and pictures behind one of those are a block of their own. */
const placesBehind = (children: readonly Node[], inside: Place, blocks: Block[]): Place[] => {
  let place = inside;
  let isBehind = false;
  return children.map((child) => {
    const isBlank = defaultTreeAdapter.isTextNode(child) && child.value.trim() === '';
    if (isBlock(child)) isBehind = true;
    else if (isBehind && !isBlank) {
      place = { ...inside, block: blocks.push({ before: inside.top }) - 1 };
      isBehind = false;
    }
    return place;
  });
};

/** What is read is put in here, so that a text of several pieces has one list. */
export interface Reading {
  readonly runs: Run[];
  readonly links: ArticleLink[];
  readonly pictures: ArticlePicture[];
  readonly blocks: Block[];
  readonly left: Set<string>;
  openFrom: number | undefined;
}
export const emptyReading = (): Reading => ({
  runs: [],
  links: [],
  pictures: [],
  blocks: [],
  left: new Set(),
  openFrom: undefined,
});

const moved =
  'Some words stand where a browser moves them elsewhere, as in a table outside its cells. They are left alone.';

/** Reads nodes of a tree in the order in which they stand. */
const readNodes = (
  source: string,
  nodes: readonly Node[],
  reading: Reading,
  first: Place,
  base: number,
  baseAddress: string | undefined,
): void => {
  const { runs, links, pictures, blocks, left } = reading;
  /** An element whose start tag is read again by the browser, as after a paragraph it was not closed in, is one link. */
  const linkAt = new Map<number, number>();
  // A stack of its own: articles may be nested deeper than calls may be.
  const waiting: [node: Node, place: Place][] = nodes.toReversed().map((node) => [node, first]);
  for (let next = waiting.pop(); next; next = waiting.pop()) {
    const [node, place] = next;
    if (defaultTreeAdapter.isTextNode(node)) {
      const at = node.sourceCodeLocation;
      if (!at) continue;
      const { startOffset, endOffset } = at;
      const { value } = node;
      const { where, link, block } = place;
      const run = { text: value, base: startOffset + base, at: undefined, where, link, block, isHtml: true };
      const isInside = startOffset >= place.from && endOffset <= place.to;
      // What is decoded is shorter than what it stands as: of the same length, it stands there letter by letter.
      // Its ends are compared, as the parser tells a wrong place for a reference behind white space at the beginning of a page.
      if (
        isInside &&
        value.length === endOffset - startOffset &&
        value[0] === source[startOffset] &&
        value.at(-1) === source[endOffset - 1]
      ) {
        runs.push(run);
        continue;
      }
      const raw = source.slice(startOffset, endOffset);
      let rest = value;
      if (startOffset >= place.from && startOffset <= place.to) {
        // A tag that means nothing where it is may stand between; what comes behind a table's was moved here by the browser.
        for (const { index, 0: piece } of raw.matchAll(/(?:<(?![A-Za-z/])|[^<])+|<[^>]*>?/g)) {
          if (/^<table/i.test(piece)) break;
          if (/^<[A-Za-z/]/.test(piece)) continue;
          // White space at the beginning of a page is dropped.
          const dropped = /^\s/.test(rest) ? 0 : piece.length - piece.trimStart().length;
          const mapped = decodeReferences(piece.slice(dropped), startOffset + index + dropped + base);
          if (!rest.startsWith(mapped.text)) break;
          runs.push({ ...run, ...mapped });
          rest = rest.slice(mapped.text.length);
        }
      }
      if (rest === '') continue;
      if (where !== 'closed' && /\S/.test(rest)) left.add(moved);
      runs.push({ ...run, text: rest, where: 'closed' });
      continue;
    }
    if (!defaultTreeAdapter.isElementNode(node)) continue;
    const location = node.sourceCodeLocation;
    const { tagName } = node;
    const isHtml = node.namespaceURI === 'http://www.w3.org/1999/xhtml';
    let { where, link, block, top, from, to } = place;
    if (where !== 'closed' && (!isHtml || closedNames.has(tagName) || isLeft(node))) where = 'closed';
    if (where === 'free' && headings.has(tagName)) where = 'heading';
    if (location) {
      if (location.startOffset >= to) where = 'closed';
      // One that begins before what it stands in was open there and is opened again, as `<b>` in the next paragraph.
      if (location.startOffset >= from) {
        from = location.startOffset;
        to = Math.max(location.endOffset, location.startTag?.endOffset ?? 0);
      }
    }
    if (location && formatting.has(tagName) && !location.endTag) {
      const start = location.startOffset + base;
      reading.openFrom = Math.min(reading.openFrom ?? start, start);
    }
    if (isHtml && blocksOfHtml.has(tagName)) {
      block = blocks.length;
      if (top === undefined && location && topBlocks.has(tagName)) top = location.startOffset + base;
      blocks.push({ before: top });
    }
    if (isHtml && (tagName === 'a' || tagName === 'area')) {
      const tag = tagOf(source, node, base);
      const href = tag?.attributes.get('href');
      if (tag && href) {
        const known = linkAt.get(tag.start);
        if (known === undefined) {
          link = links.length;
          linkAt.set(tag.start, link);
          links.push({
            start: tag.start,
            end: Math.max(tag.end, (location?.endOffset ?? 0) + base),
            address: resolved(href.value, baseAddress),
            block,
            written: { as: 'tag', tag },
          });
        } else link = known;
      }
      // Nothing may be linked inside of it, even where it has no address: a link in a link ends the outer one.
      if (where !== 'closed') where = 'link';
    }
    // Words on both sides of it are not one.
    if (isHtml && parting.has(tagName))
      runs.push({ text: '\n', base: (location?.startOffset ?? 0) + base, where: 'closed', link, block });
    if (isHtml && (tagName === 'img' || tagName === 'picture')) {
      const image =
        tagName === 'img'
          ? node
          : node.childNodes.find(
              (child): child is Element => defaultTreeAdapter.isElementNode(child) && child.tagName === 'img',
            );
      const tag = image && tagOf(source, image, base);
      if (tag && location)
        pictures.push({
          start: location.startOffset + base,
          end: location.endOffset + base,
          alt: tag.attributes.get('alt')?.value,
          link,
          closed: where !== 'free' || location.startOffset < place.from || location.endOffset > place.to,
          block,
          written: { as: 'tag', tag },
        });
      continue;
    }
    if (node.childNodes.length === 0 || tagName === 'template') continue;
    const inside: Place = { where, link, block, top, from, to };
    const own = node.childNodes.some(isBlock) ? placesBehind(node.childNodes, inside, blocks) : undefined;
    /** Where the first of those that come later stands. */
    let later = Infinity;
    for (let i = node.childNodes.length - 1; i >= 0; i--) {
      const child = node.childNodes[i];
      if (!child) continue;
      const start = child.sourceCodeLocation?.startOffset ?? later;
      // What stands behind that was moved before it, as words of a table that are in no cell.
      const place = own?.[i] ?? inside;
      waiting.push([child, start > later ? { ...place, where: 'closed' } : place]);
      later = Math.min(later, start);
    }
  }
};

/** The first element of a name in a tree; undefined where there is none. */
const firstElement = (nodes: readonly Node[], name: string): Element | undefined => {
  const waiting = nodes.toReversed();
  for (let node = waiting.pop(); node; node = waiting.pop()) {
    if (!defaultTreeAdapter.isElementNode(node)) continue;
    if (node.tagName === name) return node;
    for (const child of node.childNodes.toReversed()) waiting.push(child);
  }
  return undefined;
};

const attributeOf = (element: Element | undefined, name: string): string | undefined =>
  element?.attrs.find((each) => each.name === name)?.value;

/**
 * Reads an article in HTML, a whole page or a part of one, as a browser does that runs no scripts (HTML standard, §13.2, by
 * parse5); `<template>` is left alone.
 *
 * @param page its address, where that is known: what its own base is relative to, and its links where it has none
 */
export const readHtml = (source: string, page = ''): ArticleParts => {
  if (source.includes('\0'))
    return {
      ...emptyReading(),
      left: ['It has zero characters, at which programs tell places differently. It is left whole.'],
      language: '',
    };
  const document = parse(source, { sourceCodeLocationInfo: true, scriptingEnabled: false });
  const reading = emptyReading();
  const base = /<[bB][aA][sS][eE]\b/.test(source)
    ? attributeOf(firstElement(document.childNodes, 'base'), 'href')
    : undefined;
  const own = page === '' ? undefined : page;
  readNodes(
    source,
    document.childNodes,
    reading,
    { where: 'free', link: undefined, block: -1, top: undefined, from: 0, to: source.length },
    0,
    base === undefined ? own : resolved(base, own),
  );
  const language = attributeOf(firstElement(document.childNodes, 'html'), 'lang') ?? '';
  return { ...reading, left: [...reading.left], language };
};

/** The addresses of the links of an article in HTML, in their order; whole, where its own is given. */
export const addressesIn = (source: string, page = ''): string[] =>
  readHtml(source, page).links.map(({ address }) => address);

/**
 * Reads a piece of HTML that stands in another text, and puts what it finds into what was read so far.
 *
 * @param base where it stands there
 * @param top where something can be put in before it
 */
export const readPiece = (
  piece: string,
  base: number,
  reading: Reading,
  where: Where,
  top: number | undefined,
): void => {
  const { childNodes } = parseFragment(piece, { sourceCodeLocationInfo: true, scriptingEnabled: false });
  readNodes(
    piece,
    childNodes,
    reading,
    { where, link: undefined, block: reading.blocks.length - 1, top, from: 0, to: piece.length },
    base,
    undefined,
  );
};
