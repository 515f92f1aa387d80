import { element } from '#core/catalogue';
import type { PastedSnippet } from './pasted.ts';
import { readSnippets } from './pasted.ts';
import type { PastedUnit } from './pastedText.ts';
import { pastedUnits } from './pastedText.ts';

/** An address found in pasted text, and what stands with it. */
export interface PastedAddress {
  readonly address: string;
  readonly title: string;
  readonly note: string;
  readonly snippet?: PastedSnippet;
}

/** Marks that nobody sees and that are no part of an address: a byte order mark, zero-width spaces, soft hyphens. */
const unseen = /[\ufeff\u200b-\u200d\u2060\u00ad]/g;
/** A text without them, and without space around it. */
export const seen = (text: string): string => text.replace(unseen, '').trim();

const whole = /^https?:\/\/[^/?#\s]+\S*$/i;
/** A host and perhaps a path, written without its scheme. */
const bare = /^(?:[a-z0-9](?:[a-z0-9-]*[a-z0-9])?\.)+[a-z]{2,}(?::\d+)?(?:[/?#]\S*)?$/i;
/** A name of a file, which looks like a host. */
const fileName = /\.(?:html?|php|txt|csv|tsv|json|xml|pdf|png|jpe?g|gif|webp|svg|js|ts|css|md|zip)$/i;
const inWords = /https?:\/\/[^\s<>"“”„«»]+/gi;

/** What goes on behind a space as an address does, and not as words do. */
const torn = /^\s+(?!https?:)(?:[/?&]\S|[^\s.,]*(?:=|&\w|%[0-9a-f]{2}))/i;

/** An address within words, without the marks of the sentence around it. */
const trimmedAddress = (written: string): string => {
  let address = written;
  for (;;) {
    const last = address.at(-1) ?? '';
    const closes = { ')': '(', ']': '[', '}': '{' }[last];
    // A bracket belongs to the sentence where the address has no opening one for it.
    if (closes !== undefined && address.split(closes).length >= address.split(last).length) return address;
    if (closes === undefined && !/[.,;:!?'’*_]/.test(last)) return address;
    address = address.slice(0, -1);
  }
};

const withScheme = (cell: string): PastedAddress | undefined => {
  if (whole.test(cell)) return { address: cell, title: '', note: '' };
  if (/^\/\/[^/\s]+\.\S+$/.test(cell))
    return { address: `https:${cell}`, title: '', note: 'It began with //; https: was put before it.' };
  if (bare.test(cell) && !fileName.test(cell))
    return { address: `https://${cell}`, title: '', note: 'It has no https://; that was put before it.' };
  return undefined;
};

/** The cells of a line of a spreadsheet: each address with the nearest words before it, else after it. */
const inCells = (line: string): PastedAddress[] => {
  const cells = line.split('\t').map((cell) => cell.trim().replace(/^"(.*)"$/s, '$1'));
  const read = cells.map(withScheme);
  const telling = (i: number): boolean => read[i] === undefined && /\p{Letter}{2}/u.test(cells[i] ?? '');
  return read.flatMap((found, i) => {
    if (!found) return [];
    let at = i - 1;
    while (at >= 0 && !telling(at)) at--;
    if (at < 0) at = cells.findIndex((_, n) => n > i && telling(n));
    return [{ ...found, title: at < 0 ? '' : (cells[at] ?? '') }];
  });
};

/** Links in Markdown, each with its text. */
const inMarkdown = (line: string): PastedAddress[] =>
  [
    ...line.matchAll(
      /!?\[([^\]]*)\]\(\s*<?(https?:\/\/(?:[^\s<>()]|\([^\s<>()]*\))+)>?(?:\s+["'(][^)]*)?\)/gi,
    ),
  ].map(([, title = '', address = '']) => ({ address, title, note: '' }));

const inLine = (line: string): PastedAddress[] => {
  const alone = withScheme(line.replace(/^<(.*)>$/, '$1'));
  if (alone) return [alone];
  if (line.includes('\t')) {
    const found = inCells(line);
    if (found.length > 0) return found;
  }
  const linked = inMarkdown(line);
  if (linked.length > 0) return linked;
  return [...line.matchAll(inWords)].flatMap(([written], i, all) => {
    const after = line.slice(element(all[i]).index + written.length);
    // A space that tore an address leaves half of one, which would lead elsewhere.
    if (torn.test(after)) return [];
    return [
      { address: trimmedAddress(written), title: '', note: 'It stood among words; they are left out.' },
    ];
  });
};

/** Why nothing was found in a line or snippet, and what to do about it. */
export const whyNoAddress = (text: string): string => {
  const scheme = /^([a-z][a-z0-9+.-]*):\S/i.exec(text)?.[1]?.toLowerCase();
  if (/<[a-z]/i.test(text)) return 'It is HTML that leads to no address on the web.';
  if (scheme === 'mailto' || /^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(text)) return 'It is a mail address.';
  if (scheme === 'javascript' || scheme === 'data')
    return `An address that begins with ${scheme}: leads to no page.`;
  if (scheme !== undefined && /^[a-z]+:\/\//i.test(text) && !/^https?:/i.test(text))
    return `An address that begins with ${scheme}: is no page on the web; a link leads to http:// or https://.`;
  if (/^https?:\/\/\S*\s/i.test(text)) return 'There is a space in its address: put %20 there, or mend it.';
  if (/^https?:/i.test(text)) return 'Its address has no host after https://.';
  return 'There is no address in it.';
};

/**
 * Every address in a unit of pasted text: what a snippet links to, what a spreadsheet's cells or a Markdown link hold, what
 * stands alone or among words. As they stand there: no byte of one is changed, but for a scheme put before one that has none.
 */
export const addressesIn = ({ text: pasted, from, to }: PastedUnit): PastedAddress[] => {
  const text = seen(pasted);
  const snippets = /<[a-z!/]/i.test(text) ? readSnippets(text) : [];
  if (snippets.length > 0)
    return snippets.map((snippet) => ({ address: snippet.address, title: snippet.text, note: '', snippet }));
  return from === to ? inLine(text) : [];
};

/** Every address in a pasted text, each once. */
export const pastedLinks = (text: string): string[] => [
  ...new Set(pastedUnits(text).flatMap((unit) => addressesIn(unit).map(({ address }) => address))),
];
