import type { Statement } from './blocks.ts';
import { lineStatements } from './blocks.ts';
import type { Found } from './found.ts';
import { isAddress, put, statusOf, unread, whyNot } from './found.ts';

/** Paths a named matcher stands for; undefined where it asks for more than a path. */
const matchersOf = (statements: readonly Statement[]): ReadonlyMap<string, readonly string[] | undefined> => {
  const found = new Map<string, readonly string[] | undefined>();
  for (const { words, inside } of statements) {
    const [first = '', second, ...rest] = words;
    // On one line: `@old path /a /b`; in a block: `@old { path /a }`.
    if (/^@\w/.test(first)) found.set(first, second === 'path' ? rest : undefined);
    const block = inside.at(-1)?.[0] ?? '';
    if (!/^@\w/.test(block)) continue;
    const before = found.has(block) ? found.get(block) : [];
    found.set(block, first === 'path' && before ? [...before, ...words.slice(1)] : undefined);
  }
  return found;
};

/** Reads Caddy's `redir`, by path or matcher, in `handle` and `route` blocks too. */
export const readCaddy = (text: string): Found => {
  const found: Found = { redirects: [], unread: [] };
  const statements = lineStatements(text);
  const matchers = matchersOf(statements);
  for (const { line, words, inside } of statements) {
    if (words[0] !== 'redir') continue;
    const written = words.join(' ');
    const [first = '', ...others] = words.slice(1);
    const hasMatcher = /^[/@*]/.test(first);
    const [to = '', code] = hasMatcher ? others : [first, ...others];
    // The nearest block around it that asks for a path: `handle /kit { … }`.
    const around = inside.findLast(
      ([name = '', matcher = '']) => /^(?:handle|handle_path|route)$/.test(name) && /^[/@]/.test(matcher),
    )?.[1];
    const matcher = hasMatcher && first !== '*' ? first : around;
    if (matcher === undefined) {
      if (isAddress(to) || /\{/.test(to)) unread(found, line, written, whyNot.everything);
      continue;
    }
    const paths = matcher.startsWith('@') ? matchers.get(matcher) : [matcher];
    if (paths === undefined || paths.length === 0) {
      unread(found, line, written, whyNot.condition);
      continue;
    }
    for (const from of paths) put(found, { line, text: written, from, to, status: statusOf(code, 302) });
  }
  return found;
};
