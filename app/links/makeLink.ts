import type { Anatomy } from '#core/anatomy';
import { fillSlots, proposeTitle } from '#core/anatomy';
import type { Domain, Link, Network, Program } from '#core/catalogue';
import { freeSlug, proposeSlug } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newId, newSecret } from '../data/random.ts';

/** True when a path of a domain is used by one of the links. */
export const isTaken = (links: readonly Link[], domain: Domain, slug: string, except?: string): boolean =>
  links.some(
    (link) =>
      link.domain === domain.id && link.id !== except && (link.slug === slug || link.aliases.includes(slug)),
  );

/** The network and program a link needs that are known by their grammar but not in the register yet. */
const joinKnown = (anatomy: Anatomy): { network: Network; program: Program | undefined } | undefined => {
  const { known } = anatomy;
  if (!known) return undefined;
  const { programs, postback, ...rest } = known;
  const network: Network = {
    ...rest,
    id: newId('net'),
    postback: { ...postback, key: newSecret(), pixelKey: newSecret() },
  };
  const found = programs.find((p) => p.name === anatomy.programName);
  const program: Program | undefined = found && {
    id: newId('prg'),
    network: network.id,
    name: found.name,
    code: found.code,
    hosts: [...found.hosts],
    state: 'joined',
  };
  return { network, program };
};

/**
 * Makes a short link from a link that was read: slots filled, title and slug proposed, with its network and program
 * if they are new. One step, undone as one.
 */
export const makeLink = async (anatomy: Anatomy, domain: Domain): Promise<Link> => {
  const catalogue = useCatalogue();
  const joined = joinKnown(anatomy);
  const title = proposeTitle(anatomy);
  const network = anatomy.network ?? joined?.network;
  const program = anatomy.program ?? joined?.program;
  const link: Link = {
    id: newId('lnk'),
    domain: domain.id,
    slug: freeSlug(proposeSlug(title), (slug) => isTaken(catalogue.links, domain, slug)),
    aliases: [],
    title,
    destination: fillSlots(anatomy),
    asText: [],
    ...(network && { network: network.id }),
    ...(program && { program: program.id }),
    hop: {},
    marks: {},
    notes: '',
    createdAt: Date.now(),
  };
  await catalogue.save(
    ...(joined ? [{ kind: 'network' as const, value: joined.network }] : []),
    ...(joined?.program ? [{ kind: 'program' as const, value: joined.program }] : []),
    { kind: 'link', value: link },
  );
  return link;
};
