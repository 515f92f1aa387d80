import type { DefaultTreeAdapterMap } from 'parse5';
import { parse, serialize } from 'parse5';

type Node = DefaultTreeAdapterMap['childNode'];
type Parent = DefaultTreeAdapterMap['parentNode'];

/** What runs, loads or leads away is not taken into the page that shows an article. */
const left: ReadonlySet<string> = new Set(
  'script style link meta base iframe frame frameset object embed audio video source track form input textarea select noscript template title'.split(
    ' ',
  ),
);

/** The name of a picture's file, for where it is not shown. */
const fileName = (address: string): string => /([^/?#]*)(?:[?#].*)?$/s.exec(address)?.[1] ?? '';

/**
 * An article as a page that shows how it reads: its words and their structure, without what runs, without its own look, and with
 * pictures told by what is said of them, as nothing of it is fetched.
 */
export const articlePage = (html: string): string => {
  const document = parse(html);
  const clean = (parent: Parent): void => {
    const kept: Node[] = [];
    for (const node of parent.childNodes) {
      if ('tagName' in node) {
        if (left.has(node.tagName)) continue;
        if (node.tagName === 'img') {
          const value = (name: string) => node.attrs.find((each) => each.name === name)?.value ?? '';
          const words = value('alt') || fileName(value('src')) || 'a picture';
          node.nodeName = 'span';
          node.tagName = 'span';
          node.attrs = [{ name: 'class', value: 'picture' }];
          node.childNodes = [{ nodeName: '#text', value: words, parentNode: node }];
        } else {
          const { tagName } = node;
          // In a drawing, an address is fetched.
          node.attrs = node.attrs.filter(
            ({ name }) =>
              ['data-find', 'dir', 'lang', 'colspan', 'rowspan', 'start'].includes(name) ||
              (name === 'href' && tagName === 'a'),
          );
          clean(node);
        }
      }
      kept.push(node);
    }
    parent.childNodes = kept;
  };
  clean(document);
  return serialize(document);
};
