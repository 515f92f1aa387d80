import type { Domain, Link, Network, Program, Restriction } from '#core/catalogue';
import { addressOf, marksOf, originOfHost, restrictionsOf } from '#core/catalogue';
import { compileDestination, expand } from '#core/hop';
import { isPlace, readLink } from '#core/link-parts';
import { anchorOf } from './anchorText.ts';
import type { Counted, PlacedLink } from './snippet.ts';

/**
 * The whole short address, and after `~` where its visitors come from.
 *
 * @param port of the server, for domains of this machine alone
 */
const shortUrl = (
  domain: Domain,
  link: Pick<Link, 'slug'> & { group?: string },
  port: string,
  source = '',
): string =>
  originOfHost(domain.host, port) +
  addressOf(domain, link).slice(domain.host.length) +
  (source === '' ? '' : `~${source}`);

/** What is placed of a link: an address, or why there is none to place. */
export type Placed = { readonly address: string } | { readonly refused: string };

/**
 * The address to place: the short one, or the destination as it is where no link of ours may stand between. What is
 * filled at each click stays empty in the latter; its clicks are counted from the page. Nothing is placed where the merchant
 * allows only short links of its own and the destination is a tracking link of its network.
 *
 * @param source where its visitors will come from, which need not be known before; empty for none
 */
export const placedUrl = (
  domain: Domain,
  link: Link,
  restrictions: readonly Restriction[],
  networks: readonly Network[],
  port: string,
  source = '',
): Placed => {
  const forbids = (what: Restriction['what']) => restrictions.find((h) => h.what === what);
  if (!forbids('short')) return { address: shortUrl(domain, link, port, source) };
  const { network, known } = readLink(link.destination, networks);
  const ownOnly = forbids('tracking');
  if (ownOnly && (network ?? known)) return { refused: ownOnly.because };
  const compiled = compileDestination(link.destination, link.asText);
  return {
    address: compiled.ok
      ? expand(compiled.value, (name) => ({ link: link.id, source })[name as string] ?? '')
      : link.destination,
  };
};

/** What the page script counts a link as that is placed as it is, and the parameter it puts the click ID into. */
export const countedAs = (link: Link): Counted => ({
  link: link.id,
  // A page's script can add a parameter; what stands at a place in the path it cannot fill.
  slot:
    readLink(link.destination).pairs.find((pair) => pair.raw === '{click}' && !isPlace(pair.name))?.name ??
    '',
});

/** A link as it may be placed, and what its merchant and its domain ask of that. */
export interface Placing {
  readonly link: PlacedLink;
  readonly restrictions: readonly Restriction[];
  /** What the merchant wants to be read in the linked text; empty where it wants nothing. */
  readonly name: string;
  /** A sentence that the merchant wants to stand with the link; empty where it wants none. */
  readonly disclosure: string;
}

/**
 * A link with its marks; or why nothing of it may be placed.
 *
 * @param program whose link it is
 * @param port of the server, for domains of this machine alone
 * @param source where its visitors will come from; empty for none
 * @param text what is linked; the link's usual words when left out
 */
export const placingOf = (
  link: Link,
  domain: Domain,
  program: Program | undefined,
  networks: readonly Network[],
  port: string,
  source = '',
  text?: string,
): Placing | { readonly refused: string } => {
  const restrictions = restrictionsOf(program, domain);
  const name = program?.rules?.name ?? ''; // a program without rules wants no name
  const placed = placedUrl(domain, link, restrictions, networks, port, source);
  if ('refused' in placed) return placed;
  const isOurs = !restrictions.some(({ what }) => what === 'short');
  return {
    link: {
      address: placed.address,
      text: text ?? anchorOf(link, name),
      marks: marksOf(link, domain),
      ...(!isOurs && { counted: countedAs(link) }),
      referrer: isOurs ? 'page' : 'usual',
    },
    restrictions,
    name,
    disclosure: program?.rules?.disclosure ?? '',
  };
};
