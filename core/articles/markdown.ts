import type { Event, Extension, Token } from 'micromark-util-types';
import { parse, postprocess, preprocess } from 'micromark';
import { frontmatter } from 'micromark-extension-frontmatter';
import { gfm } from 'micromark-extension-gfm';
import { mdxjs } from 'micromark-extension-mdxjs';
import { isWeb } from './addresses.ts';
import { decodeReferences } from './characterReferences.ts';
import { closedNames, emptyReading, readPiece } from './html.ts';
import type { ArticleParts, Where } from './parts.ts';
import type { MappedText, Range } from './ranges.ts';

/** Tokens that are one block of words each. */
const blockTokens: ReadonlySet<string> = new Set([
  'paragraph',
  'atxHeading',
  'setextHeading',
  'tableHeader',
  'tableData',
  'definition',
  'htmlFlow',
  'gfmFootnoteDefinition',
]);
/** Blocks before which a paragraph may be put. */
const topTokens: ReadonlySet<string> = new Set([
  'paragraph',
  'atxHeading',
  'setextHeading',
  'table',
  'listOrdered',
  'listUnordered',
  'blockQuote',
  'htmlFlow',
]);
/** Tokens in which nothing is words of the article. */
const closedTokens: ReadonlySet<string> = new Set([
  'codeText',
  'codeFenced',
  'codeIndented',
  'yaml',
  'toml',
  'mdxjsEsm',
  'mdxFlowExpression',
  'mdxTextExpression',
  'mdxJsxTextTag',
  'mdxJsxFlowTag',
  'definitionLabel',
  'gfmFootnoteCall',
  'resource',
  'reference',
  'definition',
]);

/** Pieces of words, put together to one text that knows where each letter stands. */
const joiner = () => {
  let text = '';
  let at: number[] = [];
  return {
    add: (letters: string, start: number, end: number) => {
      // What follows the last piece may begin further on.
      at.length = text.length;
      text += letters;
      for (let i = 0; i < letters.length; i++) at.push(end - start === letters.length ? start + i : start);
      at[text.length] = end;
    },
    take: (): MappedText | undefined => {
      if (text === '') return undefined;
      const taken = { text, base: at[0] ?? 0, at };
      [text, at] = ['', []];
      return taken;
    },
  };
};

/** The events of a text as micromark gives them; undefined where MDX is written that it does not understand. */
const eventsOf = (source: string, isMdx: boolean): Event[] | string => {
  const extensions: Extension[] = [gfm(), frontmatter(['yaml', 'toml'])];
  if (isMdx) extensions.push(mdxjs());
  try {
    return postprocess(
      parse({ extensions })
        .document()
        .write(preprocess()(source, 'utf8', true)),
    );
  } catch (fault) {
    return fault instanceof Error ? fault.message : String(fault);
  }
};

