import type { Domain, Link, Product, Program } from '#core/catalogue';
import { pathsOf, restrictionsOf } from '#core/catalogue';
import { openingOf } from '#core/hop';
import type { LinkParts, Register } from '#core/link-parts';
import {
  addressKey,
  addressKind,
  fillSlots,
  hostOf,
  programsFor,
  readLink,
  splitLink,
} from '#core/link-parts';
import type { Placing } from '#core/placing';
import { placingOf } from '#core/placing';
import { isWeb } from './addresses.ts';

/** What articles are read against. */
export interface ArticleRegister extends Register {
  readonly products: readonly Product[];
  /** Port of the server, for domains of this machine alone. */
  readonly port: string;
  /** Links whose destination died, and what was seen there. */
  readonly dead: ReadonlyMap<string, string>;
  /** Milliseconds since 1970 UTC. */
  readonly now: number;
}

/** What an address in an article is. */
export type Meaning =
  /** A link of ours: by its short address, or as it is where a merchant wants that. */
  | { readonly kind: 'ours'; readonly link: Link; readonly source: string; readonly isShort: boolean }
  /** On a link domain of ours, where no link is. */
  | { readonly kind: 'nowhere'; readonly host: string }
  /** A page of a joined shop, a tracking link, or what a link is said to replace; and the links it may become, the likeliest first. */
  | { readonly kind: 'shop' | 'raw'; readonly links: readonly Link[]; readonly program: Program | undefined }
  /** A page of a shop whose program is not joined (any more). */
  | { readonly kind: 'not joined'; readonly program: Program }
  | { readonly kind: 'other' };

/** No server takes a longer one (common practice). */
const longestAddress = 8000;

/** Two addresses of one page are the same here, less what its shop says tells nothing. */
const pageKey = (page: string, strip: readonly string[] = []): string =>
  addressKey(page, { [hostOf(page).replace(/^www\./, '')]: strip }) || page;

/** A tracking link without what is filled anew at each click. */
const creditKey = ({ link, pairs, host, split }: LinkParts): string => {
  const kept = pairs.filter(({ role }) => role !== 'slot').map(({ name, raw }) => `${name}=${raw}`);
  return kept.length === 0 ? link : `${host}${split.path}?${kept.toSorted().join('&')}`;
};

/** Why a link is not to be placed any more. */
export interface Ended {
  readonly says: string;
  /** The link that goes on in its place. */
  readonly to?: Link;
}

/** Knows the links of ours, and what an address in an article has to do with them. */
export interface LinkReader {
  readonly register: ArticleRegister;
  readonly meaning: (address: string) => Meaning;
  readonly linkOf: (id: string) => Link | undefined;
  /** How a link is placed, or why not. */
  readonly placing: (link: Link, source: string) => Placing | { readonly refused: string };
  readonly ended: (link: Link) => Ended | undefined;
  /** What a merchant's rule says of a link that stands as it does. */
  readonly forbidden: (link: Link, isShort: boolean) => string | undefined;
}

