import type { ArticleChoices, Domain, Link } from '#core/catalogue';
import { originOfHost, pathsOf } from '#core/catalogue';
import type { KeywordLimits } from '#core/keywords';
import { foldWord } from '#core/keywords';
import type { DroppedParameters } from '#core/link-parts';
import { addressKey, isPlace, readLink, shortKey } from '#core/link-parts';
import { relOf } from '#core/placing';
import type { LinkReader } from './meaning.ts';

/** Marks of placed links: `rel`, whether they open a new tab, and their title. */
export type ScriptMarks = readonly [rel: string, newTab: 0 | 1, title: string];

/** A link: its address, which begins with `/` on the script's own domain, and its marks by their place in the list. One that is placed
 * as it is has the parameter that takes the click ID too, empty where it has none: its clicks are counted by the page. */
export type ScriptLink = readonly [id: string, address: string, marks: number, slot?: string];

/** Regular forms of a keyword are it too; capitals count. */
export const keywordFlags = { forms: 1, exact: 2 } as const;

/** What the script on a page knows of the links, as it is sent to every reader: nothing that is not public on pages anyway. */
export interface ScriptTable {
  /** Where the short links are, and where clicks are told: scheme, host and port. */
  readonly origin: string;
  /** Hosts of every link domain. */
  readonly hosts: readonly string[];
  readonly marks: readonly ScriptMarks[];
  readonly links: readonly ScriptLink[];
  /** By short name of an address (`shortKey`), which link it is or becomes. */
  readonly addresses: Readonly<Record<string, number>>;
  readonly dropped: DroppedParameters;
  /** Words, the link they lead to by its place in the list, and flags. */
  readonly keywords: readonly (readonly [text: string, link: number, flags: number])[];
  readonly skip: readonly string[];
  readonly limits: KeywordLimits;
  readonly headings: boolean;
}

/** Most links that are sent to readers; those with keywords come first, then the newest. */
export const mostScriptLinks = 2000;

const droppedBy = ({ networks, programs }: LinkReader['register']): DroppedParameters => {
  const dropped: Record<string, string[]> = {};
  const drop = (hosts: readonly string[], names: readonly string[]) => {
    if (names.length === 0) return;
    for (const host of hosts) {
      // Of `*.harrowmead.example` all hosts are meant that end so.
      const end = host.slice(host.lastIndexOf('*') + 1).replace(/^(?:\.|www\.)/, '');
      if (end !== '') dropped[end] = [...new Set([...(dropped[end] ?? []), ...names])];
    }
  };
  for (const { linkFormat, slots } of networks)
    drop(
      linkFormat.hosts,
      slots.map(({ name }) => name).filter((name) => !isPlace(name)),
    );
  for (const { hosts, strip = [] } of programs) drop(hosts, strip);
  return dropped;
};

/**
 * What the script of a link domain knows: every link that may stand on a page now, by its addresses and keywords.
 *
 * @returns the table, and how many links were left out of it as there are too many
 */
export const scriptTable = (
  reader: LinkReader,
  domain: Domain,
  choices: ArticleChoices,
): { readonly table: ScriptTable; readonly left: number } => {
  const { register } = reader;
  const origin = originOfHost(domain.host, register.port);
  const domains = new Map(register.domains.map((each) => [each.id, each]));
  const dropped = droppedBy(register);
  const marks: ScriptMarks[] = [];
  const links: ScriptLink[] = [];
  const addresses: Record<string, number> = {};
  const keywords: ScriptTable['keywords'][number][] = [];

  const marksAt = (made: ScriptMarks): number => {
    const at = marks.findIndex((each) => each.every((value, i) => value === made[i]));
    return at >= 0 ? at : marks.push(made) - 1;
  };
  const lead = (address: string, to: number) => {
    const key = addressKey(address, dropped);
    if (key !== '') addresses[shortKey(key)] ??= to;
  };
  const put = (link: Link): void => {
    const placing = reader.placing(link, '');
    const own = domains.get(link.domain);
    if (!own || 'refused' in placing || reader.ended(link) || register.dead.has(link.id)) return;
    const { address, marks: placed, counted } = placing.link;
    const at = links.length;
    const shown = address.startsWith(`${origin}/`) ? address.slice(origin.length) : address;
    const marked = marksAt([relOf(placed), placed.newTab ? 1 : 0, placed.title]);
    links.push(counted ? [link.id, shown, marked, counted.slot] : [link.id, shown, marked]);
    for (const path of pathsOf(link, own)) {
      const short = `${originOfHost(own.host, register.port)}/${path}`;
      const meaning = reader.meaning(short);
      if (meaning.kind === 'ours' && meaning.link === link) lead(short, at);
    }
    const page = readLink(link.destination, register.networks, register.programs).page;
    for (const elsewhere of [address, link.destination, page ?? '', ...(link.replaces ?? [])]) {
      const meaning = reader.meaning(elsewhere);
      // Several links may have an address; it becomes what an article would get.
      const becomes =
        meaning.kind === 'ours' ? meaning.link : 'links' in meaning ? meaning.links[0] : undefined;
      if (becomes === link) lead(elsewhere, at);
    }
    const words = new Set<string>();
    for (const { text, forms, exact } of link.keywords ?? []) {
      const folded = foldWord(text);
      // Its merchant wants its name to be read in what is linked.
      const isFit = !words.has(folded) && text.toLowerCase().includes(placing.name.toLowerCase());
      words.add(folded);
      if (isFit)
        keywords.push([text, at, (forms ? keywordFlags.forms : 0) | (exact ? keywordFlags.exact : 0)]);
    }
  };

  const wanted = (link: Link) => (link.keywords || link.replaces ? 2 : 0) + (link.starred ? 1 : 0);
  const ordered = register.links
    .filter(({ archived }) => archived === undefined)
    .toSorted((a, b) => wanted(b) - wanted(a) || b.createdAt - a.createdAt);
  for (const link of ordered.slice(0, mostScriptLinks)) put(link);
  const { perKeyword, perLink, perArticle, apart, headings, skip } = choices;
  return {
    left: Math.max(0, ordered.length - mostScriptLinks),
    table: {
      origin,
      hosts: register.domains.map(({ host }) => host),
      marks,
      links,
      addresses,
      dropped,
      keywords,
      skip: choices.disclosure === '' ? skip : [...skip, choices.disclosure],
      limits: { perKeyword, perLink, perArticle, apart },
      headings,
    },
  };
};
