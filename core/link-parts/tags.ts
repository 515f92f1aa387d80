import type { Account, Link, Network, Program } from '#core/catalogue';
import { readLink } from './read.ts';

/** An account tag in a link that nobody registered. */
export interface UnknownTag {
  readonly network: Network;
  readonly tag: string;
  /** Offset of the tag in the destination and its raw length, for replacing it. */
  readonly at: number;
  readonly length: number;
}

/** The account tag in a destination; an empty text where its network is not known or it carries none. */
export const accountTag = (
  destination: string,
  networks: readonly Network[],
  programs: readonly Program[],
): string =>
  readLink(destination, networks, programs).pairs.find(({ role }) => role === 'account')?.decoded ?? '';

/** A registered tag that stands in an address as the whole value of a parameter, whatever that is called: a shop's own program has no form to know. */
export const registeredTag = (destination: string, accounts: readonly Pick<Account, 'tag'>[]): string => {
  if (accounts.length === 0 || !URL.canParse(destination)) return '';
  const values = new Set(new URL(destination).searchParams.values());
  return accounts.find(({ tag }) => values.has(tag))?.tag ?? '';
};

/** The account tag of a destination when its network's register does not have it; undefined when all is well. */
export const unknownTag = (
  destination: string,
  networks: readonly Network[],
  programs: readonly Program[],
  accounts: readonly Account[],
): UnknownTag | undefined => {
  const { network, pairs } = readLink(destination, networks, programs);
  const pair = pairs.find(({ role }) => role === 'account');
  if (!network || !pair || pair.raw === '') return undefined;
  const tag = pair.decoded;
  const registered = accounts.filter((account) => account.network === network.id);
  // A network none of whose tags were ever registered tells nothing.
  return registered.length === 0 || registered.some((account) => account.tag === tag)
    ? undefined
    : { network, tag, at: pair.at, length: pair.raw.length };
};

/** The same for every destination a link may lead to; the first unknown one. */
export const unknownTagOf = (
  link: Pick<Link, 'destination' | 'branches'>,
  networks: readonly Network[],
  programs: readonly Program[],
  accounts: readonly Account[],
): UnknownTag | undefined =>
  [link.destination, ...(link.branches ?? []).map((branch) => branch.destination)]
    .map((destination) => unknownTag(destination, networks, programs, accounts))
    .find((found) => found !== undefined);

/** A destination with its unknown tag replaced by a registered one; every other byte stays. */
export const replaceTag = (destination: string, { at, length }: UnknownTag, tag: string): string =>
  destination.slice(0, at) + encodeURIComponent(tag) + destination.slice(at + length);
