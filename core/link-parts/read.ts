import type { LinkFormat, Network, Program, Role } from '#core/catalogue';
import { fitsFormat } from './fits.ts';
import { pageInside } from './pageCoding.ts';
import type { LinkPart } from './places.ts';
import { isPlace, partAt, partsOf, withParts } from './places.ts';
import type { KnownNetwork } from './shipped.ts';
import { knownNetworks } from './shipped.ts';
import type { RoleGuess } from './roles.ts';
import { guessRole } from './roles.ts';
import type { Split } from './splitLink.ts';
import { decodeQueryText } from './queryText.ts';
import { hostOf, splitLink } from './splitLink.ts';

/** A part of a read link: a parameter, or what stands at a place (`places.ts`). */
export interface ReadPair extends RoleGuess {
  readonly name: string;
  /** As it stands in the link. */
  readonly raw: string;
  readonly decoded: string;
  /** Offset of the raw value in the link. */
  readonly at: number;
}

/** What a pasted link is made of. */
export interface LinkParts {
  /** The very bytes that were read. */
  readonly link: string;
  readonly split: Split;
  readonly host: string;
  /** Every parameter, and what of host, path and fragment has a role. */
  readonly pairs: readonly ReadPair[];
  /** A network of the register whose link format fits. */
  readonly network?: Network;
  /** A network that ships and fits, where none of the register does. */
  readonly known?: KnownNetwork;
  readonly program?: Program;
  /** Name of the program, registered or shipped. */
  readonly programName?: string;
  /** The page inside the link, decoded. */
  readonly page?: string;
}

/** The parts of a link that are shown: every parameter, and of the rest what the format or the value gives a role. */
const partsToRead = (link: string, linkFormat: LinkFormat | undefined): LinkPart[] => {
  const placed = (linkFormat?.parameters ?? []).flatMap(({ name }) =>
    isPlace(name) ? (partAt(link, name) ?? []) : [],
  );
  const inPieces = new Set(placed.map(({ name }) => name.replace(/[.#]\d+$/, '')));
  const found = partsOf(link).filter((part) => {
    if (placed.some(({ name }) => name === part.name) || inPieces.has(part.name)) return false;
    if (part.value === '' && part.name.startsWith('/')) return false;
    return !isPlace(part.name) || guessRole(part).role !== 'other';
  });
  return [...placed, ...found].toSorted((a, b) => a.at - b.at);
};

const valueOf = (pairs: readonly ReadPair[], role: Role): string | undefined =>
  pairs.find((pair) => pair.role === role)?.decoded;

/**
 * Reads a tracking link against the register of networks and programs, then against those that ship.
 * Changes nothing: `linkParts.split.parts`, joined, are the link.
 */
export const readLink = (
  link: string,
  networks: readonly Network[] = [],
  programs: readonly Program[] = [],
): LinkParts => {
  const split = splitLink(link);
  const host = hostOf(link);
  const network = networks.find((n) => fitsFormat(n.linkFormat, host, split.path));
  const known = network ? undefined : knownNetworks.find((n) => fitsFormat(n.linkFormat, host, split.path));
  const linkFormat = network?.linkFormat ?? known?.linkFormat;
  const pairs = partsToRead(link, linkFormat).map((part) => ({
    name: part.name,
    raw: part.value,
    decoded: decodeQueryText(part.value),
    at: part.at,
    ...guessRole(part, linkFormat),
  }));
  const code = valueOf(pairs, 'program') ?? '';
  const program = network && programs.find((p) => p.network === network.id && p.code === code);
  const rawPage = pairs.find((pair) => pair.role === 'page')?.raw;
  const page = rawPage === undefined ? undefined : pageInside(rawPage);
  const programName = program?.name ?? known?.programs.find((p) => p.code === code)?.name;
  return {
    link,
    split,
    host,
    pairs,
    ...(network && { network }),
    ...(known && { known }),
    ...(program && { program }),
    ...(programName !== undefined && { programName }),
    ...(page !== undefined && { page }),
  };
};

/**
 * Fills the slots a network keeps for the click ID and the source, where they are empty or missing.
 * A slot that already holds a word is left as it is: the person may have meant it.
 */
export const fillSlots = (linkParts: LinkParts): string => {
  const slots = linkParts.network?.slots ?? linkParts.known?.slots ?? [];
  const fills: Record<string, string> = {};
  for (const slot of slots) {
    const pair = linkParts.pairs.find((p) => p.name === slot.name);
    if (slot.fill !== '' && (pair === undefined || pair.raw === '')) fills[slot.name] = slot.fill;
  }
  return withParts(linkParts.link, fills);
};

/** A title for a link that has none: the last telling word of the page inside it, or the host. */
export const proposeTitle = (linkParts: LinkParts): string => {
  const target = linkParts.page ?? linkParts.link;
  const split = splitLink(target);
  const segment = split.path
    .split('/')
    .map((part) => decodeQueryText(part).replace(/\.\w{2,5}$/, ''))
    .filter((part) => /\p{Letter}{2}/u.test(part))
    .at(-1);
  const words = (segment ?? '').replace(/[-_+]+/g, ' ').trim();
  // The path of a tracking link tells nothing of what it leads to; that of a plain page does.
  const isPage =
    linkParts.page !== undefined ||
    (linkParts.network === undefined && linkParts.known === undefined && linkParts.pairs.length === 0);
  const title = words === '' || !isPage ? (linkParts.programName ?? linkParts.host) : words;
  return title.charAt(0).toUpperCase() + title.slice(1);
};

/** Path of the page a link leads to, as far as it can be told: that of the page inside it, else its own. */
export const pagePath = (link: string): string => {
  const linkParts = readLink(link);
  return decodeQueryText(splitLink(linkParts.page ?? link).path);
};
