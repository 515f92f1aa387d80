import type { Domain, Link } from '#core/catalogue';
import { pathsOf } from '#core/catalogue';

/** True when a slug of a domain is used by one of the links. */
export const isTaken = (links: readonly Link[], domain: Domain, slug: string, except?: string): boolean =>
  links.some(
    (link) =>
      link.domain === domain.id && link.id !== except && (link.slug === slug || link.aliases.includes(slug)),
  );

/** Every path that is taken on a domain. */
export const takenPaths = (links: readonly Link[], domain: Domain): Set<string> =>
  new Set(links.filter((link) => link.domain === domain.id).flatMap((link) => pathsOf(link, domain)));