/** The language that front matter tells, as in `lang: de`. */
const languageIn = (frontMatter: string): string =>
  /^\s*["']?(?:lang|language|locale)["']?\s*[:=]\s*["']?([A-Za-z]{2,3}(?:[-_][A-Za-z0-9]+)*)["']?\s*,?\s*$/m
    .exec(frontMatter)?.[1]
    ?.replaceAll('_', '-') ?? '';

/** Text of a string in Markdown, such as an address: its escapes and character references decoded. */
const decodedString = (raw: string): string =>
  decodeReferences(
    // A backslash takes the meaning from what follows; the letter itself is kept by a reference.
    raw.replace(/\\([!-/:-@[-`{-~])/g, (_, letter: string) => `&#${letter.charCodeAt(0)};`),
    0,
  ).text;

/** A link or a picture that is being read. */
interface Open {
  readonly start: number;
  readonly isImage: boolean;
  /** Its place in the list, as a link; −1 where it is none of an address that stands here. */
  readonly link: number;
  text?: Range;
  at?: Range;
  address?: string;
  /** Label of the definition that has its address. */
  label?: string;
}
/** An element of HTML, or of MDX, that was opened among the words. */
interface OpenElement {
  readonly name: string;
  readonly link: number | undefined;
}

/** A label as it is compared (CommonMark 0.31, §6.3, matching). */
const labelKey = (label: string): string => label.trim().replace(/\s+/g, ' ').toLowerCase().toUpperCase();

/**
 * Reads an article in Markdown (CommonMark 0.31 with the tables and bare addresses of GFM, front matter in YAML or TOML, by
 * micromark), and the HTML in it. MDX that cannot be understood is left whole.
 */
export const readMarkdown = (whole: string, isMdx = false): ArticleParts => {
  // The parser takes a byte order mark away.
  const skipped = whole.startsWith('\uFEFF') ? 1 : 0;
  const source = whole.slice(skipped);
  const reading = emptyReading();
  const events = eventsOf(source, isMdx);
  if (typeof events === 'string') {
    const reason = `This is MDX that is not understood (${events}). It is left whole.`;
    return { ...reading, left: [reason], language: '' };
  }
  let language = '';
  const { runs, links, pictures, blocks, left } = reading;
  const words = joiner();
  let [closed, heading] = [0, 0];
  let top: number | undefined;
  let topDepth = 0;
  let block = -1;
  const open: Open[] = [];
  /** Elements that were opened by HTML among the words and not closed yet. */
  const elements: OpenElement[] = [];
  /** Addresses of definitions, and the links that wait for one, by label. */
  const defined = new Map<string, string>();
  const referring: [link: number, label: string][] = [];
  let label = '';

  const currentLink = (): number | undefined =>
    open.findLast(({ isImage }) => !isImage)?.link ?? elements.findLast(({ name }) => name === 'a')?.link;
  const where = (): Where =>
    closed > 0 || elements.some(({ name }) => name !== 'a')
      ? 'closed'
      : open.some(({ isImage }) => !isImage) || elements.length > 0
        ? 'link'
        : heading > 0
          ? 'heading'
          : 'free';
  const flush = () => {
    const mapped = words.take();
    if (!mapped) return;
    const shifted =
      skipped === 0
        ? mapped
        : { ...mapped, base: mapped.base + skipped, at: mapped.at?.map((at) => at + skipped) };
    runs.push({ ...shifted, where: where(), link: currentLink(), block });
  };
  const rangeOf = ({ start, end }: Token): Range => ({
    start: start.offset + skipped,
    end: end.offset + skipped,
  });
  const rawOf = ({ start, end }: Token): string => source.slice(start.offset, end.offset);
  const addWords = (token: Token, letters = rawOf(token)) => {
    // An address is read by nobody, nor are the words of a picture by who sees it.
    if (closed > 0 || open.some(({ isImage }) => isImage)) return;
    words.add(letters, token.start.offset, token.end.offset);
  };
  /** Puts in a link whose address stands bare. */
  const addBare = (token: Token, address: string, at: Range) => {
    flush();
    if (where() === 'closed') return;
    links.push({ ...rangeOf(token), address, block, written: { as: 'markdown', at, bare: true } });
    const run = { text: rawOf(token), base: token.start.offset + skipped, block };
    runs.push({ ...run, where: 'link', link: links.length - 1 });
  };
  /** Follows which elements are open after some tags: nothing is linked in code, in forms and in another link. */
  const follow = (raw: string, isClosing: (name: string) => boolean) => {
    const tags = raw
      .replace(/<!--[\s\S]{0,4000}?-->/g, '')
      .matchAll(/<(\/?)([A-Za-z][^\s/>]{0,40})[^<>]{0,4000}?(\/?)>/g);
    for (const [, end, tag = '', isEmpty] of tags) {
      const name = tag.toLowerCase();
      if (isEmpty !== '' || !isClosing(name)) continue;
      if (end === '')
        elements.push({ name, link: name === 'a' && links.length > 0 ? links.length - 1 : undefined });
      else {
        const at = elements.findLastIndex((element) => element.name === name);
        if (at >= 0) elements.splice(at);
      }
    }
  };
  /** Words on both sides of something are not one. */
  const apart = ({ start }: Token) => {
    runs.push({ text: '\n', base: start.offset + skipped, where: 'closed', link: currentLink(), block });
  };
  const enterHtml = (token: Token) => {
    flush();
    const raw = rawOf(token);
    const state = where();
    if (state !== 'closed')
      readPiece(
        raw,
        token.start.offset + skipped,
        reading,
        token.type === 'htmlFlow' ? state : 'closed',
        top,
      );
    follow(raw, (name) => name === 'a' || closedNames.has(name));
  };

  for (const [what, token] of events) {
    // Extensions have tokens of their own.
    const type: string = token.type;
    const isEnter = what === 'enter';
    if (topTokens.has(type)) {
      if (isEnter && topDepth++ === 0) {
        // An indented block begins before its first letter; a paragraph is put on a line of its own.
        top = token.start.offset - (token.start.column - 1) + skipped;
      }
      if (!isEnter) topDepth -= 1;
    }
    if (blockTokens.has(type)) {
      flush();
      if (isEnter) {
        block = blocks.length;
        blocks.push({ before: top });
      }
    }
    if (closedTokens.has(type)) {
      if (isEnter && closed === 0) flush();
      if (isEnter && type === 'codeText') apart(token);
      closed += isEnter ? 1 : -1;
      if (isEnter && (type === 'yaml' || type === 'toml')) language = languageIn(rawOf(token));
    }
    switch (type) {
      case 'atxHeading':
      case 'setextHeading':
        heading += isEnter ? 1 : -1;
        break;
      case 'data':
      case 'lineEnding':
      case 'hardBreakTrailing':
        if (isEnter) addWords(token);
        break;
      case 'hardBreakEscape':
        if (isEnter) addWords(token, ' ');
        break;
      case 'emphasis':
      case 'strong':
      case 'strikethrough':
        // A link that begins in one of them has to end in it.
        flush();
        break;
      case 'characterEscape':
        if (isEnter) addWords(token, rawOf(token).slice(1));
        break;
      case 'characterReference':
        if (isEnter) addWords(token, decodeReferences(rawOf(token), 0).text);
        break;
      case 'htmlFlow':
      case 'htmlText':
        if (isEnter) enterHtml(token);
        break;
      case 'mdxJsxTextTag':
      case 'mdxJsxFlowTag': {
        if (isEnter) break;
        const raw = rawOf(token);
        if (/^<a[\s>]/.test(raw)) left.add('A link written as a component of MDX is left alone.');
        follow(raw, (name) => type === 'mdxJsxTextTag' || name === 'a' || closedNames.has(name));
        break;
      }
      case 'link':
      case 'image': {
        if (isEnter) {
          flush();
          const isImage = type === 'image';
          // Its place is held, as links stand in the order in which they begin.
          open.push({ start: token.start.offset + skipped, isImage, link: isImage ? -1 : links.length });
          if (!isImage) {
            links.push({ ...rangeOf(token), address: '', block, written: { as: 'reference' } });
          }
          break;
        }
        flush();
        const state = where();
        const done = open.pop();
        if (!done) break;
        if (done.isImage) {
          apart(token);
          const text = done.text ?? rangeOf(token);
          if (closed === 0)
            pictures.push({
              ...rangeOf(token),
              alt: decodedString(whole.slice(text.start, text.end)),
              link: currentLink(),
              closed: state !== 'free',
              block,
              written: { as: 'markdown', at: text },
            });
          break;
        }
        const place = links[done.link];
        if (place && done.at)
          links[done.link] = {
            ...place,
            address: done.address ?? '',
            written: { as: 'markdown', at: done.at, text: done.text, bare: false },
          };
        else if (done.text)
          referring.push([done.link, done.label ?? whole.slice(done.text.start, done.text.end)]);
        break;
      }
      case 'labelText': {
        const last = open.at(-1);
        if (isEnter && last) last.text ??= rangeOf(token);
        break;
      }
      case 'resourceDestination': {
        const last = open.at(-1);
        if (isEnter && last) last.at = rangeOf(token);
        break;
      }
      case 'resourceDestinationString': {
        const last = open.at(-1);
        if (isEnter && last) last.address = decodedString(rawOf(token));
        break;
      }
      case 'referenceString': {
        const last = open.at(-1);
        if (isEnter && last) last.label = rawOf(token);
        break;
      }
      case 'definitionLabelString':
        if (isEnter) label = labelKey(rawOf(token));
        break;
      case 'definitionDestination':
        if (isEnter) {
          const address = decodedString(rawOf(token).replace(/^<(.*)>$/s, '$1'));
          // The first of several counts.
          if (!defined.has(label)) defined.set(label, address);
          links.push({
            ...rangeOf(token),
            address,
            block,
            written: { as: 'markdown', at: rangeOf(token), bare: false },
          });
        }
        break;
      case 'autolink':
        // What stands between the angle brackets is the address.
        if (isEnter) {
          const range = rangeOf(token);
          addBare(token, rawOf(token).slice(1, -1), { start: range.start + 1, end: range.end - 1 });
          closed += 1;
        } else closed -= 1;
        break;
      case 'literalAutolink':
        if (isEnter) {
          const raw = rawOf(token);
          addBare(token, isWeb(raw) ? raw : raw.startsWith('www.') ? `http://${raw}` : raw, rangeOf(token));
          closed += 1;
        } else closed -= 1;
        break;
    }
  }
  flush();
  for (const [at, name] of referring) {
    const link = links[at];
    if (link) links[at] = { ...link, address: defined.get(labelKey(name)) ?? '' };
  }
  return { ...reading, left: [...reading.left], language };
};
