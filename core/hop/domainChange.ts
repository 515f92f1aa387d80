import type { Domain, LeaningLink, Problem } from '#core/catalogue';
import { movedAddress, prefixProblem } from '#core/catalogue';
import { domainProblems } from './prepare.ts';

type DomainLink = LeaningLink & { readonly group?: string; readonly aliases: readonly string[] };

/**
 * What is wrong with a domain as it would become, by itself and for the links that stand on it. The server and the screen
 * ask the same.
 *
 * @param before the domain as it is; undefined for a new one
 * @param links those of this domain
 * @param owner the link that answers at a path now
 */
export const domainChangeProblems = (
  next: Domain,
  before: Domain | undefined,
  links: readonly DomainLink[],
  owner: (path: string) => DomainLink | undefined,
): Problem[] => {
  const problems: Problem[] = [];
  const add = (path: string, message: string) => problems.push({ path, message });
  const samePrefix = before?.prefix === next.prefix;
  const reserved = samePrefix ? undefined : prefixProblem(next.prefix);
  if (reserved !== undefined) add('prefix', reserved);
  if (before && before.host !== next.host && links.length > 0)
    add(
      'host',
      `${links.length} links stand on ${before.host}. Add ${next.host} as a domain of its own and move them there.`,
    );
  const moved = movedAddress(links, next, owner);
  if (moved)
    add(
      samePrefix ? 'groups' : 'prefix',
      `${next.host}/${moved.path} leads to ${moved.from.slug} and would lead to ${moved.to.slug}. Rename one of them first, or choose otherwise.`,
    );
  return [...problems, ...domainProblems(next)];
};
