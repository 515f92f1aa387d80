import type {
  Account,
  Domain,
  StoredChange,
  Link,
  Network,
  Problem,
  Program,
  RecordKind,
  Settings,
} from '#core/catalogue';
import { pathsOf, upgradeRecord } from '#core/catalogue';
import type { HopLink } from '#core/hop';
import { answeringLink, readyToHop } from '#core/hop';

const none: readonly never[] = [];
const followsDefaults: Link['hop'] = {};

type Rare = Pick<Link, 'branches' | 'weight' | 'movesWeights' | 'hours' | 'archived'>;
const nothingRare: Rare = {};
const rareOf = ({ branches, weight, movesWeights, hours, archived }: Link): Rare =>
  branches || weight !== undefined || hours || archived
    ? {
        ...(branches && { branches }),
        ...(weight !== undefined && { weight }),
        ...(branches && movesWeights && { movesWeights }),
        ...(hours && { hours }),
        ...(archived && { archived }),
      }
    : nothingRare;

/** A link as the server holds it: what hopping needs and no more. */
export interface TableLink {
  readonly id: string;
  readonly domain: string;
  readonly slug: string;
  readonly aliases: readonly string[];
  readonly destination: string;
  readonly asText: readonly string[];
  readonly hop: Link['hop'];
  readonly network: string | undefined;
  readonly program: string | undefined;
  readonly group: string;
  /** What few links have; one object for all those that have nothing of it. */
  readonly rare: Rare;
  /** The version of the feed in which it became what it is. */
  readonly version: number;
  /** Made ready at its first hop. */
  ready: HopLink | undefined;
}

/** What answers on one host. */
export interface Host {
  readonly domain: Domain;
  /** By prefix and slug in lower case, aliases included. */
  readonly links: Map<string, TableLink>;
  /** One of its links asks whether a visitor is new. */
  asksReturning: boolean;
}

export type TableNetwork = Pick<Network, 'id' | 'name'> &
  Pick<Network['postback'], 'key' | 'pixelKey' | 'previousKey' | 'senders' | 'signature'>;

/** What the hop handler looks things up in: the catalogue, in memory, as the change feed made it. */
export class LinkTable {
  readonly hosts = new Map<string, Host>();
  readonly domains = new Map<string, Domain>();
  readonly links = new Map<string, TableLink>();
  readonly networks = new Map<string, TableNetwork>();
  readonly networkByKey = new Map<string, TableNetwork>();
  readonly networkByPixelKey = new Map<string, TableNetwork>();
  readonly accounts = new Map<string, string>();
  readonly programs = new Map<string, Pick<Program, 'network' | 'name' | 'rules'>>();
  /** Links that hand their visitors to another since they were archived, by that other one. */
  readonly #handing = new Map<string, Set<string>>();
  /** What of a link cannot be used as it was kept, and is made up for at its hops. */
  readonly faults = new Map<string, readonly Problem[]>();

  /** For how many months requests are kept; undefined for all of them. */
  keepMonths: Settings['keepMonths'];

  /** Puts a change that has been checked into effect. */
  put({
    kind,
    record,
    version,
    value: kept,
  }: Pick<StoredChange, 'kind' | 'record' | 'version' | 'value'>): void {
    const value = kept && upgradeRecord(kind, kept);
    // A kept change was checked against its kind's schema before it was kept.
    const put: { [K in RecordKind]: () => void } = {
      link: () => this.#putLink(record, value as Link | null, version),
      domain: () => this.#putDomain(record, value as Domain | null),
      network: () => this.#putNetwork(record, value as Network | null),
      program: () => this.#putProgram(record, value as Program | null),
      account: () => {
        if (value) this.accounts.set(record, (value as Account).network);
        else this.accounts.delete(record);
      },
      settings: () => {
        this.keepMonths = (value as Settings | null)?.keepMonths;
      },
      report: () => undefined,
      decision: () => undefined,
      month: () => undefined,
      payment: () => undefined,
      product: () => undefined,
      picture: () => undefined,
      kit: () => undefined,
      source: () => undefined,
      page: () => undefined,
      rate: () => undefined,
      cost: () => undefined,
      choice: () => undefined,
      promotion: () => undefined,
    };
    put[kind]();
  }

  /** Forgets everything. */
  clear(): void {
    for (const map of [
      this.hosts,
      this.domains,
      this.links,
      this.networks,
      this.networkByKey,
      this.networkByPixelKey,
      this.programs,
      this.accounts,
      this.faults,
      this.#handing,
    ])
      map.clear();
    this.keepMonths = undefined;
  }

