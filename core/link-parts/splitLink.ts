/** A run of bytes of a link. Joined in order, the parts of a link are the link. */
export interface Part {
  readonly kind: 'scheme' | 'authority' | 'segment' | 'name' | 'value' | 'fragment' | 'mark';
  readonly text: string;
  /** For names and values: which pair of the query they belong to, from 0. */
  readonly pair?: number;
}

/** One `name=value` of the query, in its raw bytes. */
export interface LinkPair {
  readonly name: string;
  readonly value: string;
  /** Offset of the value in the link; where there is no `=`, the end of the name. */
  readonly valueAt: number;
  readonly hasEquals: boolean;
}

export interface Split {
  readonly parts: readonly Part[];
  readonly scheme: string;
  readonly authority: string;
  readonly path: string;
  /** Undefined when there is no `?`. */
  readonly query: string | undefined;
  readonly fragment: string | undefined;
  readonly pairs: readonly LinkPair[];
}

/** The expression of RFC 3986, appendix B. */
const uri = /^(?:([^:/?#]+):)?(?:\/\/([^/?#]*))?([^?#]*)(?:\?([^#]*))?(?:#(.*))?$/s;

/** Splits a link into its parts without changing a byte of any. Never throws: any text has a split. */
export const splitLink = (link: string): Split => {
  const [, scheme, authority, path = '', query, fragment] = uri.exec(link) ?? [];
  const parts: Part[] = [];
  const pairs: LinkPair[] = [];
  let at = 0;
  const put = (kind: Part['kind'], text: string, pair?: number) => {
    at += text.length;
    if (text !== '') parts.push(pair === undefined ? { kind, text } : { kind, text, pair });
  };

  if (scheme !== undefined) {
    put('scheme', scheme);
    put('mark', ':');
  }
  if (authority !== undefined) {
    put('mark', '//');
    put('authority', authority);
  }
  for (const [i, segment] of path.split('/').entries()) {
    if (i > 0) put('mark', '/');
    put('segment', segment);
  }
  if (query !== undefined) {
    put('mark', '?');
    for (const [i, pair] of query.split('&').entries()) {
      if (i > 0) put('mark', '&');
      const equals = pair.indexOf('=');
      const name = equals < 0 ? pair : pair.slice(0, equals);
      const value = equals < 0 ? '' : pair.slice(equals + 1);
      put('name', name, i);
      if (equals >= 0) put('mark', '=');
      pairs.push({ name, value, valueAt: at, hasEquals: equals >= 0 });
      put('value', value, i);
    }
  }
  if (fragment !== undefined) {
    put('mark', '#');
    put('fragment', fragment);
  }
  return { parts, scheme: scheme ?? '', authority: authority ?? '', path, query, fragment, pairs };
};

/** Host of a link in lower case, without user and port; empty when it has none. */
export const hostOf = (link: string): string => {
  const { authority } = splitLink(link);
  return authority
    .slice(authority.lastIndexOf('@') + 1)
    .replace(/:\d*$/, '')
    .toLowerCase();
};

/** Puts values into named parameters, all other bytes unchanged; a missing one is added at the query's end. */
export const fillParameters = (link: string, fills: Readonly<Record<string, string>>): string => {
  let result = link;
  for (const [name, value] of Object.entries(fills)) {
    const { pairs, query, fragment } = splitLink(result);
    const pair = pairs.find((p) => p.name === name);
    if (pair) {
      const equals = pair.hasEquals ? '' : '=';
      result =
        result.slice(0, pair.valueAt) + equals + value + result.slice(pair.valueAt + pair.value.length);
    } else {
      const end = fragment === undefined ? result.length : result.length - fragment.length - 1;
      const before = query === undefined ? '?' : query === '' || query.endsWith('&') ? '' : '&';
      result = `${result.slice(0, end)}${before}${name}=${value}${result.slice(end)}`;
    }
  }
  return result;
};
