import type { Link } from '#core/catalogue';
import { isUlid, pathsOf } from '#core/catalogue';
import type { PastedAddress } from './pastedAddresses.ts';
import { addressesIn } from './pastedAddresses.ts';
import { pastedUnits } from './pastedText.ts';
import type { ReadAddress, Register } from './readAddress.ts';
import { readAddress } from './readAddress.ts';
import { searchLinks } from './search.ts';
import { hostOf, splitLink } from './splitLink.ts';

/** What a text put into the paste bar may be. */
export type Recognised =
  /** `title` are words that stood with the address; empty where none did. */
  | (ReadAddress & { readonly title: string })
  /** Several things, each read by itself. */
  | { readonly kind: 'many'; readonly units: number }
  | { readonly kind: 'short'; readonly link: Link }
  | { readonly kind: 'click'; readonly click: string }
  | { readonly kind: 'words'; readonly words: string; readonly links: readonly Link[] };

const shortLink = (text: string, { domains, links }: Register): Link | undefined => {
  const url = /^https?:\/\//i.test(text) ? text : `http://${text}`;
  const host = hostOf(url);
  const domain = domains.find((d) => d.host === host);
  if (!domain) return undefined;
  const path = splitLink(url)
    .path.slice(1)
    .replace(/(?:~|%7E).*$/i, '')
    .toLowerCase();
  return links.find((link) => link.domain === domain.id && pathsOf(link, domain).includes(path));
};

/** Says what a text is, likeliest first; undefined for an empty one. The last entry is always the plain words. */
export const recognise = (text: string, register: Register): Recognised[] => {
  const trimmed = text.trim();
  if (trimmed === '') return [];
  const found: Recognised[] = [];
  const own = /\s/.test(trimmed) ? undefined : shortLink(trimmed, register);
  if (own) found.push({ kind: 'short', link: own });
  else {
    const units = pastedUnits(trimmed);
    const addresses: PastedAddress[] = [];
    // Two are several; a thousand need not be read here.
    for (const unit of units) if (addresses.length < 2) addresses.push(...addressesIn(unit));
    const [first] = addresses;
    // One word with a point in it is rather something searched for than an address.
    const isWord = units.length === 1 && !/[/<\s]/.test(trimmed);
    if (first && units.length === 1 && addresses.length === 1 && !isWord)
      found.push({ ...readAddress(first.address, register, first.snippet), title: first.title });
    else if (first && !isWord) found.push({ kind: 'many', units: Math.max(units.length, addresses.length) });
  }
  if (isUlid(trimmed)) found.push({ kind: 'click', click: trimmed.toUpperCase() });
  found.push({ kind: 'words', words: trimmed, links: searchLinks(trimmed, register.links) });
  return found;
};
