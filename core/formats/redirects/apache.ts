import { element } from '#core/catalogue';
import type { Found } from './found.ts';
import { isAddress, put, statusOf, unquote, unread, whyNot, words } from './found.ts';

/** Reads Apache's `Redirect` and `RewriteRule`, with the conditions and sections around them. */
export const readApache = (text: string): Found => {
  const found: Found = { redirects: [], unread: [] };
  /** Sections that are open: `<Location "/kit">` has a path, others are conditions. */
  const sections: { readonly name: string; readonly of: string }[] = [];
  /** A `RewriteCond` stands before the next rule. */
  let isConditional = false;
  const lines = text.split(/\r?\n/);
  for (let i = 0; i < lines.length; i++) {
    const number = i + 1;
    let line = element(lines[i]).trim();
    // A backslash at its end goes on with the next line.
    while (line.endsWith('\\') && i + 1 < lines.length)
      line = `${line.slice(0, -1)} ${(lines[++i] ?? '').trim()}`;
    if (line === '' || line.startsWith('#')) continue;
    const opened = /^<(\w+)\s*(.*?)>$/.exec(line);
    if (opened) {
      sections.push({ name: element(opened[1]).toLowerCase(), of: unquote(element(opened[2])) });
      continue;
    }
    if (line.startsWith('</')) {
      sections.pop();
      continue;
    }
    const [directive = '', ...rest] = words(line);
    const name = directive.toLowerCase();
    const section = sections.findLast(({ name: kind }) => kind !== 'ifmodule' && kind !== 'virtualhost');
    const isLocation = section?.name === 'location' && section.of.startsWith('/');
    const inCondition = section !== undefined && !isLocation && section.name !== 'directory';
    if (name === 'rewritecond') {
      isConditional = true;
      continue;
    }
    if (/^redirect(?:match|permanent|temp)?$/.test(name)) {
      const fixed = { redirectpermanent: 301, redirecttemp: 302 } as const;
      const args = rest.map(unquote);
      const to = args.at(-1) ?? '';
      const hasStatus = !/^\/|^\^/.test(args[0] ?? '') && args.length > 1;
      const status =
        name in fixed ? fixed[name as keyof typeof fixed] : statusOf(hasStatus ? args[0] : undefined, 302);
      const from = args.length > (hasStatus ? 2 : 1) ? args.at(-2) : undefined;
      if (inCondition) unread(found, number, line, whyNot.condition);
      else if (from === undefined && !isLocation) unread(found, number, line, whyNot.noAddress);
      else put(found, { line: number, text: line, from: from ?? section?.of ?? '', to, status });
      continue;
    }
    if (name === 'rewriterule') {
      const [from = '', to = '', flags = ''] = rest;
      const address = unquote(to);
      const depends = isConditional || inCondition;
      isConditional = false;
      if (!isAddress(address) && !/^%\{/.test(address)) continue;
      if (depends) unread(found, number, line, whyNot.condition);
      else
        put(found, {
          line: number,
          text: line,
          from,
          to: address,
          status: statusOf(/[[,]\s*R=(\w+)/i.exec(flags)?.[1], 302),
        });
    }
  }
  return found;
};
