import { element } from '#core/catalogue';
import type { Found } from './found.ts';
import { isAddress, statusOf, unread, whyNot } from './found.ts';

const quoted = String.raw`(?:"((?:\\.|[^"\\])*)"|'((?:\\.|[^'\\])*)')`;
const textOf = (double: string | undefined, single: string | undefined): string =>
  (double ?? single ?? '').replace(/\\(["'\\$/])/g, '$1');
const lineAt = (text: string, index: number): number => text.slice(0, index).split('\n').length;
/** Code without its comments, of the same length, so that lines stay where they are. */
const withoutComments = (text: string): string =>
  text.replace(/"(?:\\.|[^"\\])*"|'(?:\\.|[^'\\])*'|\/\*[\s\S]*?\*\/|(?:\/\/|#)[^\n]*/g, (found) =>
    /^["']/.test(found) ? found : found.replace(/[^\n]/g, ' '),
  );

/** Texts that variables are set to once: `$url = 'https://…';`. */
const variablesOf = (code: string): ReadonlyMap<string, { value: string; line: number }> => {
  const found = new Map<string, { value: string; line: number }>();
  const twice = new Set<string>();
  for (const set of code.matchAll(new RegExp(String.raw`\$(\w+)\s*=\s*${quoted}\s*;`, 'g'))) {
    const name = element(set[1]);
    if (found.has(name)) twice.add(name);
    found.set(name, { value: textOf(set[2], set[3]), line: lineAt(code, set.index) });
  }
  for (const define of code.matchAll(
    new RegExp(String.raw`(?:define\s*\(\s*["'](\w+)["']\s*,\s*|const\s+(\w+)\s*=\s*)${quoted}`, 'g'),
  ))
    found.set(define[1] ?? define[2] ?? '', {
      value: textOf(define[3], define[4]),
      line: lineAt(code, define.index),
    });
  for (const name of twice) found.delete(name);
  return found;
};

/**
 * Reads the redirects of one PHP file that sends a `Location`: an address that stands there, in a variable or a constant, under
 * the file's name; or those of an array, each under its key.
 */
export const readPhp = (text: string, name: string): Found => {
  const found: Found = { redirects: [], unread: [] };
  const code = withoutComments(text);
  const path = name.replace(/^.*[\\/]/, '').replace(/\.php$/i, '');
  const status = statusOf(
    /(?:,\s*(?:true|false)\s*,\s*|http_response_code\s*\(\s*|HTTP\/[\d.]+\s+)(30[1278])/i.exec(code)?.[1],
    302,
  );
  const variables = variablesOf(code);
  // `'kit' => 'https://…'`: read only where the file sends a Location that an array gives.
  const entries = [...code.matchAll(new RegExp(String.raw`["']([^"'\n]+)["']\s*=>\s*${quoted}`, 'g'))].map(
    (entry) => ({
      key: element(entry[1]),
      to: textOf(entry[2], entry[3]),
      line: lineAt(code, entry.index),
    }),
  );
  const headers = [...code.matchAll(/header\s*\(\s*(["'])\s*Location\s*:\s*/gi)];
  for (const header of headers) {
    const line = lineAt(code, header.index);
    const rest = code.slice(header.index + header[0].length);
    const mark = header[1] ?? '"';
    const literal = rest.slice(0, rest.indexOf(mark));
    const after = rest.slice(rest.indexOf(mark) + 1);
    const joined = /^\s*\.\s*([^,;)]+(?:\[[^\]]*\][^,;)]*)?)/.exec(after)?.[1]?.trim();
    // "Location: $url" or 'Location: ' . $url
    const inText = mark === '"' ? /^\$(\w+)$|^\{\$(\w+)\}$/.exec(literal) : null;
    const variable =
      inText?.[1] ?? inText?.[2] ?? (literal === '' ? /^\$?(\w+)$/.exec(joined ?? '')?.[1] : undefined);
    const isArray = (literal === '' && /^\$\w+\s*\[/.test(joined ?? '')) || /^\{?\$\w+\[/.test(literal);
    const known = variable === undefined ? undefined : variables.get(variable);
    const written = code.split('\n')[line - 1] ?? '';
    if (joined === undefined && isAddress(literal) && !(mark === '"' && /\$\w|\{\$/.test(literal)))
      found.redirects.push({ line, path, to: literal.trim(), status });
    else if (known && isAddress(known.value))
      found.redirects.push({ line: known.line, path, to: known.value.trim(), status });
    else if ((isArray || variable !== undefined) && entries.some(({ to }) => isAddress(to))) {
      for (const { key, to, line: at } of entries)
        if (isAddress(to))
          found.redirects.push({ line: at, path: key.replace(/^\/+|\/+$/g, ''), to, status });
    } else unread(found, line, written || name, whyNot.puzzled);
  }
  if (headers.length === 0) unread(found, 1, name, 'No plain Location is in this file.');
  return found;
};
