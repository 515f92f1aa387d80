import type { Domain, Link, Network, Program } from '#core/catalogue';
import { pathsOf } from '#core/catalogue';
import type { Anatomy } from './read.ts';
import { readLink } from './read.ts';
import { hostOf, splitLink } from './split.ts';

/** What a text put into the paste bar may be. */
export type Recognised =
  | { readonly kind: 'tracking'; readonly anatomy: Anatomy }
  | { readonly kind: 'address'; readonly anatomy: Anatomy }
  | { readonly kind: 'short'; readonly link: Link }
  | { readonly kind: 'click'; readonly click: string }
  | { readonly kind: 'words'; readonly words: string; readonly links: readonly Link[] };

export interface Register {
  readonly domains: readonly Domain[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly links: readonly Link[];
}

const clickForm = /^[0-7][0-9A-HJKMNP-TV-Z]{25}$/i;

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

/** Links whose slug, title, destination or notes hold every word, best first: by slug, then title, then the rest. */
export const searchLinks = (words: string, links: readonly Link[]): Link[] => {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const rank = (link: Link): number => {
    const places = [link.slug, link.title.toLowerCase(), `${link.destination} ${link.notes}`.toLowerCase()];
    const ranks = wanted.map((word) => places.findIndex((place) => place.includes(word)));
    return ranks.includes(-1) ? -1 : Math.max(...ranks);
  };
  return links
    .map((link) => ({ link, rank: rank(link) }))
    .filter((found) => found.rank >= 0)
    .sort((a, b) => a.rank - b.rank)
    .map((found) => found.link);
};

/** Says what a text is, likeliest first; undefined for an empty one. The last entry is always the plain words. */
export const recognise = (text: string, register: Register): Recognised[] => {
  const trimmed = text.trim();
  if (trimmed === '') return [];
  const found: Recognised[] = [];
  const own = /\s/.test(trimmed) ? undefined : shortLink(trimmed, register);
  if (own) found.push({ kind: 'short', link: own });
  if (!own && /^https?:\/\/[^/?#\s]+/i.test(trimmed) && !/\s/.test(trimmed)) {
    const anatomy = readLink(trimmed, register.networks, register.programs);
    found.push({ kind: anatomy.network || anatomy.known ? 'tracking' : 'address', anatomy });
  }
  if (clickForm.test(trimmed)) found.push({ kind: 'click', click: trimmed.toUpperCase() });
  found.push({ kind: 'words', words: trimmed, links: searchLinks(trimmed, register.links) });
  return found;
};
