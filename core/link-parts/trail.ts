import { element } from '#core/catalogue';
import type { Network } from '#core/catalogue';
import { placeTitle } from './places.ts';
import { readLink } from './read.ts';

/** One thing followed along a traced chain. */
export interface Followed {
  readonly name: string;
  readonly value: string;
  /** For each hop whether it still stands in its address. */
  readonly there: readonly boolean[];
  /** Index of the hop where it was lost; undefined when it arrived or never set out. */
  readonly lostAt?: number;
}

const holds = (url: string, value: string): boolean => {
  let text = url;
  for (let times = 0; times < 3; times++) {
    if (text.includes(value)) return true;
    try {
      const next = decodeURIComponent(text);
      if (next === text) return false;
      text = next;
    } catch {
      return false;
    }
  }
  return false;
};

/**
 * Follows named values along the addresses of a chain: where each is still present, encoded or not, and at which hop it
 * was lost. What a network keeps for itself is lost at its own host by design, and said by the caller.
 */
export const followValues = (urls: readonly string[], values: Readonly<Record<string, string>>): Followed[] =>
  Object.entries(values)
    .filter(([, value]) => value !== '')
    .map(([name, value]) => {
      const there = urls.map((url) => holds(url, value));
      const first = there.indexOf(true);
      const lost = first < 0 ? -1 : there.findIndex((has, i) => i > first && !has);
      return { name, value, there, ...(lost > 0 && { lostAt: lost }) };
    });

/** Another account in the place of the person's, on the way through one network. */
export interface Swapped {
  /** Index of the hop in whose address the other account stands. */
  readonly at: number;
  readonly was: string;
  readonly is: string;
}

/** How what credits the person fared along a traced chain. */
export interface Trail {
  /** Index of the hop where the network itself was asked; -1 when none was. */
  readonly networkAt: number;
  readonly followed: readonly (Followed & {
    /** `arrived` at the network, `lost` on the way to it, or `carried` on a chain without a network. */
    readonly fate: 'arrived' | 'lost' | 'carried';
  })[];
  /** Somebody on the way credits another account; undefined where nobody does. */
  readonly swapped?: Swapped;
}

/** Account and sub-IDs of an address, those of an address inside it included. */
const creditIn = (url: string, networks: readonly Network[]): Record<string, string> => {
  const linkParts = readLink(url, networks);
  const inner = linkParts.page === undefined ? {} : creditIn(linkParts.page, networks);
  const own = linkParts.pairs.filter(
    (p) => (p.role === 'account' || p.role === 'slot') && p.decoded.length > 2,
  );
  return { ...inner, ...Object.fromEntries(own.map((p) => [placeTitle(p.name), p.decoded])) };
};

/** The account an address credits, and at which network; that of an address inside it where it is none itself. */
const creditedBy = (
  url: string,
  networks: readonly Network[],
): { readonly network: string; readonly account: string } | undefined => {
  const { network, known, pairs, page } = readLink(url, networks);
  const account = pairs.find(({ role }) => role === 'account')?.decoded ?? '';
  const name = (network ?? known)?.name;
  if (name !== undefined) return account === '' ? undefined : { network: name, account };
  return page === undefined ? undefined : creditedBy(page, networks);
};

/** The first hop that credits another account of a network than the first that named one. */
const swappedAccount = (urls: readonly string[], networks: readonly Network[]): Swapped | undefined => {
  const credited = urls.map((url) => creditedBy(url, networks));
  const first = credited.find((one) => one !== undefined);
  const at = credited.findIndex(
    (one) => one !== undefined && one.network === first?.network && one.account !== first.account,
  );
  return first && at >= 0 ? { at, was: first.account, is: element(credited[at]).account } : undefined;
};

/**
 * Says how account and sub-IDs fared on their way to the network. What the network keeps for itself after that is not
 * lost.
 *
 * @param urls the addresses of the chain, the short link of ours left out
 */
export const trailOf = (urls: readonly string[], networks: readonly Network[]): Trail => {
  const [start = ''] = urls;
  const networkAt = urls.findIndex((url) => {
    const { network, known } = readLink(url, networks);
    return network !== undefined || known !== undefined;
  });
  const followed = followValues(urls, creditIn(start, networks)).map((one) => ({
    ...one,
    fate:
      networkAt < 0 ? ('carried' as const) : one.there[networkAt] ? ('arrived' as const) : ('lost' as const),
  }));
  const swapped = swappedAccount(urls, networks);
  return { networkAt, followed, ...(swapped && { swapped }) };
};
