import type { Link, Network, Program } from '#core/catalogue';
import { readLink } from '#core/link-parts';
import type { RecordVersion } from '#core/visits';

type Leading = Partial<Pick<Link, 'destination' | 'branches' | 'network'>>;

/**
 * Networks a link sent visitors to besides the one it belongs to: by its branches, and as it was before it changed. Its clicks
 * can come back from each of them.
 *
 * @param versions the link as it was, oldest first
 */
export const otherNetworksOf = (
  link: Leading,
  versions: readonly RecordVersion[],
  networks: readonly Network[],
  programs: readonly Program[],
): string[] => {
  const found = new Set<string>();
  const destinations = new Set<string>();
  // A version of a link's record is a link as it was kept then.
  for (const one of [link, ...versions.map(({ value }) => (value ?? {}) as Leading)]) {
    if (one.network) found.add(one.network);
    if (one !== link && one.destination) destinations.add(one.destination);
    for (const { destination } of one.branches ?? []) destinations.add(destination);
  }
  for (const destination of destinations) {
    const { network } = readLink(destination, networks, programs);
    if (network) found.add(network.id);
  }
  if (link.network) found.delete(link.network);
  return [...found];
};
