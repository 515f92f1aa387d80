import { dequal } from 'dequal';
import type { Conditions, Hours } from './branches.ts';
import { freshBranchId } from './branches.ts';
import { withAddress } from './defaults.ts';
import type { HopChoices, Marks } from './hopChoices.ts';
import type { Link } from './records.ts';
import { slugProblem } from './slug.ts';

/** Which of a link's choices are left to its domain again. */
export type FollowedParts = 'hop' | 'marks' | 'hop and marks';

/** Something done to many links at once. */
export type BulkChange =
  | { readonly kind: 'group'; readonly group: string }
  | { readonly kind: 'add tag'; readonly tag: string }
  | { readonly kind: 'take tag'; readonly tag: string }
  | { readonly kind: 'replace'; readonly find: string; readonly by: string }
  | { readonly kind: 'redirect type'; readonly status: HopChoices['status'] }
  /** Each mark given is set; null leaves it to the domain. */
  | { readonly kind: 'marks'; readonly marks: { readonly [K in keyof Marks]?: Marks[K] | null } }
  /** Instead of the hours a link has; none for always open. */
  | { readonly kind: 'hours'; readonly hours: Hours }
  /** A branch that is tried before those a link has. */
  | { readonly kind: 'branch'; readonly when: Conditions; readonly destination: string }
  | { readonly kind: 'no branches' }
  | { readonly kind: 'follow defaults'; readonly parts: FollowedParts }
  | { readonly kind: 'star'; readonly on: boolean }
  | { readonly kind: 'archive'; readonly at: number }
  | { readonly kind: 'bring back' };

/** What a change would do to one link. */
export interface BulkPreview {
  readonly link: Link;
  readonly next: Link;
}

const without = <K extends keyof Link>(link: Link, name: K): Omit<Link, K> => {
  const { [name]: _, ...rest } = link;
  return rest;
};

const withoutBranches = ({ branches: _1, weight: _2, movesWeights: _3, ...link }: Link): Link => link;

const withMarks = (link: Link, change: { readonly [K in keyof Marks]?: Marks[K] | null }): Link => {
  const given = { ...link.marks, ...change };
  const marks = Object.fromEntries(Object.entries(given).filter(([, value]) => value !== null));
  return { ...link, marks };
};

const changed = (link: Link, change: BulkChange): Link => {
  const { tags = [], branches = [] } = link;
  switch (change.kind) {
    case 'group':
      return withAddress(link, link.slug, change.group.trim().toLowerCase());
    case 'add tag': {
      const tag = change.tag.trim();
      return tag === '' || tags.includes(tag) ? link : { ...link, tags: [...tags, tag] };
    }
    case 'take tag': {
      const left = tags.filter((tag) => tag !== change.tag.trim());
      return left.length > 0 ? { ...link, tags: left } : without(link, 'tags');
    }
    case 'replace': {
      if (change.find === '') return link;
      const replace = (text: string) => text.replaceAll(change.find, () => change.by);
      return {
        ...link,
        destination: replace(link.destination),
        ...(link.branches && {
          branches: branches.map((branch) => ({ ...branch, destination: replace(branch.destination) })),
        }),
      };
    }
    case 'redirect type':
      return link.hop.status === change.status && (link.hop.page ?? 'none') === 'none'
        ? link
        : { ...link, hop: { ...link.hop, status: change.status, page: 'none' } };
    case 'marks':
      return withMarks(link, change.marks);
    case 'hours':
      if (Object.keys(change.hours).length === 0)
        return Object.keys(link.hours ?? {}).length === 0 ? link : without(link, 'hours');
      return { ...link, hours: change.hours };
    case 'branch': {
      const { when, destination } = change;
      if (branches.some((branch) => dequal(branch.when, when) && branch.destination === destination))
        return link;
      const first = { id: freshBranchId(branches), name: '', when, destination, weight: 1 };
      return { ...link, branches: [first, ...branches] };
    }
    case 'no branches':
      return withoutBranches(link);
    case 'follow defaults':
      return {
        ...link,
        ...(change.parts !== 'marks' && { hop: {} }),
        ...(change.parts !== 'hop' && { marks: {} }),
      };
    case 'star':
      return change.on ? { ...link, starred: true } : without(link, 'starred');
    case 'archive':
      return link.archived ? link : { ...link, archived: { at: change.at } };
    case 'bring back':
      return without(link, 'archived');
  }
};

/** What a change would do to each of many links; those it leaves as they are fall out. */
export const bulkPreview = (links: readonly Link[], change: BulkChange): BulkPreview[] =>
  links.flatMap((link) => {
    const next = changed(link, change);
    return dequal(next, link) ? [] : [{ link, next }];
  });

/** What is wrong with a change itself, before it is applied; undefined when nothing is. */
export const bulkProblem = (change: BulkChange): string | undefined => {
  if (change.kind === 'group' && change.group.trim() !== '') return slugProblem(change.group.trim());
  if (change.kind === 'add tag' && change.tag.trim().length > 40) return 'A tag has at most 40 characters.';
  return undefined;
};

/** What of the links is to be shown. Empty fields ask for nothing. */
export interface LinkFilter {
  readonly words: string;
  readonly domain: string;
  readonly program: string;
  readonly group: string;
  readonly tag: string;
  /** `starred`, `archived`, how it stands to its hours, or a whereabouts such as `here`; empty for all that are not archived. */
  readonly state: string;
}

/**
 * True for a link a filter lets through, its words left out.
 *
 * @param opening how a link stands to its opening hours, such as `closed`; empty for one that has none
 */
export const fits = (
  link: Link,
  filter: LinkFilter,
  where: (id: string) => string,
  opening: (link: Link) => string = () => '',
): boolean => {
  if ((filter.state === 'archived') !== (link.archived !== undefined)) return false;
  if (filter.domain !== '' && link.domain !== filter.domain) return false;
  if (filter.program !== '' && link.program !== filter.program) return false;
  if (filter.group !== '' && (link.group ?? '') !== filter.group) return false;
  if (filter.tag !== '' && !(link.tags ?? []).includes(filter.tag)) return false;
  if (filter.state === 'starred') return link.starred === true;
  if (filter.state === '' || filter.state === 'archived') return true;
  return where(link.id) === filter.state || opening(link) === filter.state;
};
