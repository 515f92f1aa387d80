import type { Domain, Link } from '#core/catalogue';
import { shortUrl as shortAt } from '#core/placing';

/** The whole short address as it is reached from this page, and after `~` where its visitors come from. */
export const shortUrl = (
  domain: Domain,
  link: Pick<Link, 'slug'> & { group?: string },
  source = '',
): string => shortAt(domain, link, location.port, source);