  /** The links that hand their visitors to one. */
  handingTo(id: string): TableLink[] {
    return [...(this.#handing.get(id) ?? [])].flatMap((from) => this.links.get(from) ?? []);
  }

  /** The link that answers at a path of a domain, if any. */
  owner(domainId: string, path: string): TableLink | undefined {
    const domain = this.domains.get(domainId);
    return domain && this.hosts.get(domain.host)?.links.get(path);
  }

  #putLink(id: string, value: Link | null, version: number): void {
    const before = this.links.get(id);
    if (before) {
      this.#unplace(before);
      this.links.delete(id);
      this.faults.delete(id);
      const to = before.rare.archived?.to;
      if (to !== undefined) this.#handing.get(to)?.delete(id);
    }
    if (value === null) return;
    const link: TableLink = {
      id,
      // The IDs of few domains and networks are held once, not once for each link.
      domain: this.domains.get(value.domain)?.id ?? value.domain,
      slug: value.slug,
      aliases: value.aliases.length > 0 ? value.aliases : none,
      destination: value.destination,
      asText: value.asText.length > 0 ? value.asText : none,
      hop: Object.keys(value.hop).length > 0 ? value.hop : followsDefaults,
      network:
        value.network === undefined ? undefined : (this.networks.get(value.network)?.id ?? value.network),
      program: value.program === undefined ? undefined : this.#once(value.program),
      group: value.group ?? '',
      rare: rareOf(value),
      version,
      ready: undefined,
    };
    this.links.set(id, link);
    const to = link.rare.archived?.to;
    if (to !== undefined) this.#handing.set(to, (this.#handing.get(to) ?? new Set()).add(id));
    this.#place(link);
  }

  readonly #names = new Map<string, string>();
  /** The same text, held once for all links that have it. */
  #once(name: string): string {
    const known = this.#names.get(name);
    if (known === undefined) this.#names.set(name, name);
    return known ?? name;
  }

  #paths(link: TableLink): string[] {
    const domain = this.domains.get(link.domain);
    return domain ? pathsOf(link, domain) : [];
  }

  #unplace(link: TableLink): void {
    const domain = this.domains.get(link.domain);
    const host = domain && this.hosts.get(domain.host);
    for (const path of this.#paths(link)) if (host?.links.get(path) === link) host.links.delete(path);
  }

  #place(link: TableLink): void {
    const domain = this.domains.get(link.domain);
    const host = domain && this.hosts.get(domain.host);
    for (const path of this.#paths(link)) host?.links.set(path, link);
    if (host && link.rare.branches?.some((branch) => branch.when.visitor)) host.asksReturning = true;
  }

  #putDomain(id: string, value: Domain | null): void {
    const before = this.domains.get(id);
    if (before) this.hosts.delete(before.host);
    this.domains.delete(id);
    if (value === null) return;
    this.domains.set(id, value);
    this.hosts.set(value.host, { domain: value, links: new Map(), asksReturning: false });
    for (const link of this.links.values()) {
      if (link.domain !== id) continue;
      this.#unprepare(link);
      this.#place(link);
    }
  }

  #putProgram(id: string, value: Program | null): void {
    if (value === null) this.programs.delete(id);
    else {
      const { network, name, rules } = value;
      this.programs.set(id, { network, name, ...(rules && { rules }) });
    }
    for (const link of this.links.values()) if (link.program === id) this.#unprepare(link);
  }

  #unprepare(link: TableLink): void {
    link.ready = undefined;
    this.faults.delete(link.id);
  }

  #putNetwork(id: string, value: Network | null): void {
    const before = this.networks.get(id);
    if (before) {
      this.networkByKey.delete(before.key);
      if (before.previousKey) this.networkByKey.delete(before.previousKey.key);
      this.networkByPixelKey.delete(before.pixelKey);
    }
    this.networks.delete(id);
    if (value === null) return;
    const { key, pixelKey, previousKey, senders, signature } = value.postback;
    const network: TableNetwork = {
      id,
      name: value.name,
      key,
      pixelKey,
      ...(previousKey && { previousKey }),
      ...(senders && { senders }),
      ...(signature && { signature }),
    };
    this.networks.set(id, network);
    if (previousKey) this.networkByKey.set(previousKey.key, network);
    this.networkByKey.set(network.key, network);
    this.networkByPixelKey.set(network.pixelKey, network);
  }
}

/**
 * Makes a link ready to hop, once, whatever is wrong with it; what is wrong is kept in the table's `faults`. Undefined for
 * one that was kept by an older version and has no address to lead to.
 */
export const readyLink = (table: LinkTable, link: TableLink, domain: Domain): HopLink | undefined => {
  if (link.ready) return link.ready;
  if (table.faults.get(link.id)?.some(({ path }) => path === nowhere)) return undefined;
  const program = link.program === undefined ? undefined : table.programs.get(link.program);
  const { id, destination, asText, hop, rare } = link;
  const { ready, problems } = readyToHop({ id, destination, asText, hop, ...rare }, domain, program);
  if (problems.length > 0)
    table.faults.set(
      id,
      ready
        ? problems
        : [...problems, { path: nowhere, message: 'It leads nowhere: visitors find no link here.' }],
    );
  return (link.ready = ready);
};

/** Marks the faults of a link that cannot hop at all. */
const nowhere = 'link';

/** The link that answers for one (`core/hop/answerVisit.ts`). */
export const answering = (table: LinkTable, link: TableLink): TableLink | undefined =>
  answeringLink(
    link,
    ({ rare }) => rare.archived,
    (id) => table.links.get(id),
  );
