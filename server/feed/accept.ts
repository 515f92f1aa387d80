import type { Change, Domain, Link, Network, Problem } from '#core/catalogue';
import { alternatives, checkRecord, hopOf, leaningProblem, pathsOf } from '#core/catalogue';
import { domainChangeProblems, prepareLink } from '#core/hop';
import type { LinkTable, TableLink } from './linkTable.ts';

type Accepted =
  | { readonly ok: true; readonly value: Record<string, unknown> | null }
  | { readonly ok: false; readonly problem: Problem };

const refuse = (path: string, message: string): Accepted => ({ ok: false, problem: { path, message } });
const fine = (value: Record<string, unknown>): Accepted => ({ ok: true, value });

/** A link of the table as the checks of the catalogue look at it. */
const asLink = (link: TableLink) => ({ ...link, archived: link.rare.archived });

const removal = ({ kind, record }: Change, table: LinkTable): Accepted => {
  // Links are removed by the thousand, and few others lean on one: those are kept apart.
  const links = kind === 'link' ? table.handingTo(record) : [...table.links.values()];
  const problem = leaningProblem(kind, record, {
    links: links.map(asLink),
    programs: table.programs.values(),
    accounts: [...table.accounts.values()].map((network) => ({ network })),
  });
  return problem === undefined ? { ok: true, value: null } : refuse('', problem);
};

/**
 * Why a link cannot hand its visitors to another; undefined where it can, or hands them to none. One that is not known yet
 * may still come: until then nothing answers.
 */
const handingProblem = (link: Link, table: LinkTable): string | undefined => {
  const seen = new Set([link.id]);
  for (let to = link.archived?.to; to !== undefined; to = table.links.get(to)?.rare.archived?.to) {
    if (to === link.id)
      return seen.size === 1
        ? 'A link that is archived cannot hand its visitors to itself.'
        : 'The other link hands its visitors back to this one. Choose another.';
    if (seen.has(to)) return 'The other link hands its visitors round in a ring. Choose another.';
    seen.add(to);
  }
  return undefined;
};

const acceptLink = (link: Link, table: LinkTable): Accepted => {
  const domain = table.domains.get(link.domain);
  if (!domain) return refuse('domain', 'Its domain is not known here. Add the domain first.');
  if (link.network !== undefined && !table.networks.has(link.network))
    return refuse('network', 'Its network is not known here. Add the network first.');
  for (const path of pathsOf(link, domain)) {
    const owner = table.owner(domain.id, path);
    if (owner && owner.id !== link.id) {
      const free = alternatives(
        link.slug,
        (slug) => table.owner(domain.id, domain.prefix + slug) !== undefined,
      );
      return refuse('slug', `${domain.host}/${path} is taken by another link. Free are ${free.join(', ')}.`);
    }
  }
  const handing = handingProblem(link, table);
  if (handing !== undefined) return refuse('archived.to', handing);
  const prepared = prepareLink(link, hopOf(link, domain), domain);
  return prepared.ok ? fine(link) : first(prepared.problems);
};

const acceptDomain = (domain: Domain, table: LinkTable, isAppHost: (host: string) => boolean): Accepted => {
  const { id, host } = domain;
  if (isAppHost(host)) return refuse('host', `${host} is where the application answers. Use another host.`);
  const other = table.hosts.get(host);
  if (other && other.domain.id !== id) return refuse('host', `${host} is already one of your domains.`);
  const links = [...table.links.values()].filter((link) => link.domain === id).map(asLink);
  const [problem] = domainChangeProblems(domain, table.domains.get(id), links, (path) => {
    const owner = table.owner(id, path);
    return owner && asLink(owner);
  });
  return problem ? { ok: false, problem } : fine({ ...domain });
};

const acceptNetwork = (network: Network, table: LinkTable): Accepted => {
  const { key, pixelKey, previousKey } = network.postback;
  for (const [path, wanted] of [
    ['postback.key', key],
    ['postback.previousKey.key', previousKey?.key],
  ] as const) {
    const owner = wanted === undefined ? undefined : table.networkByKey.get(wanted);
    if (owner && owner.id !== network.id)
      return refuse(path, `${owner.name} has the same postback key. Make a new one.`);
  }
  const owner = table.networkByPixelKey.get(pixelKey);
  return owner && owner.id !== network.id
    ? refuse('postback.pixelKey', `${owner.name} has the same pixel key. Make a new one.`)
    : fine({ ...network });
};

/**
 * Checks one change against its schema and against everything else in the catalogue.
 *
 * @param isAppHost tells the hosts on which the application itself answers
 */
export const accept = (change: Change, table: LinkTable, isAppHost: (host: string) => boolean): Accepted => {
  if (change.value === null) return removal(change, table);
  if (change.value['id'] !== change.record)
    return refuse('id', 'The record carries another ID than the change.');
  const { kind } = change;
  if (kind === 'link') {
    const link = checkRecord('link', change.value);
    return link.ok ? acceptLink(link.value, table) : first(link.problems);
  }
  if (kind === 'domain') {
    const domain = checkRecord('domain', change.value);
    return domain.ok ? acceptDomain(domain.value, table, isAppHost) : first(domain.problems);
  }
  if (kind === 'network') {
    const network = checkRecord('network', change.value);
    return network.ok ? acceptNetwork(network.value, table) : first(network.problems);
  }
  const checked = checkRecord(kind, change.value);
  if (!checked.ok) return first(checked.problems);
  const value: Record<string, unknown> = { ...checked.value };
  if (
    ['program', 'account', 'report', 'month', 'payment'].includes(kind) &&
    !table.networks.has(String(value['network']))
  )
    return refuse('network', 'Its network is not known here. Add the network first.');
  return fine(value);
};

const first = (problems: readonly Problem[]): Accepted => ({
  ok: false,
  problem: problems[0] ?? { path: '', message: 'The record cannot be read.' },
});
