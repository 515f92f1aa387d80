import { dequal } from 'dequal';
import type { Domain, Link } from '#core/catalogue';
import type { GoodRow, LinkField } from './links.ts';

/** What is done with a row whose slug is taken. */
export type WhenTaken = 'skip' | 'rename' | 'replace';

/** What an import would do: links to make and to change, and rows that are passed over. */
export interface ImportPlan {
  readonly made: readonly Link[];
  readonly replaced: readonly { readonly before: Link; readonly after: Link }[];
  /** How many links are here just as their rows have them. */
  readonly same: number;
  readonly renamed: readonly { readonly from: string; readonly to: string }[];
  readonly skipped: readonly { readonly line: number; readonly slug: string }[];
}

/** A link with what a row says of it; of what the table has no column of, and of what only JSON holds, all stays. */
const withRow = (before: Link, { values, given }: GoodRow): Link => {
  const { group, tags, hours, archived, hop, marks } = values;
  const has = (...fields: readonly LinkField[]) => fields.some((field) => given.has(field));
  const { status: _1, ...hopRest } = before.hop;
  const { rel, newTab, ...markRest } = before.marks;
  const { group: _2, tags: _3, hours: hoursBefore, archived: _4, ...rest } = before;
  const { from: _5, until: _6, zone: zoneBefore, ...hoursRest } = hoursBefore ?? {};
  const zone = has('zone') ? hours?.zone : zoneBefore;
  const nextHours = has('from', 'until')
    ? { ...hoursRest, ...(zone !== undefined && { zone }), ...hours }
    : hoursBefore;
  const keptTo = before.archived?.to;
  const nextArchived = has('archived')
    ? archived && {
        at: archived.at || (before.archived?.at ?? 0),
        ...(!has('answers as') && keptTo !== undefined && { to: keptTo }),
      }
    : before.archived;
  const nextGroup = has('group') || group !== undefined ? group : before.group;
  const nextTags = has('tags') ? tags : before.tags;
  return {
    ...rest,
    destination: values.destination,
    title: has('title') ? values.title : before.title,
    notes: has('notes') ? values.notes : before.notes,
    hop: has('redirect type') ? { ...hopRest, ...hop } : before.hop,
    marks: {
      ...markRest,
      ...(has('rel') ? marks.rel && { rel: marks.rel } : rel && { rel }),
      ...(has('new tab')
        ? marks.newTab !== undefined && { newTab: marks.newTab }
        : newTab !== undefined && { newTab }),
    },
    ...(nextGroup !== undefined && { group: nextGroup }),
    ...(nextTags !== undefined && { tags: nextTags }),
    ...(nextHours !== undefined &&
      (hoursBefore !== undefined || Object.keys(nextHours).length > 0) && { hours: nextHours }),
    ...(nextArchived && { archived: nextArchived }),
  };
};

type Unresolved = Link & { readonly answersAs: GoodRow['answersAs'] };

/**
 * Plans what becomes of good rows. Nothing is changed by it.
 *
 * @param domain where rows go whose short address names no domain of one's own
 * @param fresh gives an ID for a new link
 * @param at when they are made; milliseconds since 1970 UTC
 */
export const planImport = (
  rows: readonly GoodRow[],
  domain: Domain,
  domains: readonly Domain[],
  links: readonly Link[],
  whenTaken: WhenTaken,
  fresh: () => string,
  at: number,
): ImportPlan => {
  const byHost = new Map(domains.map((each) => [each.host, each]));
  const domainOf = (host: string): Domain => byHost.get(host) ?? domain;
  const keyOf = ({ id }: Domain, slug: string): string => `${id} ${slug}`;
  const owners = new Map<string, Link>();
  for (const link of links)
    for (const slug of [link.slug, ...link.aliases]) owners.set(`${link.domain} ${slug}`, link);
  const used = new Set<string>(owners.keys());
  /** What answers for archived ones is known when all rows have been looked at. */
  const ids = new Map([...owners].map(([key, { id }]) => [key, id]));
  const made: Unresolved[] = [];
  const replaced: { before: Link; after: Unresolved }[] = [];
  const renamed: { from: string; to: string }[] = [];
  const skipped: { line: number; slug: string }[] = [];
  for (const row of rows) {
    const { line, values: written } = row;
    const own = domainOf(row.host);
    const answersAs = { host: row.answersAs.host || row.host, slug: row.answersAs.slug };
    // What stands before every slug of the domain is no group of this one.
    const { group, ...rest } = written;
    const values = group !== undefined && `${group}/` === own.prefix ? rest : written;
    let { slug } = values;
    if (used.has(keyOf(own, slug))) {
      const before = owners.get(keyOf(own, slug));
      if (whenTaken === 'replace' && before) {
        replaced.push({ before, after: { ...withRow(before, { ...row, values }), answersAs } });
        owners.delete(keyOf(own, slug));
        continue;
      }
      if (whenTaken !== 'rename') {
        skipped.push({ line, slug });
        continue;
      }
      let n = 2;
      while (used.has(keyOf(own, `${slug}-${n}`))) n += 1;
      renamed.push({ from: slug, to: `${slug}-${n}` });
      slug = `${slug}-${n}`;
    }
    used.add(keyOf(own, slug));
    const id = fresh();
    ids.set(keyOf(own, slug), id);
    const archived = values.archived && { archived: { ...values.archived, at: values.archived.at || at } };
    made.push({
      ...values,
      ...archived,
      id,
      domain: own.id,
      slug,
      aliases: [],
      asText: [],
      createdAt: at,
      answersAs,
    });
  }
  const resolved = ({ answersAs: { host, slug }, ...link }: Unresolved): Link => {
    const to = ids.get(keyOf(domainOf(host), slug));
    return link.archived && to !== undefined && to !== link.id
      ? { ...link, archived: { at: link.archived.at, to } }
      : link;
  };
  const compared = replaced.map(({ before, after }) => ({ before, after: resolved(after) }));
  const different = compared.filter(({ before, after }) => !dequal(before, after));
  return {
    made: made.map(resolved),
    replaced: different,
    same: compared.length - different.length,
    renamed,
    skipped,
  };
};
