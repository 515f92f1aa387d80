import type { Domain, Link, Network, Restriction } from '#core/catalogue';
import type { Placed } from '#core/placing';
import { placedUrl as placedAt, shortUrl as shortAt } from '#core/placing';

/** The whole short address as it is reached from this page, and after `~` where its visitors come from. */
export const shortUrl = (
  domain: Domain,
  link: Pick<Link, 'slug'> & { group?: string },
  source = '',
): string => shortAt(domain, link, location.port, source);

/** The address to place, as it is reached from this page. */
export const placedUrl = (
  domain: Domain,
  link: Link,
  restrictions: readonly Restriction[],
  networks: readonly Network[],
  source = '',
): Placed => placedAt(domain, link, restrictions, networks, location.port, source);
