import { readApache } from './apache.ts';
import { readCaddy } from './caddy.ts';
import type { Found, HandRedirect, UnreadRedirect } from './found.ts';
import { plainPath, put, statusOf, unread } from './found.ts';
import { looksLikeNginx, readNginx } from './nginx.ts';
import { readPhp } from './php.ts';

export type { HandRedirect } from './found.ts';

/** Redirects that were read, and lines that look like one and could not be. */
export interface ReadRedirects {
  readonly format: 'Apache' | 'nginx' | 'Caddy' | '_redirects' | 'PHP';
  readonly redirects: readonly HandRedirect[];
  readonly unread: readonly UnreadRedirect[];
}

/** Reads a `_redirects` file of a static host: path, address and perhaps a status a line. */
const readUnderscore = (text: string): Found => {
  const found: Found = { redirects: [], unread: [] };
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = raw.trim();
    if (line === '' || line.startsWith('#')) continue;
    const [from = '', to = '', code] = line.split(/\s+/);
    if (!from.startsWith('/')) {
      if (/https?:\/\//i.test(line)) unread(found, i + 1, line, 'It begins with no path.');
      continue;
    }
    if (from.includes(':') || plainPath(from) === undefined)
      unread(found, i + 1, line, 'Its path has placeholders; a short link has one address.');
    else put(found, { line: i + 1, text: line, from, to, status: statusOf(code?.replace('!', ''), 301) });
  }
  return found;
};

const readers = [
  [
    'Apache',
    readApache,
    (text: string) =>
      /^\s*(?:Redirect|RedirectMatch|RedirectPermanent|RedirectTemp|RewriteRule)\s/im.test(text),
  ],
  ['Caddy', readCaddy, (text: string) => /^\s*redir\s+\S/m.test(text)],
  ['nginx', readNginx, looksLikeNginx],
  ['_redirects', readUnderscore, (text: string) => /^\s*\/\S+\s+https?:\/\/\S+/m.test(text)],
] as const;

/**
 * Reads redirects that people made by hand: Apache's `Redirect` and `RewriteRule`, nginx' `rewrite`, `map` and
 * `return`, Caddy's `redir`, `_redirects` files, and PHP files that send a `Location`. What leads to an address and cannot be
 * read is named with its line and the reason. Gives undefined for a text that is none of these.
 */
export const readRedirects = (text: string, name: string): ReadRedirects | undefined => {
  if (/\.php$/i.test(name) || /^\s*<\?php/i.test(text)) return { format: 'PHP', ...readPhp(text, name) };
  const reader = readers.find(([, , isIt]) => isIt(text));
  if (!reader) return undefined;
  const [format, read] = reader;
  return { format, ...read(text) };
};
