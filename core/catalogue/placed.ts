import { pathsOf } from './defaults.ts';
import type { Domain, Link, RecordKind } from './records.ts';

/** Addresses of a link after its domain's prefix, whether the domain shows groups or not. */
const placesOf = (link: Pick<Link, 'slug' | 'group' | 'aliases'>): string[] =>
  pathsOf(link, { prefix: '', earlierPrefixes: [], groups: false });

const linkKeeping = (next: Link, placed: Link): Link => {
  const own = new Set(placesOf(next));
  const lost = placesOf(placed).filter((place) => !own.has(place));
  // On another domain nobody placed them.
  return lost.length === 0 || next.domain !== placed.domain
    ? next
    : { ...next, aliases: [...next.aliases, ...lost] };
};

const domainKeeping = (next: Domain, placed: Domain): Domain => {
  const known = new Set([next.prefix, ...next.earlierPrefixes]);
  const lost = [placed.prefix, ...placed.earlierPrefixes].filter((prefix) => !known.has(prefix));
  return lost.length === 0 ? next : { ...next, earlierPrefixes: [...next.earlierPrefixes, ...lost] };
};

/**
 * A record as it may be saved over one that answers already: of a link every address it had goes on answering as an alias,
 * of a domain every prefix, however the record came to be without: undone, restored, imported, merged. Records of other kinds
 * are as they are.
 *
 * @param placed the record as the server has it; null where it has none
 */
export const keepingPlaced = (
  kind: RecordKind,
  next: Record<string, unknown> | null,
  placed: Readonly<Record<string, unknown>> | null,
): Record<string, unknown> | null => {
  if (next === null || placed === null) return next;
  // A record of a kind passed its schema.
  if (kind === 'link') return linkKeeping(next as Link, placed as Link);
  return kind === 'domain' ? domainKeeping(next as Domain, placed as Domain) : next;
};
