import type { HopChoices } from './hopChoices.ts';
import type { Link } from './records.ts';
import { withAddress } from './defaults.ts';
import { slugProblem } from './slug.ts';

/** Something done to many links at once. */
export type BulkChange =
  | { readonly kind: 'group'; readonly group: string }
  | { readonly kind: 'add tag'; readonly tag: string }
  | { readonly kind: 'take tag'; readonly tag: string }
  | { readonly kind: 'replace'; readonly find: string; readonly by: string }
  | { readonly kind: 'redirect type'; readonly status: HopChoices['status'] }
  | { readonly kind: 'follow defaults' }
  | { readonly kind: 'star'; readonly on: boolean }
  | { readonly kind: 'archive'; readonly at: number }
  | { readonly kind: 'bring back' };

/** What a change would do to one link. */
export interface BulkPreview {
  readonly link: Link;
  readonly next: Link;
  /** What would be different, as words. */
  readonly what: string;
}

const without = <K extends keyof Link>(link: Link, name: K): Omit<Link, K> => {
  const { [name]: _, ...rest } = link;
  return rest;
};

const changed = (link: Link, change: BulkChange): BulkPreview | undefined => {
  const { tags = [] } = link;
  switch (change.kind) {
    case 'group': {
      const group = change.group.trim().toLowerCase();
      if (group === (link.group ?? '')) return undefined;
      return {
        link,
        next: withAddress(link, link.slug, group),
        what: group === '' ? 'no group' : `group ${group}`,
      };
    }
    case 'add tag': {
      const tag = change.tag.trim();
      if (tag === '' || tags.includes(tag)) return undefined;
      return { link, next: { ...link, tags: [...tags, tag] }, what: `tag ${tag}` };
    }
    case 'take tag': {
      if (!tags.includes(change.tag)) return undefined;
      const left = tags.filter((tag) => tag !== change.tag);
      const rest = without(link, 'tags');
      return {
        link,
        next: left.length > 0 ? { ...rest, tags: left } : rest,
        what: `without tag ${change.tag}`,
      };
    }
    case 'replace': {
      if (change.find === '') return undefined;
      const replace = (text: string) => text.replaceAll(change.find, () => change.by);
      const destination = replace(link.destination);
      const branches = link.branches?.map((branch) => ({
        ...branch,
        destination: replace(branch.destination),
      }));
      const next = { ...link, destination, ...(branches && { branches }) };
      if (JSON.stringify(next) === JSON.stringify(link)) return undefined;
      return { link, next, what: destination };
    }
    case 'redirect type':
      if (link.hop.status === change.status && (link.hop.page ?? 'none') === 'none') return undefined;
      return {
        link,
        next: { ...link, hop: { ...link.hop, status: change.status, page: 'none' } },
        what: String(change.status),
      };
    case 'follow defaults':
      if (Object.keys(link.hop).length === 0 && Object.keys(link.marks).length === 0) return undefined;
      return { link, next: { ...link, hop: {}, marks: {} }, what: 'follows its domain' };
    case 'star':
      if ((link.starred ?? false) === change.on) return undefined;
      return {
        link,
        next: change.on ? { ...link, starred: true } : without(link, 'starred'),
        what: change.on ? 'starred' : 'no star',
      };
    case 'archive':
      if (link.archived) return undefined;
      return { link, next: { ...link, archived: { at: change.at } }, what: 'answers “gone”' };
    case 'bring back':
      return link.archived ? { link, next: without(link, 'archived'), what: 'answers again' } : undefined;
  }
};

/** What a change would do to each of many links; those it leaves as they are fall out. */
export const bulkPreview = (links: readonly Link[], change: BulkChange): BulkPreview[] =>
  links.flatMap((link) => changed(link, change) ?? []);

/** What is wrong with a change itself, before it is applied; undefined when nothing is. */
export const bulkProblem = (change: BulkChange): string | undefined => {
  if (change.kind === 'group' && change.group.trim() !== '') return slugProblem(change.group.trim());
  if (change.kind === 'add tag' && change.tag.trim().length > 40) return 'A tag has at most 40 characters.';
  return undefined;
};

/** What of the links is to be shown. Empty fields ask for nothing. */
export interface LinkFilter {
  readonly words: string;
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
  if (filter.program !== '' && link.program !== filter.program) return false;
  if (filter.group !== '' && (link.group ?? '') !== filter.group) return false;
  if (filter.tag !== '' && !(link.tags ?? []).includes(filter.tag)) return false;
  if (filter.state === 'starred') return link.starred === true;
  if (filter.state === '' || filter.state === 'archived') return true;
  return where(link.id) === filter.state || opening(link) === filter.state;
};
