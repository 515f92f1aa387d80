import type { LinkParts, PageChoice, PastedSnippet } from '#core/link-parts';
import { fillSlots, networkRecord, productCode, proposeTitle, readLink } from '#core/link-parts';
import type { Account, Domain, Link, Network, Program, RecordKind } from '#core/catalogue';
import { freeSlug, proposeSlug } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newId, newSecret } from '../data/random.ts';
import { takenPaths } from './taken.ts';

/** A record to be saved. */
export type Change = { kind: RecordKind; value: { readonly id: string } };

/** The network and program a link needs that are known by their link format but not in the register yet. */
const joinKnown = (linkParts: LinkParts): { network: Network; program: Program | undefined } | undefined => {
  const { known } = linkParts;
  if (!known) return undefined;
  const network = networkRecord(known, newId('net'), { key: newSecret(), pixelKey: newSecret() });
  const found = known.programs.find((p) => p.name === linkParts.programName);
  const program: Program | undefined = found && {
    id: newId('prg'),
    network: network.id,
    name: found.name,
    code: found.code,
    hosts: [...found.hosts],
    state: 'joined',
    ...(found.rules && { rules: found.rules }),
  };
  return { network, program };
};

/** What a new link is made from. */
export interface NewLink {
  readonly linkParts: LinkParts;
  readonly snippet?: PastedSnippet | undefined;
  /** What the page says of itself, where somebody read it. */
  readonly title?: string;
  readonly description?: string;
  readonly picture?: string;
}

/**
 * The records a pasted link becomes: itself with its slots filled, title and slug proposed; its network and program if
 * they are new; and the first account tag of a network, which is taken as one's own.
 *
 * @param taken paths that are taken; those used are added
 */
export const newLinkRecords = (
  { linkParts, snippet, title: given, description = '', picture }: NewLink,
  domain: Domain,
  taken: Set<string>,
): { link: Link; changes: Change[] } => {
  const catalogue = useCatalogue();
  const joined = joinKnown(linkParts);
  const network = linkParts.network ?? joined?.network;
  const program = linkParts.program ?? joined?.program;
  const code = linkParts.page === undefined ? undefined : productCode(linkParts.page);
  const title = (given || snippet?.text || proposeTitle(linkParts)).slice(0, 200);
  const proposed = code === undefined ? proposeSlug(title) : code.toLowerCase();
  const slug = freeSlug(proposed, (text) => taken.has(domain.prefix + text));
  taken.add(domain.prefix + slug);
  const shown = picture || snippet?.picture?.src;
  const link: Link = {
    id: newId('lnk'),
    domain: domain.id,
    slug,
    aliases: [],
    title,
    destination: fillSlots(linkParts),
    asText: [],
    ...(network && { network: network.id }),
    ...(program && { program: program.id }),
    hop: {},
    marks: {},
    notes: snippet?.counting ? `The snippet counted its views by ${snippet.counting}` : description,
    createdAt: Date.now(),
    ...(shown && /^https?:\/\/\S+$/.test(shown) && { picture: shown.slice(0, 2000) }),
  };
  const tag = linkParts.pairs.find((pair) => pair.role === 'account')?.decoded ?? '';
  const first =
    network && tag !== '' && !catalogue.accounts.some((account) => account.network === network.id);
  const account: Account | undefined = first
    ? { id: newId('acc'), network: network.id, tag, owner: catalogue.by || 'me' }
    : undefined;
  return {
    link,
    changes: [
      ...(joined ? [{ kind: 'network' as const, value: joined.network }] : []),
      ...(joined?.program ? [{ kind: 'program' as const, value: joined.program }] : []),
      ...(account ? [{ kind: 'account' as const, value: account }] : []),
      { kind: 'link', value: link },
    ],
  };
};

/** A link that was just made, and the step it was made in. */
export interface MadeLink {
  readonly link: Link;
  readonly step: string;
}

/** Makes a short link from a link that was read. One step, undone as one. */
export const makeLink = async (from: NewLink, domain: Domain): Promise<MadeLink> => {
  const catalogue = useCatalogue();
  const { link, changes } = newLinkRecords(from, domain, takenPaths(catalogue.links, domain));
  return { link, step: await catalogue.save(...changes) };
};

/** A page of a joined shop as the tracking link that is made of it; undefined where none can be made. */
export const pageLink = ({ made, program, stripped }: PageChoice): LinkParts | undefined => {
  if (!made.ok) return undefined;
  const catalogue = useCatalogue();
  return { ...readLink(made.link, catalogue.networks, catalogue.programs), program, page: stripped.page };
};

/** Makes a short link to a page of a joined shop. */
export const makePageLink = async (
  choice: PageChoice,
  domain: Domain,
  facts: { title?: string; description?: string; picture?: string } = {},
): Promise<MadeLink | undefined> => {
  const linkParts = pageLink(choice);
  return linkParts && makeLink({ linkParts, ...facts }, domain);
};
