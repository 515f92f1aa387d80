import type { Domain, Link } from '#core/catalogue';
import type { Held } from '#core/catalogue';
import { addressOf } from '#core/catalogue';
import { readLink } from '#core/anatomy';
import { compileDestination, expand } from '#core/hop';
import type { Counted } from '#core/placing';

/** The whole short address. On this machine (`*.localhost`) it is plain http on the server's own port. */
export const shortUrl = (domain: Domain, link: Pick<Link, 'slug'> & { group?: string }): string =>
  domain.host.endsWith('.localhost')
    ? `http://${addressOf({ ...domain, host: `${domain.host}:${location.port}` }, link)}`
    : `https://${addressOf(domain, link)}`;

/**
 * The address to place: the short one, or the tracking link as it is where no link of ours may stand between. What is
 * filled at each click stays empty in the latter; its clicks are counted from the page.
 */
export const placedUrl = (domain: Domain, link: Link, held: readonly Held[]): string => {
  if (!held.some((h) => h.what === 'short')) return shortUrl(domain, link);
  const compiled = compileDestination(link.destination, link.asText);
  return compiled.ok ? expand(compiled.value, (name) => (name === 'link' ? link.id : '')) : link.destination;
};

/** What the page script counts a link as that is placed as it is, and the parameter it puts the click ID into. */
export const countedAs = (link: Link): Counted => ({
  link: link.id,
  slot: readLink(link.destination).pairs.find((pair) => pair.raw === '{click}')?.name ?? '',
});
