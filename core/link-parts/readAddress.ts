import type { Account, Domain, Link, Network, Program } from '#core/catalogue';
import type { DeepLink, Stripped } from './deepLink.ts';
import { deepLink, programsFor, stripPage } from './deepLink.ts';
import type { PastedSnippet } from './pasted.ts';
import type { LinkParts } from './read.ts';
import { readLink } from './read.ts';
import { accountTag } from './tags.ts';

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

/**
 * The account tag a program's links get: its own, else that of its newest link whose tag is registered, else the first
 * registered at its network, else that of its newest link.
 */
export const tagFor = (
  program: Program,
  { accounts, links, networks }: Pick<Register, 'accounts' | 'links' | 'networks'>,
): string => {
  if (program.tag !== undefined && program.tag !== '') return program.tag;
  const tags = accounts.filter(({ network }) => network === program.network).map(({ tag }) => tag);
  const used = links.flatMap((link) =>
    link.program === program.id ? [accountTag(link.destination, networks, [])] : [],
  );
  return used.findLast((tag) => tags.includes(tag)) ?? tags[0] ?? used.at(-1) ?? '';
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
      const own = register.links.filter((link) => link.program === program.id);
      const destinations = own.map(({ destination }) => destination);
      const made = deepLink(stripped.page, network, program, tagFor(program, register), destinations);
      return [{ network, program, stripped, made }];
    });

/** What an address is, without the ways to make a link of it: they rest on every link there is. */
export const addressKind = (linkParts: LinkParts, programs: readonly Program[]): ReadAddress['kind'] => {
  const { link, network, known, pairs } = linkParts;
  const owner = network ?? known;
  if (owner) {
    // A shop that is its own network: a page of it that credits nobody yet is a page to be made a link of.
    const credited = pairs.some((pair) => pair.role === 'account' && pair.raw !== '');
    if (credited || owner.linkFormat.parameters.some(({ role }) => role === 'page')) return 'tracking';
  }
  const own = programsFor(link, programs);
  if (own.some(({ state }) => state === 'joined')) return 'page';
  if (own.length > 0) return 'not joined';
  return owner ? 'tracking' : 'address';
};

/** Says what an address is: a tracking link, a page of a shop joined or not, or neither. */
export const readAddress = (address: string, register: Register, snippet?: PastedSnippet): ReadAddress => {
  const linkParts = readLink(address, register.networks, register.programs);
  const kind = addressKind(linkParts, register.programs);
  if (kind === 'page') return { kind, page: address, choices: pageChoices(address, register) };
  if (kind === 'not joined')
    return { kind, page: address, programs: programsFor(address, register.programs) };
  return { kind, linkParts, ...(snippet && { snippet }) };
};
