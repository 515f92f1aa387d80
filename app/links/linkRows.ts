import type { Link } from '#core/catalogue';
import { allowedHop, restrictionsOf, hopOf, marksOf } from '#core/catalogue';
import { epcOf } from '#core/figures';
import { hostOf } from '#core/link-parts';
import { answeringLink, hopName, openingOf } from '#core/hop';
import type { Whereabouts } from '../data/catalogue.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { count, localMoment, perClick, sums } from '../theme/formats.ts';

/** A link as a row of the list. */
export interface LinkRow {
  readonly link: Link;
  readonly where: Whereabouts;
  /** That it is not open yet, closed or about to close, in the zone of its hours; empty otherwise. */
  readonly opening: string;
  readonly goesTo: string;
  readonly network: string;
  readonly hop: string;
  readonly mark: string;
  /** Empty while the journal arrives. */
  readonly days: readonly number[];
  readonly visitors: string;
  readonly conversions: string;
  readonly commission: string;
  readonly epc: string;
}

const noDays = Array.from({ length: 14 }, () => 0);
const unknown = '…';
const shortMark = { sponsored: 'spons.', nofollow: 'nofollow', ugc: 'ugc' } as const;

/** Gives the row of a link. Only rows that are seen are made: a list may have ten thousand. */
export const useLinkRows = () => {
  const catalogue = useCatalogue();
  const journal = useJournal();

  /** What an archived link answers. */
  const archivedWords = (link: Link): string => {
    const other = answeringLink(link, ({ archived }) => archived, catalogue.link);
    return other ? `answers as ${other.slug}` : 'gone';
  };
  /** How a link stands to its hours, where that is worth a mark. */
  const openingWords = (link: Link): string => {
    const domain = catalogue.domain(link.domain);
    const opening = domain && openingOf(link, domain, Date.now());
    switch (opening?.state) {
      case 'not open yet':
        return `opens ${localMoment(opening.from ?? '', opening.zone)}`;
      case 'closing':
        return `closes ${localMoment(opening.until ?? '', opening.zone)}`;
      case 'closed':
        return `closed since ${localMoment(opening.until ?? '', opening.zone)}`;
      default:
        return '';
    }
  };
  return (link: Link): LinkRow => {
    const domain = catalogue.domain(link.domain);
    const program = catalogue.program(link.program);
    // While the journal arrives nothing is said of it: half of the figures would look like all.
    const known = !journal.arriving;
    const figures = known ? journal.figures.get(link.id) : undefined;
    const [first, ...others] = figures?.commission ?? [];
    const epc = first && others.length === 0 ? epcOf(first.minor, figures?.counted ?? 0) : undefined;
    const [rel] = domain ? marksOf(link, domain).rel : [];
    return {
      link,
      where: catalogue.where(link.id),
      opening: link.archived ? '' : openingWords(link),
      goesTo: link.archived ? archivedWords(link) : (program?.name ?? hostOf(link.destination)),
      network: catalogue.network(link.network)?.name ?? '—',
      hop: link.archived
        ? 'archived'
        : domain
          ? hopName(allowedHop(hopOf(link, domain), restrictionsOf(program, domain)))
          : '',
      mark: rel ? shortMark[rel] : '',
      days: known ? (figures?.days ?? noDays) : [],
      visitors: known ? count(figures?.counted ?? 0) : unknown,
      conversions: known ? count(figures?.conversions ?? 0) : unknown,
      commission: figures ? sums(figures.commission) : '',
      epc: !known ? unknown : epc === undefined || !first ? '—' : perClick(epc, first.currency),
    };
  };
};
