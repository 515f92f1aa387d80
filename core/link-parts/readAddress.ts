import type { Account, Domain, Link, Network, Program } from '#core/catalogue';
import type { DeepLink, Stripped } from './deepLink.ts';
import { deepLink, programsFor, stripPage } from './deepLink.ts';
import type { PastedSnippet } from './pasted.ts';
import type { LinkParts } from './read.ts';
import { readLink } from './read.ts';

export interface Register {
  readonly domains: readonly Domain[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
  readonly accounts: readonly Account[];
  readonly links: readonly Link[];
}

/** One way to make a shop's page a tracking link. */
export interface PageChoice {
  readonly network: Network;
  readonly program: Program;
  readonly stripped: Stripped;
  readonly made: DeepLink;
}

/** What an address may be. */
export type ReadAddress =
  | {
      readonly kind: 'tracking' | 'address';
      readonly linkParts: LinkParts;
      readonly snippet?: PastedSnippet;
    }
  | { readonly kind: 'page'; readonly page: string; readonly choices: readonly PageChoice[] }
  /** A page of a shop whose program is known and not joined. */
  | { readonly kind: 'not joined'; readonly page: string; readonly programs: readonly Program[] };

/** The account tag a program's links get: its own, else that of its links, else the first registered at its network. */
export const tagFor = (
  program: Program,
  { accounts, links, networks }: Pick<Register, 'accounts' | 'links' | 'networks'>,
): string => {
  if (program.tag !== undefined && program.tag !== '') return program.tag;
  const sample = links.findLast((link) => link.program === program.id);
  const used =
    sample && readLink(sample.destination, networks).pairs.find((pair) => pair.role === 'account')?.decoded;
  return used ?? accounts.find((account) => account.network === program.network)?.tag ?? '';
};

/**
 * The ways to make a page a tracking link, one for each joined program of its shop.
 *
 * @param kept parameters that stay though they would be taken away
 */
export const pageChoices = (page: string, register: Register, kept: readonly string[] = []): PageChoice[] =>
  programsFor(page, register.programs)
    .filter((program) => program.state === 'joined')
    .flatMap((program) => {
      const network = register.networks.find((n) => n.id === program.network);
      if (!network) return [];
      const stripped = stripPage(page, program.strip, [...(program.keep ?? []), ...kept]);
      const sample = register.links.findLast((link) => link.program === program.id)?.destination;
      const made = deepLink(stripped.page, network, program, tagFor(program, register), sample);
      return [{ network, program, stripped, made }];
    });

/** Says what an address is: a tracking link, a page of a shop joined or not, or neither. */
export const readAddress = (address: string, register: Register, snippet?: PastedSnippet): ReadAddress => {
  const linkParts = readLink(address, register.networks, register.programs);
  const more = snippet ? { snippet } : {};
  if (linkParts.network || linkParts.known) {
    // A shop that is its own network: a page of it that credits nobody yet is a page to be made a link of.
    const credited = linkParts.pairs.some((pair) => pair.role === 'account' && pair.raw !== '');
    const takesPages = (linkParts.network ?? linkParts.known)?.linkFormat.parameters.some(
      (p) => p.role === 'page',
    );
    if (credited || takesPages) return { kind: 'tracking', linkParts, ...more };
  }
  const programs = programsFor(address, register.programs);
  if (programs.some((program) => program.state === 'joined'))
    return { kind: 'page', page: address, choices: pageChoices(address, register) };
  if (programs.length > 0) return { kind: 'not joined', page: address, programs };
  return { kind: linkParts.network || linkParts.known ? 'tracking' : 'address', linkParts, ...more };
};
