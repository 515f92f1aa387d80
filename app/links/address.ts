import type { Domain, Link, Network, Restriction } from '#core/catalogue';
import { addressOf, originOfHost } from '#core/catalogue';
import { isPlace, readLink } from '#core/link-parts';
import { compileDestination, expand } from '#core/hop';
import type { Counted } from '#core/placing';

/** The whole short address, and after `~` where its visitors come from. */
export const shortUrl = (
  domain: Domain,
  link: Pick<Link, 'slug'> & { group?: string },
  source = '',
): string =>
  originOfHost(domain.host, location.port) +
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
  source = '',
): Placed => {
  const forbids = (what: Restriction['what']) => restrictions.find((h) => h.what === what);
  if (!forbids('short')) return { address: shortUrl(domain, link, source) };
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
