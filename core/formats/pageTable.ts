import type { DefaultTreeAdapterTypes } from 'parse5';

/** The cells of the longest table of a page, as networks save them under the name of a workbook; none where it has none. */
export const tableOfPage = async (text: string): Promise<string[][]> => {
  const { parse, html } = await import('parse5');
  type Node = DefaultTreeAdapterTypes.Node;
  const childrenOf = (node: Node): Node[] => ('childNodes' in node ? node.childNodes : []);
  const nameOf = (node: Node): string =>
    'tagName' in node && node.namespaceURI === html.NS.HTML ? node.tagName : '';
  const within = (node: Node, names: readonly string[]): Node[] =>
    childrenOf(node).flatMap((child) => [
      ...(names.includes(nameOf(child)) ? [child] : []),
      ...(nameOf(child) === 'table' && !names.includes('table') ? [] : within(child, names)),
    ]);
  const textOf = (node: Node): string =>
    node.nodeName === '#text' && 'value' in node ? node.value : childrenOf(node).map(textOf).join('');
  const tables = within(parse(text), ['table']).map((table) =>
    within(table, ['tr']).map((row) =>
      within(row, ['td', 'th']).map((cell) => textOf(cell).replace(/\s+/g, ' ').trim()),
    ),
  );
  const longest = tables.reduce<string[][]>((best, rows) => (rows.length > best.length ? rows : best), []);
  return longest;
};
