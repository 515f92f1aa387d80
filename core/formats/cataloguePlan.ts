import type { Domain, Link, Settings } from '#core/catalogue';
import { pathsOf } from '#core/catalogue';
import type { AnyRecord } from './catalogueFile.ts';

/** What bringing in a catalogue would do. Settings are apart: they come only when asked for. */
export interface CataloguePlan {
  /** Records that are not here yet. */
  readonly fresh: readonly AnyRecord[];
  /** Records whose ID is here: they would take the place of what is here. */
  readonly known: readonly AnyRecord[];
  readonly settings: Settings | undefined;
  /** Hosts that are here under another ID: links of the file go to ours. */
  readonly sameHosts: readonly string[];
  /** Links that are left out, since another link here answers at one of their addresses. */
  readonly taken: readonly { readonly link: Link; readonly path: string }[];
}

const ofKind = <K extends AnyRecord['kind']>(records: readonly AnyRecord[], kind: K) =>
  records.filter((record): record is Extract<AnyRecord, { kind: K }> => record.kind === kind);

/**
 * Plans what becomes of the records of a catalogue file. Nothing is changed by it.
 *
 * @param here every record there is
 */
export const planCatalogue = (records: readonly AnyRecord[], here: readonly AnyRecord[]): CataloguePlan => {
  const ownDomains = ofKind(here, 'domain').map(({ value }) => value);
  const byHost = new Map(ownDomains.map((domain) => [domain.host, domain.id]));
  /** Domains of the file that are here under another ID, by that of the file. */
  const ours = new Map<string, string>();
  const sameHosts: string[] = [];
  for (const { value } of ofKind(records, 'domain')) {
    const own = byHost.get(value.host);
    if (own === undefined || own === value.id) continue;
    ours.set(value.id, own);
    sameHosts.push(value.host);
  }
  const placed = records.map((record): AnyRecord => {
    if (record.kind === 'domain')
      return { kind: 'domain', value: { ...record.value, id: ours.get(record.value.id) ?? record.value.id } };
    return record.kind === 'link'
      ? {
          kind: 'link',
          value: { ...record.value, domain: ours.get(record.value.domain) ?? record.value.domain },
        }
      : record;
  });

  const domains = new Map<string, Domain>(
    [...ofKind(placed, 'domain').map(({ value }) => value), ...ownDomains].map((each) => [each.id, each]),
  );
  const addresses = (link: Link): string[] => {
    const domain = domains.get(link.domain);
    return domain ? pathsOf(link, domain).map((path) => `${domain.host}/${path}`) : [];
  };
  const owners = new Map(
    ofKind(here, 'link').flatMap(({ value }) => addresses(value).map((path) => [path, value.id] as const)),
  );
  const taken: { link: Link; path: string }[] = [];
  const isFree = (record: AnyRecord): boolean => {
    if (record.kind !== 'link') return true;
    const path = addresses(record.value).find(
      (address) => (owners.get(address) ?? record.value.id) !== record.value.id,
    );
    if (path !== undefined) taken.push({ link: record.value, path });
    return path === undefined;
  };

  const ids = new Set(here.map(({ value }) => value.id));
  const rest = placed.filter(({ kind }) => kind !== 'settings').filter(isFree);
  return {
    fresh: rest.filter(({ value }) => !ids.has(value.id)),
    known: rest.filter(({ value }) => ids.has(value.id)),
    settings: ofKind(placed, 'settings')[0]?.value,
    sameHosts,
    taken,
  };
};
