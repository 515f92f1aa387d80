import type { Domain, Link } from '#core/catalogue';
import { addressOf } from '#core/catalogue';
import { writeTable } from './csv.ts';

/** Tags in one cell, written so that a tag with a comma stays one. A bar in a tag is the one sign that cannot be told apart. */
const tagsOut = (tags: readonly string[]): string =>
  tags.some((tag) => /[,;]/.test(tag)) ? `${tags.join(' | ')} |` : tags.join(', ');

const csvHeader = [
  'short address',
  'slug',
  'title',
  'destination',
  'group',
  'tags',
  'redirect type',
  'rel',
  'new tab',
  'from',
  'until',
  'zone',
  'archived',
  'answers as',
  'notes',
];

/** Links as CSV for people; what only JSON holds (splits, pages, words) is left out. */
export const writeLinks = (links: readonly Link[], domains: readonly Domain[]): string => {
  const byId = new Map(links.map((link) => [link.id, link]));
  /** The link that answers since another was archived: its slug, and its address where it is on another domain. */
  const answering = (link: Link): string => {
    const to = byId.get(link.archived?.to ?? '');
    if (to === undefined) return '';
    const domain = domains.find(({ id }) => id === to.domain);
    return to.domain === link.domain || domain === undefined ? to.slug : `${domain.host}/${to.slug}`;
  };
  return writeTable(
    csvHeader,
    links.map((link) => {
      const domain = domains.find((d) => d.id === link.domain);
      return [
        domain ? addressOf(domain, link) : '',
        link.slug,
        link.title,
        link.destination,
        link.group ?? '',
        tagsOut(link.tags ?? []),
        link.hop.status ?? '',
        link.marks.rel?.length === 0 ? 'none' : (link.marks.rel?.join(' ') ?? ''),
        link.marks.newTab === undefined ? '' : link.marks.newTab ? 'yes' : 'no',
        link.hours?.from ?? '',
        link.hours?.until ?? '',
        link.hours?.zone ?? '',
        link.archived ? new Date(link.archived.at).toISOString() : '',
        answering(link),
        link.notes,
      ];
    }),
  );
};
