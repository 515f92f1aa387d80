import type { Change, Problem } from '#core/catalogue';
import { alternatives, checkRecord, hopOf, pathsOf } from '#core/catalogue';
import { prepareLink } from '#core/hop';
import type { Table } from './table.ts';

type Accepted =
  | { readonly ok: true; readonly value: Record<string, unknown> | null }
  | { readonly ok: false; readonly problem: Problem };

const refuse = (path: string, message: string): Accepted => ({ ok: false, problem: { path, message } });

const removal = ({ kind, record }: Change, table: Table): Accepted => {
  const links = [...table.links.values()];
  const used =
    kind === 'domain'
      ? links.filter((link) => link.domain === record).length
      : kind === 'network'
        ? links.filter((link) => link.network === record).length
        : 0;
  if (used > 0) return refuse('', `${used} links still use it. Move them first.`);
  return { ok: true, value: null };
};

/**
 * Checks one change against its schema and against everything else in the catalogue.
 *
 * @param isAppHost tells the hosts on which the application itself answers
 */
export const accept = (change: Change, table: Table, isAppHost: (host: string) => boolean): Accepted => {
  if (change.value === null) return removal(change, table);
  if (change.value['id'] !== change.record)
    return refuse('id', 'The record carries another ID than the change.');

  if (change.kind === 'link') {
    const checked = checkRecord('link', change.value);
    if (!checked.ok) return first(checked.problems);
    const link = checked.value;
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
        return refuse(
          'slug',
          `${domain.host}/${path} is taken by another link. Free are ${free.join(', ')}.`,
        );
      }
    }
    if (link.archived?.to === link.id)
      return refuse('archived.to', 'A link that was set away cannot hand its visitors to itself.');
    const prepared = prepareLink(link, hopOf(link, domain), domain);
    return prepared.ok ? { ok: true, value: link } : first(prepared.problems);
  }

  const checked = checkRecord(change.kind, change.value);
  if (!checked.ok) return first(checked.problems);
  const value: Record<string, unknown> = { ...checked.value };

  if (change.kind === 'domain') {
    const host = String(value['host']);
    if (isAppHost(host)) return refuse('host', `${host} is where the application answers. Use another host.`);
    const other = table.hosts.get(host);
    if (other && other.domain.id !== change.record)
      return refuse('host', `${host} is already one of your domains.`);
  }
  if (change.kind === 'network') {
    const network = checkRecord('network', change.value);
    if (network.ok) {
      const owner = table.networkByKey.get(network.value.postback.key);
      if (owner && owner.id !== change.record)
        return refuse('postback.key', `${owner.name} has the same postback key. Make a new one.`);
    }
  }
  if (
    ['program', 'account', 'report', 'month', 'payment'].includes(change.kind) &&
    !table.networks.has(String(value['network']))
  )
    return refuse('network', 'Its network is not known here. Add the network first.');
  return { ok: true, value };
};

const first = (problems: readonly Problem[]): Accepted => ({
  ok: false,
  problem: problems[0] ?? { path: '', message: 'The record cannot be read.' },
});
