import { element } from '#core/catalogue';
import type { DefaultTreeAdapterMap } from 'parse5';
import { parseFragment } from 'parse5';

/** One thing of a pasted text that is read by itself: a line, or the lines of one snippet. */
export interface PastedUnit {
  /** The line it begins at and the one it ends at, from 1. */
  readonly from: number;
  readonly to: number;
  readonly text: string;
}

/** Elements of which a snippet is made that has an end tag, and so may go over several lines. */
const opening = /<(a|script|iframe|ins|div|p|span|table|ul|ol|figure|picture|noscript|form|center|map)\b/i;
/** A snippet that is not closed within so many lines is read line by line. */
const mostSnippetLines = 200;

const countOf = (text: string, form: RegExp): number => text.match(form)?.length ?? 0;

/** The last line of the snippet that begins at a line; that line itself where no snippet begins, or none ends. */
const endOfSnippet = (lines: readonly string[], first: number): number => {
  const name = opening.exec(element(lines[first]))?.[1];
  const openTag = name === undefined ? /<(?:img|link|area|base)\b/gi : new RegExp(`<${name}\\b`, 'gi');
  const closeTag = name === undefined ? /$^/g : new RegExp(`</${name}\\s*>`, 'gi');
  let text = '';
  for (let at = first; at < Math.min(lines.length, first + mostSnippetLines); at++) {
    text += `${element(lines[at])}\n`;
    if (name === undefined) {
      // A picture has no end tag; its own may go over several lines.
      if (!openTag.test(text) || countOf(text, /</g) <= countOf(text, />/g)) return at;
    } else if (countOf(text, closeTag) >= countOf(text, openTag)) return at;
  }
  return first;
};

/**
 * Takes a pasted text apart into what is read by itself: every line that is not blank is in one unit, and one alone.
 */
export const pastedUnits = (text: string): PastedUnit[] => {
  const lines = text.split(/\r\n|[\n\r\u2028\u2029]/);
  const units: PastedUnit[] = [];
  for (let at = 0; at < lines.length; at++) {
    const line = element(lines[at]);
    if (line.trim() === '') continue;
    const end = /<[a-z!]/i.test(line) ? endOfSnippet(lines, at) : at;
    units.push({ from: at + 1, to: end + 1, text: lines.slice(at, end + 1).join('\n') });
    at = end;
  }
  return units;
};

type Node = DefaultTreeAdapterMap['childNode'];

const blocks = new Set(
  'address article aside blockquote br dd div dl dt figcaption figure footer h1 h2 h3 h4 h5 h6 header hr li main nav ol p pre section table tbody tfoot thead tr ul'.split(
    ' ',
  ),
);
const silent = new Set(['script', 'style', 'head', 'title', 'template', 'meta']);

/**
 * Rich text from the clipboard as lines: a link becomes its words, a tab and its address, on a line of its own; a row of
 * a table keeps its cells apart by tabs.
 */
export const textOfHtml = (html: string): string => {
  const lines: string[] = [];
  let line = '';
  /** The block that is open holds a link: the words around it are no line of their own. */
  let hasLink = false;
  const words = (text: string): string => text.replace(/[\s\u00a0]+/g, ' ');
  const end = (): void => {
    if (line.trim() !== '' && !hasLink) lines.push(line.trim());
    line = '';
    hasLink = false;
  };
  const inside = (node: Node): string =>
    node.nodeName === '#text' && 'value' in node
      ? node.value
      : 'childNodes' in node
        ? node.childNodes.map(inside).join('')
        : '';
  const walk = (node: Node, inRow: boolean, depth: number): void => {
    if (depth > 500 || silent.has(node.nodeName)) return;
    if (node.nodeName === '#text' && 'value' in node) {
      line += words(node.value);
      return;
    }
    if (!('childNodes' in node)) return;
    const { nodeName: name } = node;
    const href = name === 'a' ? (node.attrs.find((a) => a.name === 'href')?.value.trim() ?? '') : '';
    if (/^(?:https?:)?\/\//i.test(href)) {
      const title = words(inside(node)).trim();
      const address = href.startsWith('//') ? `https:${href}` : href;
      const written = title === '' || title === href ? address : `${title}\t${address}`;
      if (inRow) line += written;
      else {
        lines.push(written);
        hasLink = true;
      }
      return;
    }
    const row = name === 'tr';
    const cell = name === 'td' || name === 'th';
    // What is within a cell stays in its row.
    if ((blocks.has(name) && !inRow) || row) end();
    if (cell && line !== '') line += '\t';
    for (const child of node.childNodes) walk(child, inRow || row, depth + 1);
    if ((blocks.has(name) && !inRow) || row) end();
  };
  for (const node of parseFragment(html).childNodes) walk(node, false, 0);
  end();
  return lines.join('\n');
};

/**
 * The text of a clipboard that holds plain text, rich text, or both: the plain text as it is, unless the rich text has
 * links whose addresses do not stand in it.
 */
export const clipboardText = (plain: string, html: string): string => {
  if (html === '') return plain;
  const rich = textOfHtml(html);
  const addresses = rich.match(/https?:\/\/[^\s]+/gi) ?? [];
  return addresses.some((address) => !plain.includes(address)) ? rich : plain === '' ? rich : plain;
};
