import { element } from '#core/catalogue';

/** A redirect as somebody wrote it by hand. */
export interface HandRedirect {
  readonly line: number;
  /** Path without the first `/`. */
  readonly path: string;
  readonly to: string;
  readonly status: 301 | 302 | 307 | 308;
}

/** Redirects that were read, and lines that look like one and could not be. */
export interface ReadRedirects {
  readonly format: 'Apache' | 'nginx' | 'Caddy' | '_redirects' | 'PHP';
  readonly redirects: readonly HandRedirect[];
  readonly unread: readonly { readonly line: number; readonly text: string; readonly why: string }[];
}

const statuses = { permanent: 301, temp: 302, temporary: 302, redirect: 302, seeother: 302 } as const;
const statusOf = (text: string | undefined, otherwise: 301 | 302): HandRedirect['status'] => {
  const known = (text ?? '').toLowerCase();
  if (known in statuses) return statuses[known as keyof typeof statuses]; // just checked
  const n = Number(text);
  return n === 301 || n === 302 || n === 307 || n === 308 ? n : otherwise;
};
const unquote = (text: string): string => text.replace(/^(["'])(.*)\1$/, '$2');
/** A path written as an expression: anchors, an optional last slash and escaped dots are taken off. */
const plainPath = (pattern: string): string | undefined => {
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
const isAddress = (text: string): boolean => /^https?:\/\/[^\s/]/i.test(text);
const words = (line: string): string[] => line.match(/"[^"]*"|'[^']*'|\S+/g) ?? [];

type Line =
  | { readonly path: string; readonly to: string; readonly status: HandRedirect['status'] }
  | string
  | undefined;

const apache = (line: string): Line => {
  const [directive = '', ...rest] = words(line);
  const name = directive.toLowerCase();
  if (
    name === 'redirect' ||
    name === 'redirectmatch' ||
    name === 'redirectpermanent' ||
    name === 'redirecttemp'
  ) {
    const hasStatus = rest.length > 2;
    const [first = '', second = '', third = ''] = rest;
    const status =
      name === 'redirectpermanent'
        ? 301
        : name === 'redirecttemp'
          ? 302
          : statusOf(hasStatus ? first : undefined, 302);
    const [from, to] = hasStatus ? [second, unquote(third)] : [first, unquote(second)];
    const path = plainPath(from);
    if (path === undefined) return 'Its path is an expression; a short link has one address.';
    return isAddress(to) ? { path, to, status } : 'It does not lead to an http or https address.';
  }
  if (name === 'rewriterule') {
    const [from = '', to = '', flags = ''] = rest;
    const address = unquote(to);
    if (!isAddress(address)) return undefined;
    const path = plainPath(from);
    if (path === undefined) return 'Its path is an expression; a short link has one address.';
    if (/\$\d|%\{/.test(address)) return 'Its destination is put together at each request.';
    return { path, to: address, status: statusOf(/[[,]R=(\w+)/i.exec(flags)?.[1], 302) };
  }
  return undefined;
};

const nginxLine = (line: string): Line => {
  const rewrite = /^rewrite\s+(\S+)\s+(\S+?)(?:\s+(permanent|redirect))?\s*;/.exec(line);
  if (rewrite) {
    const to = unquote(element(rewrite[2]));
    const path = plainPath(element(rewrite[1]));
    if (!isAddress(to)) return undefined;
    if (path === undefined) return 'Its path is an expression; a short link has one address.';
    return { path, to, status: statusOf(rewrite[3], 302) };
  }
  const location = /^location\s+(?:=\s*)?(\/\S*)\s*\{\s*return\s+(30[1278])\s+(\S+?)\s*;/.exec(line);
  if (location) {
    const path = plainPath(element(location[1]));
    const to = unquote(element(location[3]));
    return path !== undefined && isAddress(to) ? { path, to, status: statusOf(location[2], 302) } : undefined;
  }
  const mapped = /^(~?\*?)(["']?\^?\/[^\s"']+["']?)\s+(["']?https?:\/\/[^\s;]+?["']?)\s*;/i.exec(line);
  if (mapped) {
    const path = plainPath(element(mapped[2]));
    return path === undefined
      ? 'Its path is an expression; a short link has one address.'
      : { path, to: unquote(element(mapped[3])), status: 302 };
  }
  return undefined;
};

const caddy = (line: string): Line => {
  const found = /^redir\s+(\/\S+)\s+(\S+)(?:\s+(\S+))?\s*$/.exec(line);
  if (!found) return undefined;
  const path = plainPath(element(found[1]));
  const to = unquote(element(found[2]));
  if (path === undefined) return 'Its path is an expression; a short link has one address.';
  return isAddress(to)
    ? { path, to, status: statusOf(found[3], 302) }
    : 'It does not lead to an http or https address.';
};

const underscore = (line: string): Line => {
  const [from = '', to = '', code] = line.split(/\s+/);
  if (!from.startsWith('/')) return undefined;
  const path = plainPath(from.replace(/\/$/, ''));
  if (path === undefined || from.includes(':'))
    return 'Its path has placeholders; a short link has one address.';
  return isAddress(to)
    ? { path, to, status: statusOf(code?.replace('!', ''), 301) }
    : 'It does not lead to an http or https address.';
};

/** The redirect of one PHP file that sends a `Location`; its name is the path. */
const php = (text: string, name: string): ReadRedirects => {
  const header = /header\s*\(\s*(["'])\s*Location\s*:\s*(.+?)\1/is.exec(text);
  const line = header ? text.slice(0, header.index).split('\n').length : 1;
  const to = (header?.[2] ?? '').trim();
  const path = name.replace(/^.*[\\/]/, '').replace(/\.php$/i, '');
  const code = /(?:,\s*(?:true|false)\s*,\s*|http_response_code\s*\(\s*|HTTP\/[\d.]+\s+)(30[1278])/i.exec(
    text,
  )?.[1];
  if (!isAddress(to) || /[$"']\s*\./.test(to))
    return {
      format: 'PHP',
      redirects: [],
      unread: [{ line, text: to || name, why: 'No plain Location is in this file.' }],
    };
  return { format: 'PHP', redirects: [{ line, path, to, status: statusOf(code, 302) }], unread: [] };
};

const readers = [
  ['Apache', apache, /^\s*(?:Redirect|RedirectMatch|RedirectPermanent|RedirectTemp|RewriteRule)\s/im],
  ['Caddy', caddy, /^\s*redir\s+\//m],
  ['nginx', nginxLine, /^\s*(?:rewrite\s|map\s|location\s|~?\*?["']?\/\S+\s+["']?https?:\/\/\S+;)/m],
  ['_redirects', underscore, /^\s*\/\S+\s+https?:\/\/\S+/m],
] as const;

/**
 * Reads redirects that people made by hand: Apache's `Redirect` and `RewriteRule`, nginx' `rewrite`, `map` and
 * `return`, Caddy's `redir`, `_redirects` files, and PHP files that send a `Location`. Gives undefined for a text that
 * is none of these.
 */
export const readRedirects = (text: string, name: string): ReadRedirects | undefined => {
  if (/\.php$/i.test(name) || /^\s*<\?php/i.test(text)) return php(text, name);
  const reader = readers.find(([, , form]) => form.test(text));
  if (!reader) return undefined;
  const [format, read] = reader;
  const redirects: HandRedirect[] = [];
  const unread: { line: number; text: string; why: string }[] = [];
  // nginx may write a block over several lines; for reading it is one.
  const joined = format === 'nginx' ? text.replace(/\{\s*\n\s*return/g, '{ return') : text;
  for (const [i, raw] of joined.split(/\r?\n/).entries()) {
    const line = raw.trim();
    if (line === '' || line.startsWith('#')) continue;
    const found = read(line);
    if (found === undefined) continue;
    if (typeof found === 'string') unread.push({ line: i + 1, text: line.slice(0, 200), why: found });
    else redirects.push({ line: i + 1, ...found });
  }
  return { format, redirects, unread };
};
