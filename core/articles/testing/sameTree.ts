import type { DefaultTreeAdapterMap } from 'parse5';
import { parse } from 'parse5';
import type { Edit } from '../ranges.ts';
import { inOrder } from '../ranges.ts';

type Node = DefaultTreeAdapterMap['node'];

/**
 * What a browser makes of a page, line by line, without what edits put in: elements that were put in are taken off what they stand
 * around, and attributes that were put in or changed are left out.
 *
 * @param added stretches of the text that were put in
 * @param touched names of attributes that may differ
 */
const linesOf = (
  html: string,
  added: readonly (readonly [number, number])[],
  touched: ReadonlySet<string>,
): string[] => {
  const isAdded = (at: number | undefined) =>
    at !== undefined && added.some(([from, to]) => at >= from && at < to);
  const lines: string[] = [];
  let text = '';
  const flush = () => {
    // White space at the ends of a block is not seen, and a browser drops some of it at the beginning of a page.
    if (text.trim() !== '') lines.push(JSON.stringify(text.trim()));
    text = '';
  };
  const walk = (node: Node) => {
    if (node.nodeName === '#text' && 'value' in node) {
      const at = node.sourceCodeLocation?.startOffset ?? 0;
      // What was put in may be the beginning of what a browser takes for one text.
      const end = added.find(([from, to]) => at >= from && at < to)?.[1] ?? at;
      text += node.value.slice(html.slice(at, end).replaceAll('\r\n', '\n').length);
      return;
    }
    const isOwn = 'tagName' in node && isAdded(node.sourceCodeLocation?.startOffset);
    if (!isOwn) {
      flush();
      if ('tagName' in node)
        lines.push(
          `<${node.tagName}${node.attrs.map(({ name, value }) => (touched.has(name) ? '' : ` ${name}=${JSON.stringify(value)}`)).join('')}>`,
        );
      else if ('data' in node) lines.push(`<!--${node.data}-->`);
    }
    if ('childNodes' in node) for (const child of node.childNodes) walk(child);
    if (!isOwn) {
      flush();
      if ('tagName' in node) lines.push(`</${node.tagName}>`);
    }
  };
  walk(parse(html, { sourceCodeLocationInfo: true, scriptingEnabled: false }));
  return lines;
};

/** The tree of a page before edits and after them, each without what the edits put in. */
export const treesBesides = (before: string, after: string, edits: readonly Edit[]): [string[], string[]] => {
  const touched = new Set(['href', 'rel', 'target', 'referrerpolicy', 'alt', 'data-fernhop', 'data-click']);
  const added: [number, number][] = [];
  let moved = 0;
  for (const { start, end, text } of inOrder(edits)) {
    if (start === end) added.push([start + moved, start + moved + text.length]);
    moved += text.length - (end - start);
  }
  return [linesOf(before, [], touched), linesOf(after, added, touched)];
};
