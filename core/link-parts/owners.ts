import type { Link, Network, Program } from '#core/catalogue';
import { shopOf } from './deepLink.ts';
import { fitsFormat } from './fits.ts';
import { programOfShortLink } from './merchantShortLink.ts';
import { readLink } from './read.ts';
import { hostOf, splitLink } from './splitLink.ts';

type Owned = Pick<Link, 'destination' | 'network' | 'program'>;

/**
 * The network and program a destination belongs to, as the registers say now: the network by its link format, the program by
 * its code in the link, else by the shop of the page it leads to; a merchant's own short link by its host. The program a link has
 * stays where several fit.
 */
const ownersOf = (
  { destination, network: earlier, program: before }: Owned,
  networks: readonly Network[],
  programs: readonly Program[],
): Pick<Link, 'network' | 'program'> => {
  const { network, program, pairs, page } = readLink(destination, networks, programs);
  if (!network) {
    const own = programOfShortLink(destination, programs, before);
    if (own) return { network: own.network, program: own.id };
    // An older version of a format still says whose link it is; so does nobody where a network's links are not known yet.
    const [host, { path }] = [hostOf(destination), splitLink(destination)];
    const known = networks.find(
      ({ id, linkFormat, earlierLinkFormats = [] }) =>
        earlierLinkFormats.some((format) => fitsFormat(format, host, path)) ||
        (id === earlier && linkFormat.hosts.length === 0),
    );
    const program = programs.find(({ id, network: its }) => id === before && its === known?.id);
    return { ...(known && { network: known.id }), ...(program && { program: program.id }) };
  }
  if (program) return { network: network.id, program: program.id };
  // A code that no program has says that it is another program than those that are known.
  if (pairs.some(({ role, raw }) => role === 'program' && raw !== '')) return { network: network.id };
  const shop = shopOf(hostOf(page ?? destination));
  const fitting = programs.filter(
    (each) => each.network === network.id && each.hosts.some((host) => shopOf(host) === shop),
  );
  const found = fitting.find(({ id }) => id === before) ?? (fitting.length === 1 ? fitting[0] : undefined);
  return { network: network.id, ...(found && { program: found.id }) };
};

/** A link with the network and program its destination belongs to; the very same link where it has them already. */
export const withOwners = <L extends Owned>(
  link: L,
  networks: readonly Network[],
  programs: readonly Program[],
): L => {
  const owners = ownersOf(link, networks, programs);
  if (owners.network === link.network && owners.program === link.program) return link;
  const { network: _, program: __, ...rest } = link;
  return { ...rest, ...owners } as L; // the two fields are all that was taken out
};

/** What of networks and programs decides to whom a link belongs; another text where that changed. */
export const ownership = (record: Network | Program): string =>
  'linkFormat' in record
    ? JSON.stringify([record.linkFormat.hosts, record.linkFormat.path, record.linkFormat.parameters])
    : JSON.stringify([record.network, record.code, record.hosts, record.rules?.shortHosts]);
