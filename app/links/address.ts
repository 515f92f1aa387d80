import type { Domain, Link } from '#core/catalogue';
import { addressOf, originOfHost } from '#core/catalogue';

/** The whole short address as it is reached from this page, and after `~` where its visitors come from. */
export const shortUrl = (
  domain: Domain,
  link: Pick<Link, 'slug'> & { group?: string },
  source = '',
): string =>
  originOfHost(domain.host, location.port) +
  addressOf(domain, link).slice(domain.host.length) +
  (source === '' ? '' : `~${source}`);
