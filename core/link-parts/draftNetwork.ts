import { element } from '#core/catalogue';
import type { LinkFormat, Role, Slot } from '#core/catalogue';
import { shopOf } from './deepLink.ts';
import { linkFormatOf, slotsOf } from './learn.ts';
import { pageInside } from './pageCoding.ts';
import { partAt } from './places.ts';
import { decodeQueryText } from './queryText.ts';
import { hostOf } from './splitLink.ts';

/** A program that the links of a network show. */
export interface DraftProgram {
  /** What the network's program parameter holds for it; empty where there is none. */
  readonly code: string;
  /** Hosts of its shop; none where its links lead to no page that can be read. */
  readonly hosts: readonly string[];
  /** Where its shop's front page is, as its links write it; undefined where no host is known. */
  readonly origin?: string;
  /** A name for it, from its shop's host. */
  readonly name: string;
}

/** What the links of a network nobody registered tell of it. */
export interface NetworkDraft {
  readonly name: string;
  readonly linkFormat: LinkFormat;
  readonly slots: readonly Slot[];
  /** The account tags that stand in the links. */
  readonly accounts: readonly string[];
  readonly programs: readonly DraftProgram[];
}

/** A host's own word as a name: `m.lantern-vale.example` gives `Lantern vale`. */
export const nameOfHost = (host: string): string => {
  const word = element(shopOf(host).split('.', 1)[0]);
  const words = word.replaceAll('-', ' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
};

/**
 * The piece of a page's title that names its shop: of pieces parted by a sign the one that is most like the host.
 *
 * @returns the shop's name, at most 80 characters; empty where no piece has anything of the host
 */
export const shopNameIn = (title: string, host: string): string => {
  const plain = (text: string) => text.toLowerCase().replace(/[^\p{Letter}\p{Number}]/gu, '');
  const own = plain(element(shopOf(host).split('.', 1)[0]));
  const pieces = title
    .split(/\s+[-–—|·:]\s+|:\s+/)
    .map((piece) => piece.trim())
    .filter((piece) => piece !== '' && piece.length <= 80);
  const initials = (piece: string) =>
    plain(
      piece
        .split(/\s+/)
        .map((word) => word.charAt(0))
        .join(''),
    );
  return (
    pieces.find((piece) => plain(piece) === own) ??
    pieces.find((piece) => own.includes(plain(piece)) || plain(piece).includes(own)) ??
    pieces.find((piece) => initials(piece) === own) ??
    ''
  );
};

/**
 * Drafts a network from its links: how they are written, its slots, the account tags in them, and a program for each code,
 * or for each shop where they have no code, with the shop of its page.
 *
 * @param links links of one network, at least one
 * @param roles what a person said of their parts; the others are compared
 */
export const draftNetwork = (links: readonly string[], roles: ReadonlyMap<string, Role>): NetworkDraft => {
  const linkFormat = linkFormatOf(links, roles);
  const valuesOf = (link: string, role: Role): string[] =>
    linkFormat.parameters.flatMap((parameter) => {
      const value = parameter.role === role ? partAt(link, parameter.name)?.value : undefined;
      return value === undefined || value === '' ? [] : [value];
    });
  const hasCode = linkFormat.parameters.some(({ role }) => role === 'program');
  const byKey = new Map<string, { code: string; hosts: string[]; origin?: string }>();
  for (const link of links) {
    const page = valuesOf(link, 'page').flatMap((value) => pageInside(value) ?? [])[0];
    const host = page === undefined ? '' : hostOf(page);
    const code = decodeQueryText(valuesOf(link, 'program')[0] ?? '');
    const key = hasCode ? code : shopOf(host);
    if (key === '') continue;
    const program = byKey.get(key) ?? { code, hosts: [] };
    byKey.set(key, program);
    if (host !== '' && !program.hosts.some((known) => shopOf(known) === shopOf(host)))
      program.hosts.push(host.replace(/^www\./, ''));
    if (page !== undefined && URL.canParse(page)) program.origin ??= new URL(page).origin;
  }
  return {
    name: nameOfHost(hostOf(element(links[0]))),
    linkFormat,
    slots: slotsOf(linkFormat),
    accounts: [
      ...new Set(links.flatMap((link) => valuesOf(link, 'account').map((tag) => decodeQueryText(tag)))),
    ],
    programs: [...byKey.values()].map((program) => ({
      ...program,
      name: program.hosts[0] === undefined ? `Program ${program.code}` : nameOfHost(program.hosts[0]),
    })),
  };
};
