import type { Network, Program, Role } from '#core/catalogue';
import type { KnownNetwork } from './shipped.ts';
import { knownNetworks } from './shipped.ts';
import type { RoleGuess } from './roles.ts';
import { guessRole, pageInside } from './roles.ts';
import type { Split } from './split.ts';
import { decodeValue, fillParameters, hostOf, splitLink } from './split.ts';

/** A parameter of a read link. */
export interface ReadPair extends RoleGuess {
  readonly name: string;
  /** As it stands in the link. */
  readonly raw: string;
  readonly decoded: string;
}

/** What a pasted link is made of. */
export interface Anatomy {
  /** The very bytes that were read. */
  readonly link: string;
  readonly split: Split;
  readonly host: string;
  readonly pairs: readonly ReadPair[];
  /** A network of the register whose grammar fits. */
  readonly network?: Network;
  /** A network that ships and fits, where none of the register does. */
  readonly known?: KnownNetwork;
  readonly program?: Program;
  /** Name of the program, registered or shipped. */
  readonly programName?: string;
  /** The page inside the link, decoded. */
  readonly page?: string;
}

const fits = (grammar: Network['grammar'], host: string, path: string): boolean =>
  grammar.hosts.includes(host) &&
  (grammar.path.endsWith('*') ? path.startsWith(grammar.path.slice(0, -1)) : path === grammar.path);

const valueOf = (pairs: readonly ReadPair[], role: Role): string | undefined =>
  pairs.find((pair) => pair.role === role)?.decoded;

/**
 * Reads a tracking link against the register of networks and programs, then against those that ship.
 * Changes nothing: `anatomy.split.parts`, joined, are the link.
 */
export const readLink = (
  link: string,
  networks: readonly Network[] = [],
  programs: readonly Program[] = [],
): Anatomy => {
  const split = splitLink(link);
  const host = hostOf(link);
  const network = networks.find((n) => fits(n.grammar, host, split.path));
  const known = network ? undefined : knownNetworks.find((n) => fits(n.grammar, host, split.path));
  const grammar = network?.grammar ?? known?.grammar;
  const pairs = split.pairs
    .filter((pair) => pair.name !== '' || pair.value !== '')
    .map((pair) => ({
      name: pair.name,
      raw: pair.value,
      decoded: decodeValue(pair.value),
      ...guessRole(pair, grammar),
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
export const fillSlots = (anatomy: Anatomy): string => {
  const slots = anatomy.network?.slots ?? anatomy.known?.slots ?? [];
  const fills: Record<string, string> = {};
  for (const slot of slots) {
    const pair = anatomy.pairs.find((p) => p.name === slot.name);
    if (slot.fill !== '' && (pair === undefined || pair.raw === '')) fills[slot.name] = slot.fill;
  }
  return fillParameters(anatomy.link, fills);
};

/** A title for a link that has none: the last telling word of the page inside it, or the host. */
export const proposeTitle = (anatomy: Anatomy): string => {
  const target = anatomy.page ?? anatomy.link;
  const split = splitLink(target);
  const segment = split.path
    .split('/')
    .map((part) => decodeValue(part).replace(/\.\w{2,5}$/, ''))
    .filter((part) => /\p{Letter}{2}/u.test(part))
    .at(-1);
  const words = (segment ?? '').replace(/[-_+]+/g, ' ').trim();
  const title = words === '' || anatomy.page === undefined ? (anatomy.programName ?? anatomy.host) : words;
  return title.charAt(0).toUpperCase() + title.slice(1);
};

/** Path of the page a link leads to, as far as it can be told: that of the page inside it, else its own. */
export const pagePath = (link: string): string => {
  const anatomy = readLink(link);
  return decodeValue(splitLink(anatomy.page ?? link).path);
};
