import type { Link } from '#core/catalogue';
import { allowedHop, restrictionsOf, hopOf, marksOf } from '#core/catalogue';
import { epcOf } from '#core/figures';
import { hostOf } from '#core/link-parts';
import { answeringLink, hopName, openingOf } from '#core/hop';
import type { LinkFigures } from '#core/queries';
import type { Whereabouts } from '../data/catalogue.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { localMoment } from '../theme/formats.ts';

const shortMark = { sponsored: 'spons.', nofollow: 'nofollow', ugc: 'ugc' } as const;

/** What an EPC is, or why there is none. */
export type Epc =
  | { readonly minor: number; readonly currency: string }
  | { readonly why: 'no visits' | 'no sales' | '2 currencies' };

/** What a link is and does, for the list and for sorting it; each is only computed where it is asked for. */
export const useLinkFacts = () => {
  const catalogue = useCatalogue();
  const journal = useJournal();

  /** What an archived link answers. */
  const archivedWords = (link: Link): string => {
    const other = answeringLink(link, ({ archived }) => archived, catalogue.link);
    return other ? `answers as ${other.slug}` : 'gone';
  };
  const figures = (link: Link): LinkFigures | undefined => journal.figures.get(link.id);

  return {
    figures,
    where: (link: Link): Whereabouts => catalogue.where(link.id),
    /** That it is not open yet, closed or about to close, in the zone of its hours; empty otherwise. */
    opening: (link: Link): string => {
      const domain = catalogue.domain(link.domain);
      const opening = link.archived ? undefined : domain && openingOf(link, domain, Date.now());
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
    },
    goesTo: (link: Link): string =>
      link.archived
        ? archivedWords(link)
        : (catalogue.program(link.program)?.name ?? hostOf(link.destination)),
    network: (link: Link): string | undefined => catalogue.network(link.network)?.name,
    hop: (link: Link): string => {
      const domain = catalogue.domain(link.domain);
      if (link.archived || !domain) return link.archived ? 'archived' : '';
      return hopName(
        allowedHop(hopOf(link, domain), restrictionsOf(catalogue.program(link.program), domain)),
      );
    },
    mark: (link: Link): string => {
      const domain = catalogue.domain(link.domain);
      const [rel] = domain ? marksOf(link, domain).rel : [];
      return rel ? shortMark[rel] : '';
    },
    epc: (link: Link): Epc => {
      const { counted, commission } = figures(link) ?? { counted: 0, commission: [] };
      const [first, ...others] = commission;
      if (others.length > 0) return { why: '2 currencies' };
      const minor = epcOf(first?.minor ?? 0, counted); // nothing was earned without a sum
      if (minor === undefined) return { why: 'no visits' };
      return first ? { minor, currency: first.currency } : { why: 'no sales' };
    },
  };
};
