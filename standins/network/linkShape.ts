/** How a network writes the page into its links. */
export const pageForms = {
  percent: { write: encodeURIComponent, read: decodeURIComponent },
  twice: {
    write: (page: string) => encodeURIComponent(encodeURIComponent(page)),
    read: (text: string) => decodeURIComponent(decodeURIComponent(text)),
  },
  form: {
    write: (page: string) => new URLSearchParams([['', page]]).toString().slice(1),
    read: (text: string) => new URLSearchParams(`=${text}`).get('') ?? '',
  },
  base64url: {
    write: (page: string) => Buffer.from(page).toString('base64url'),
    read: (text: string) => Buffer.from(text, 'base64url').toString(),
  },
  plain: { write: (page: string) => page, read: (text: string) => text },
} as const;
export type PageForm = keyof typeof pageForms;

/** What a tracking link says. */
export interface TrackingLink {
  readonly account: string;
  readonly offer: string;
  readonly page: string;
  /** What stands in the sub-ID slots, by their names. */
  readonly slots: Readonly<Record<string, string>>;
}

/** Where a request went: its host without port, and what follows it as it was written. */
export interface Asked {
  readonly host: string;
  readonly target: string;
}

/** How a network writes and reads its tracking links. */
export interface LinkShape {
  /** The tracking link of a page, its slots empty. */
  readonly link: (origin: string, account: string, offer: string, page: string) => string;
  /** What a request says; undefined where it is for no tracking link. */
  readonly read: (asked: Asked) => TrackingLink | undefined;
}

const tokens = /\{(\w+)\}/g;
const escaped = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
const decoded = (text: string): string => {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
};

/** A pattern for a piece of a template: a token takes what no sign of an address parts; a page at the end takes the rest. */
const patternOf = (template: string): { pattern: RegExp; names: readonly string[] } => {
  const names = [...template.matchAll(tokens)].map(([, name = '']) => name);
  const pattern = template
    .split(/(\{\w+\})/)
    .map((piece) => (piece === '{page}' ? '(.*)' : /^\{\w+\}$/.test(piece) ? '([^/?&#]*?)' : escaped(piece)))
    .join('');
  return { pattern: new RegExp(`^${pattern}$`), names };
};

/**
 * The shape of a network's links as a template: host and path, query, with `{host}`, `{account}`, `{offer}`, `{page}` and
 * each slot's name in braces, such as `//{host}/c/{account}/{offer}?s1={s1}&to={page}`. One that begins with `{page}` is
 * the merchant's own page with something added.
 */
export const linkShape = (host: string, template: string, form: PageForm = 'percent'): LinkShape => {
  const { write, read } = pageForms[form];
  const isPageItself = template.startsWith('{page}');
  const own = template.replace('{host}', host);
  const [place = '', query = ''] = own.split('?');
  const whole = patternOf(isPageItself ? '' : place.replace(/^\/\//, ''));
  const pairs = query
    .split('&')
    .filter(Boolean)
    .map((pair) => {
      const mark = pair.indexOf('=');
      return { name: pair.slice(0, mark), ...patternOf(pair.slice(mark + 1)) };
    });
  /** A page at the end of the path has a query of its own. */
  const isRest = form === 'plain' && place.endsWith('{page}') && !isPageItself;

  return {
    link: (origin, account, offer, page) => {
      const values: Readonly<Record<string, string>> = {
        account,
        offer,
        page: isPageItself ? page : write(page),
      };
      const { protocol, port } = new URL(origin);
      const filled = own.replace(tokens, (_, name: string) => values[name] ?? '');
      if (isPageItself) return filled;
      const mark = filled.indexOf('/', 2);
      return `${protocol}${filled.slice(0, mark)}${port === '' ? '' : `:${port}`}${filled.slice(mark)}`;
    },
    read: ({ host: asked, target }) => {
      const mark = target.indexOf('?');
      const [path, search] =
        mark < 0 || isRest ? [target, ''] : [target.slice(0, mark), target.slice(mark + 1)];
      const found: Record<string, string> = {};
      const take = (names: readonly string[], values: readonly string[]) => {
        for (const [i, name] of names.entries()) {
          const value = values[i] ?? '';
          found[name] = name === 'page' ? value : decoded(value);
        }
      };
      if (!isPageItself) {
        const match = whole.pattern.exec(asked + path);
        if (!match) return undefined;
        take(whole.names, match.slice(1));
      }
      for (const pair of search.split('&')) {
        const sign = pair.indexOf('=');
        const known = pairs.find(({ name }) => name === pair.slice(0, sign));
        const match = known?.pattern.exec(pair.slice(sign + 1));
        if (known && match) take(known.names, match.slice(1));
      }
      const { account = '', offer = '', page = '', ...slots } = found;
      if (isPageItself && account === '') return undefined;
      try {
        return { account, offer, page: read(page), slots };
      } catch {
        return { account, offer, page: '', slots };
      }
    },
  };
};
