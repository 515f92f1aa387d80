/** A redirect as somebody wrote it by hand. */
export interface HandRedirect {
  readonly line: number;
  /** Path without the first `/`. */
  readonly path: string;
  readonly to: string;
  readonly status: 301 | 302 | 307 | 308;
}

/** A line that looks like a redirect and could not be read, and why. */
export interface UnreadRedirect {
  readonly line: number;
  readonly text: string;
  readonly why: string;
}

/** What was found in a file, in its order. */
export interface Found {
  readonly redirects: HandRedirect[];
  readonly unread: UnreadRedirect[];
}

const statuses = { permanent: 301, temp: 302, temporary: 302, redirect: 302, seeother: 302 } as const;
/** The status a word or number says; the other one where it says none. */
export const statusOf = (text: string | undefined, otherwise: 301 | 302): HandRedirect['status'] => {
  const known = (text ?? '').toLowerCase();
  if (known in statuses) return statuses[known as keyof typeof statuses]; // just checked
  const n = Number(text);
  return n === 301 || n === 302 || n === 307 || n === 308 ? n : otherwise;
};
export const unquote = (text: string): string => text.replace(/^(["'])(.*)\1$/, '$2');
/** A path written as an expression: anchors, an optional last slash and escaped dots are taken off. */
export const plainPath = (pattern: string): string | undefined => {
  const bare = unquote(pattern)
    .replace(/^\^/, '')
    .replace(/\$$/, '')
    .replace(/\/\?$/, '')
    .replaceAll('\\.', '.')
    .replaceAll('\\-', '-')
    .replaceAll('\\/', '/')
    .replace(/^\/+|\/+$/g, '');
  return /[\\()[\]{}*+?|^$]/.test(bare) || bare === '' ? undefined : bare;
};
export const isAddress = (text: string): boolean => /^https?:\/\/[^\s/]/i.test(text);
/** Words of a line; what stands in quotes is one. */
export const words = (line: string): string[] => line.match(/"[^"]*"|'[^']*'|\S+/g) ?? [];

export const whyNot = {
  expression: 'Its path is an expression; a short link has one address.',
  noAddress: 'It does not lead to an http or https address.',
  condition: 'It holds only under a condition, which a redirect brought in would lose.',
  everything: 'It sends on whatever is asked for, not one address.',
  puzzled: 'Its destination is put together at each request.',
} as const;

/** Puts a redirect where it belongs: read, or named with the reason why not. */
export const put = (
  found: Found,
  {
    line,
    text,
    from,
    to,
    status,
  }: { line: number; text: string; from: string; to: string; status: HandRedirect['status'] },
): void => {
  const path = plainPath(from);
  const why = !isAddress(to)
    ? whyNot.noAddress
    : from === '/' || from === '^'
      ? whyNot.everything
      : path === undefined
        ? whyNot.expression
        : /\$\w|%\{|\{[a-z._]+\}/i.test(to)
          ? whyNot.puzzled
          : undefined;
  if (why === undefined && path !== undefined) found.redirects.push({ line, path, to, status });
  else unread(found, line, text, why ?? whyNot.expression);
};

/** Names a line as not read. */
export const unread = (found: Found, line: number, text: string, why: string): void =>
  void found.unread.push({ line, text: text.trim().slice(0, 200), why });
