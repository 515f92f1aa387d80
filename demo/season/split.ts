import type { Visit } from './people.ts';
import type { Sale } from './sale.ts';

/** The link of Nightledge whose visitors are split in two, the branch that sells better, and how many of its buyers saw that one. */
export const split = { link: 'lnk_firstscope', better: 'b1', ofBuyers: 0.8, ofOthers: 0.5 } as const;

/**
 * The branch each visitor of the split link was shown. It follows from the visitor and whether something was bought, so that chance is not
 * asked: of ten who bought eight saw the better branch, of ten others five, as if one of them sold four times as well.
 */
export const withBranches = (visits: readonly Visit[], sales: readonly Sale[]): Visit[] => {
  const sold = new Set(sales.map(({ click }) => click));
  const buyers = new Set(
    visits.flatMap(({ hop: { link, click, visitor } }) =>
      link === split.link && sold.has(click) ? [visitor] : [],
    ),
  );
  return visits.map((visit) => {
    const { link, branch, visitor } = visit.hop;
    if (link !== split.link || branch !== 'everyone') return visit;
    const share = parseInt(visitor.slice(0, 8), 16) / 2 ** 32;
    const isBetter = share < (buyers.has(visitor) ? split.ofBuyers : split.ofOthers);
    return isBetter ? { ...visit, hop: { ...visit.hop, branch: split.better } } : visit;
  });
};
