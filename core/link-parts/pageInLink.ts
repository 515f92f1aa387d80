import type { DefaultTreeAdapterMap } from 'parse5';
import { parse } from 'parse5';

type Node = DefaultTreeAdapterMap['node'];
type Element = DefaultTreeAdapterMap['element'];
/** An element of a parsed page. */
export type PageElement = Element;

const isElement = (node: Node): node is Element => 'tagName' in node;

const childrenOf = (node: Node): readonly Node[] => ('childNodes' in node ? node.childNodes : []);

/** Every node below one, in the order of the page. A hostile page may be nested deeper than calls can be. */
const nodesOf = (root: Node): Node[] => {
  const found: Node[] = [];
  const stack: Node[] = [root];
  for (let node = stack.pop(); node; node = stack.pop()) {
    found.push(node);
    stack.push(...childrenOf(node).toReversed());
  }
  return found;
};

/** Every element of a page, as a browser without scripts would see it. */
export const elementsOf = (html: string): Element[] =>
  nodesOf(parse(html, { scriptingEnabled: false })).filter(isElement);

/** Every element inside one. */
export const elementsIn = (element: Element): Element[] => nodesOf(element).slice(1).filter(isElement);

export const attributeOf = (element: Element, name: string): string | undefined =>
  element.attrs.find((a) => a.name === name)?.value;

export const textOf = (element: Element): string =>
  nodesOf(element)
    .map((node) => ('value' in node ? node.value : ''))
    .join('')
    .replace(/\s+/g, ' ')
    .trim();

/** What a page says of itself. */
export interface PageFacts {
  readonly title: string;
  readonly description: string;
  /** Absolute address of its preview picture, or empty. */
  readonly picture: string;
  /** Where it sends a visitor by itself, and how; nothing when it stays. */
  readonly next?: { readonly url: string; readonly by: 'refresh' | 'script' };
  /** Words that say that there is nothing to buy here, though the page was found. */
  readonly dead?: string;
  /** A page to order from, where one is linked. */
  readonly order?: string;
}

const absolute = (url: string | undefined, base: string): string =>
  url !== undefined && url.trim() !== '' && URL.canParse(url.trim(), base)
    ? new URL(url.trim(), base).href
    : '';

/**
 * The address of a refresh, of the header as of the element, by the HTML standard's shared declarative refresh steps; undefined
 * for a plain reload.
 */
export const refreshAddress = (content: string): string | undefined => {
  const found = /^\s*[\d.]*\s*[;,]?\s*(?:url\s*=\s*)?(?:"([^"]*)"?|'([^']*)'?|(.*))$/is.exec(content);
  const url = (found?.[1] ?? found?.[2] ?? found?.[3] ?? '').trim();
  return url === '' ? undefined : url;
};

/** A script's own hop. A string ends on its line and is no longer than an address may be, so a long script costs its length. */
const scriptHop =
  /location(?:\.href)?\s{0,20}=\s{0,20}(?:"([^"\n]{1,2000})"|'([^'\n]{1,2000})')|location\.(?:replace|assign)\(\s{0,20}(?:"([^"\n]{1,2000})"|'([^'\n]{1,2000})')\s{0,20}\)/;

/** A script's hop to what a name stands for, and a text given to that name. */
const scriptHopByName =
  /location(?:\.href)?\s{0,20}=\s{0,20}([A-Za-z_$][\w$]{0,60})\s{0,20}[;\n}]|location\.(?:replace|assign)\(\s{0,20}([A-Za-z_$][\w$]{0,60})\s{0,20}\)/;
const givenText = (name: string): RegExp =>
  new RegExp(
    `(?<![\\w$.])${name.replaceAll('$', '\\$')}\\s{0,20}=(?!=)\\s{0,20}(?:"([^"\\n]{0,2000})"|'([^'\\n]{0,2000})'|([^"'\\s]))`,
    'g',
  );

/** Where a script hops to: an address it names, or a variable that is one plain text; undefined for anything less plain. */
const scriptAddress = (script: string): string | undefined => {
  const direct = scriptHop.exec(script);
  if (direct) return unescapeScript(direct.slice(1).find((text) => text !== undefined) ?? '');
  const named = scriptHopByName.exec(script);
  const name = named?.[1] ?? named?.[2];
  if (name === undefined) return undefined;
  const given = [...script.matchAll(givenText(name))];
  const [only] = given;
  // Given twice, or something that is computed, it may be anything.
  if (given.length !== 1 || only?.[3] !== undefined) return undefined;
  return unescapeScript(only?.[1] ?? only?.[2] ?? '');
};

/** Undoes the escapes of a JavaScript string. */
const unescapeScript = (text: string): string =>
  text.replace(/\\(?:u([0-9a-f]{4})|x([0-9a-f]{2})|(.))/gis, (_, u?: string, x?: string, plain?: string) =>
    (u ?? x) ? String.fromCharCode(parseInt(u ?? x ?? '', 16)) : (plain ?? ''),
  );

const deadWords =
  /(?:not|no longer|currently un)\s*-?available|out of stock|sold out|discontinued|page (?:was )?not found|nicht (?:mehr )?verfügbar|ausverkauft|does not exist/i;
const orderWords = /(?:^|[/_-])(?:order|basket|cart|checkout|bag)(?:[/?_.-]|$)/i;

/**
 * Reads a page as a tracer does: what it is called, where it leads by itself, whether its headings say that there is
 * nothing left.
 *
 * @param base the page's own address
 */
export const readPage = (html: string, base: string): PageFacts => {
  const elements = elementsOf(html);
  const tagged = (tag: string) => elements.filter((element) => element.tagName === tag);
  const metas = tagged('meta');
  const meta = (...names: string[]): string =>
    names
      .map((name) => metas.find((m) => (attributeOf(m, 'property') ?? attributeOf(m, 'name')) === name))
      .flatMap((m) => (m ? [attributeOf(m, 'content')?.trim() ?? ''] : []))
      .find((text) => text !== '') ?? '';
  const [title = ''] = tagged('title').map(textOf);
  const refresh = metas.find((m) => attributeOf(m, 'http-equiv')?.toLowerCase() === 'refresh');
  const refreshTo = refresh && refreshAddress(attributeOf(refresh, 'content') ?? '');
  const scriptTo = tagged('script')
    .map((script) => scriptAddress(textOf(script)))
    .find((found) => found !== undefined);
  const to = refreshTo ?? scriptTo;
  const next = absolute(to, base);
  const heading = [title, ...tagged('h1').map(textOf), ...tagged('h2').map(textOf)].find((text) =>
    deadWords.test(text),
  );
  const order = elements
    .filter(
      (e) =>
        e.tagName === 'a' || (e.tagName === 'form' && attributeOf(e, 'method')?.toLowerCase() !== 'post'),
    )
    .map((e) => attributeOf(e, e.tagName === 'a' ? 'href' : 'action'))
    .find((url) => url !== undefined && orderWords.test(url));
  return {
    title: (meta('og:title') || title).slice(0, 300),
    description: meta('og:description', 'description').slice(0, 600),
    picture: absolute(meta('og:image', 'og:image:url', 'twitter:image'), base),
    ...(next !== '' && {
      next: { url: next, by: refreshTo === undefined ? ('script' as const) : ('refresh' as const) },
    }),
    ...(heading !== undefined && { dead: heading.slice(0, 200) }),
    ...(absolute(order, base) !== '' && { order: absolute(order, base) }),
  };
};
