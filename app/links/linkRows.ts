import { computed } from 'vue';
import type { Link } from '#core/catalogue';
import { hopOf, marksOf } from '#core/catalogue';
import { epcOf } from '#core/figures';
import { hostOf } from '#core/anatomy';
import type { Whereabouts } from '../data/catalogue.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { count, perClick, sums } from '../look/formats.ts';

/** A link as a row of the list. */
export interface LinkRow {
  readonly link: Link;
  readonly where: Whereabouts;
  readonly goesTo: string;
  readonly network: string;
  readonly status: number;
  readonly mark: string;
  readonly days: readonly number[];
  readonly visitors: string;
  readonly conversions: string;
  readonly commission: string;
  readonly epc: string;
}

const noDays = Array.from({ length: 14 }, () => 0);
const shortMark = { sponsored: 'spons.', nofollow: 'nofollow', ugc: 'ugc' } as const;

/** The rows of the list, newest link first. */
export const useLinkRows = () => {
  const catalogue = useCatalogue();
  const journal = useJournal();

  const rowOf = (link: Link): LinkRow => {
    const domain = catalogue.domain(link.domain);
    const figures = journal.figures.get(link.id);
    const [first, ...others] = figures?.commission ?? [];
    const epc = first && others.length === 0 ? epcOf(first.minor, figures?.counted ?? 0) : undefined;
    const [rel] = domain ? marksOf(link, domain).rel : [];
    return {
      link,
      where: catalogue.where(link.id),
      goesTo: catalogue.program(link.program)?.name ?? hostOf(link.destination),
      network: catalogue.network(link.network)?.name ?? '—',
      status: domain ? hopOf(link, domain).status : 0,
      mark: rel ? shortMark[rel] : '',
      days: figures?.days ?? noDays,
      visitors: count(figures?.counted ?? 0),
      conversions: count(figures?.conversions ?? 0),
      commission: figures ? sums(figures.commission) : '',
      epc: epc === undefined || !first ? '—' : perClick(epc, first.currency),
    };
  };
  return computed(() => catalogue.links.toSorted((a, b) => b.createdAt - a.createdAt).map(rowOf));
};
