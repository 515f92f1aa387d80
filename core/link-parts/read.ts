import type { Network, Program, Role } from '#core/catalogue';
import type { KnownNetwork } from './shipped.ts';
import { knownNetworks } from './shipped.ts';
import type { RoleGuess } from './roles.ts';
import { guessRole, pageInside } from './roles.ts';
import type { Split } from './splitLink.ts';
import { decodeQueryText } from './queryText.ts';
import { fillParameters, hostOf, splitLink } from './splitLink.ts';

/** A parameter of a read link. */
export interface ReadPair extends RoleGuess {
  readonly name: string;
  /** As it stands in the link. */
  readonly raw: string;
  readonly decoded: string;
}

/** What a pasted link is made of. */
export interface LinkParts {
  /** The very bytes that were read. */
  readonly link: string;
  readonly split: Split;
  readonly host: string;
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

const fits = (linkFormat: Network['linkFormat'], host: string, path: string): boolean =>
  linkFormat.hosts.includes(host) &&
  (linkFormat.path.endsWith('*') ? path.startsWith(linkFormat.path.slice(0, -1)) : path === linkFormat.path);

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
  const network = networks.find((n) => fits(n.linkFormat, host, split.path));
  const known = network ? undefined : knownNetworks.find((n) => fits(n.linkFormat, host, split.path));
  const linkFormat = network?.linkFormat ?? known?.linkFormat;
  const pairs = split.pairs
    .filter((pair) => pair.name !== '' || pair.value !== '')
    .map((pair) => ({
      name: pair.name,
      raw: pair.value,
      decoded: decodeQueryText(pair.value),
      ...guessRole(pair, linkFormat),
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
  return fillParameters(linkParts.link, fills);
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