/** Reads the register once, for any number of articles. */
export const makeLinkReader = (register: ArticleRegister): LinkReader => {
  const { domains, networks, programs, links, now, port } = register;
  const domainOf = new Map(domains.map((domain) => [domain.id, domain]));
  const programOf = new Map(programs.map((program) => [program.id, program]));
  const byId = new Map(links.map((link) => [link.id, link]));
  const byPath = new Map<string, Link>();
  const byPage = new Map<string, Link[]>();
  const byCredit = new Map<string, Link[]>();
  /** Links that are placed as they are. */
  const direct = new Map<string, Link>();
  const put = (map: Map<string, Link[]>, key: string, link: Link) => {
    const list = map.get(key);
    if (!list) map.set(key, [link]);
    else if (!list.includes(link)) list.push(link);
  };
  const isOpen = (link: Link) => link.archived === undefined;
  for (const link of links) {
    const domain = domainOf.get(link.domain);
    if (!domain) continue;
    for (const path of pathsOf(link, domain)) {
      const key = `${domain.host}/${path}`.toLowerCase();
      const before = byPath.get(key);
      // What a link is called now goes before what another one was called once.
      if (!before || path === pathsOf(link, domain)[0]) byPath.set(key, link);
    }
    for (const address of link.replaces ?? []) put(byPage, pageKey(address), link);
    const linkParts = readLink(link.destination, networks, programs);
    const page = linkParts.page ?? link.destination;
    if (isWeb(page)) put(byPage, pageKey(page, programOf.get(link.program ?? '')?.strip), link);
    put(byCredit, creditKey(linkParts), link);
    const program = programOf.get(link.program ?? '');
    if (!isOpen(link) || !restrictionsOf(program, domain).some(({ what }) => what === 'short')) continue;
    direct.set(creditKey(linkParts), link);
    // Where nobody said which parameter takes the click ID, one that is empty is as good as any other.
    const placing = placingOf(link, domain, program, networks, port);
    if (!('refused' in placing))
      direct.set(creditKey(readLink(placing.link.address, networks, programs)), link);
  }
  const newestFirst = (found: readonly Link[]): Link[] =>
    found
      .filter(isOpen)
      .toSorted(
        (a, b) => Number(b.starred ?? false) - Number(a.starred ?? false) || b.createdAt - a.createdAt,
      );

  const shortOf = (address: string): Meaning | undefined => {
    const host = hostOf(address);
    const domain = domains.find((each) => each.host === host);
    if (!domain) return undefined;
    const { path, query } = splitLink(address);
    const [slug = '', ...named] = path.slice(1).split(/~|%7E/i);
    const link = byPath.get(`${host}/${slug}`.toLowerCase());
    if (link) {
      const from = /(?:^|&)from=([^&]*)/.exec(query ?? '')?.[1];
      return { kind: 'ours', link, source: named.join('~') || (from ?? ''), isShort: true };
    }
    const prefixes = [domain.prefix, ...domain.earlierPrefixes];
    const isLinks = prefixes.some((prefix) => slug.startsWith(prefix) && slug.length > prefix.length);
    return isLinks ? { kind: 'nowhere', host } : undefined;
  };
  const read = (address: string): Meaning => {
    if (!isWeb(address) || address.length > longestAddress) return { kind: 'other' };
    const short = shortOf(address);
    if (short) return short;
    const linkParts = readLink(address, networks, programs);
    const credit = creditKey(linkParts);
    const placed = direct.get(credit);
    if (placed) return { kind: 'ours', link: placed, source: '', isShort: false };
    const kind = addressKind(linkParts, programs);
    const said = byPage.get(pageKey(address)) ?? [];
    const replaced = said.filter((link) => link.replaces?.some((each) => pageKey(each) === pageKey(address)));
    if (kind === 'tracking') {
      const own = networks.find(({ id }) => id === linkParts.network?.id);
      const page = linkParts.page;
      const found = [
        ...newestFirst(replaced),
        ...newestFirst(
          byCredit.get(credit) ??
            byCredit.get(creditKey(readLink(fillSlots(linkParts), networks, programs))) ??
            [],
        ),
        ...newestFirst(
          (page === undefined ? [] : (byPage.get(pageKey(page, linkParts.program?.strip)) ?? [])).filter(
            ({ network }) => network === own?.id,
          ),
        ),
      ];
      return { kind: 'raw', links: [...new Set(found)], program: linkParts.program };
    }
    const [program] = programsFor(address, programs);
    if (kind === 'page') {
      const pages = byPage.get(pageKey(address, program?.strip)) ?? [];
      return {
        kind: 'shop',
        links: [...new Set([...newestFirst(replaced), ...newestFirst(pages)])],
        program,
      };
    }
    if (replaced.some(isOpen)) return { kind: 'shop', links: newestFirst(replaced), program };
    return kind === 'not joined' && program ? { kind: 'not joined', program } : { kind: 'other' };
  };
  const known = new Map<string, Meaning>();
  const meaning = (address: string): Meaning => {
    let found = known.get(address);
    if (!found) known.set(address, (found = read(address)));
    return found;
  };

  const ended = (link: Link): Ended | undefined => {
    if (link.archived) {
      let to: Link | undefined = byId.get(link.archived.to ?? '');
      // The one that goes on may have ended too.
      for (let i = 0; to?.archived && i < 20; i++) to = byId.get(to.archived.to ?? '');
      return {
        says: to
          ? `${link.slug} is archived and goes on as ${to.slug}.`
          : `${link.slug} is archived: who presses it gets nothing.`,
        ...(to && { to }),
      };
    }
    const program = programOf.get(link.program ?? '');
    if (program && program.state !== 'joined')
      return { says: `${program.name} is ${program.state}: ${link.slug} earns nothing.` };
    const domain = domainOf.get(link.domain);
    if (domain && openingOf(link, domain, now)?.state === 'closed')
      return { says: `${link.slug} closed ${link.hours?.until?.replace('T', ', ') ?? ''}.` };
    return undefined;
  };
  return {
    register,
    meaning,
    linkOf: (id) => byId.get(id),
    placing: (link, source) => {
      const domain: Domain | undefined = domainOf.get(link.domain);
      return domain
        ? placingOf(link, domain, programOf.get(link.program ?? ''), networks, port, source)
        : { refused: `The domain of ${link.slug} is not known any more.` };
    },
    ended,
    forbidden: (link, isShort) => {
      const domain = domainOf.get(link.domain);
      if (!domain) return undefined;
      const restrictions = restrictionsOf(programOf.get(link.program ?? ''), domain);
      const what = isShort ? 'short' : 'tracking';
      return restrictions.find((each) => each.what === what)?.because;
    },
  };
};
