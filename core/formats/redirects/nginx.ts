import { semicolonStatements } from './blocks.ts';
import type { Found } from './found.ts';
import { isAddress, put, statusOf, unread, whyNot } from './found.ts';

/** The path of a block such as `location = /kit`, or why it is none. */
const pathOf = (block: readonly string[]): { path: string } | { why: string } => {
  const [name = '', ...rest] = block;
  if (name === 'location') {
    const [mark, second] = rest;
    if (rest.length === 1 && mark?.startsWith('@'))
      return { why: 'It stands in a named location, which other lines lead to.' };
    return { path: rest.length > 1 ? (second ?? '') : (mark ?? '') };
  }
  if (name === 'if') {
    // `if ($request_uri = /kit)` asks for one path and nothing else.
    const asked = /^\(\s*\$(?:request_uri|uri|document_uri)\s+(?:=|~\*?)\s+["']?(\S+?)["']?\s*\)$/.exec(
      rest.join(' '),
    );
    return asked?.[1] === undefined ? { why: whyNot.condition } : { path: asked[1] };
  }
  return { why: whyNot.everything };
};

/** Reads nginx' `rewrite`, `return` and `map`, in their blocks. */
export const readNginx = (text: string): Found => {
  const found: Found = { redirects: [], unread: [] };
  for (const { line, words, inside } of semicolonStatements(text)) {
    const [name = '', ...rest] = words;
    const written = words.join(' ');
    const block = inside.at(-1) ?? [];
    const isConditional = inside.some(([kind], i) => kind === 'if' && i < inside.length - 1);
    if (block[0] === 'map') {
      const to = rest[0] ?? '';
      if (isAddress(to))
        if (name === 'default') unread(found, line, written, whyNot.everything);
        else put(found, { line, text: written, from: name.replace(/^~\*?/, ''), to, status: 302 });
      continue;
    }
    if (name === 'return') {
      const [code, to = ''] = rest.length > 1 ? rest : [undefined, rest[0]];
      if (!/^30[1278]$/.test(code ?? '') && !isAddress(to)) continue;
      if (!isAddress(to)) {
        // A redirect within the site is none of a short link's.
        if (/\$/.test(to)) unread(found, line, written, whyNot.puzzled);
        continue;
      }
      const at = isConditional ? { why: whyNot.condition } : pathOf(block);
      if ('why' in at) unread(found, line, written, at.why);
      else put(found, { line, text: written, from: at.path, to, status: statusOf(code, 302) });
      continue;
    }
    if (name === 'rewrite') {
      const [from = '', to = '', flag] = rest;
      if (!isAddress(to)) continue;
      if (inside.some(([kind]) => kind === 'if')) unread(found, line, written, whyNot.condition);
      else put(found, { line, text: written, from, to, status: statusOf(flag, 302) });
      continue;
    }
    if (name === 'error_page' && rest.some(isAddress))
      unread(found, line, written, 'It sends on what is not found, not one address.');
  }
  return found;
};

/** True for a text that has what nginx' redirects are made of. */
export const looksLikeNginx = (text: string): boolean =>
  /^\s*(?:rewrite\s|map\s|location\s|return\s+30\d|if\s*\(|server\s*\{|~?\*?["']?\/\S+\s+["']?https?:\/\/\S+;)/m.test(
    text,
  ) && /[;{]/.test(text);
