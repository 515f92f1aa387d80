import type { Promotion } from '#core/catalogue';
import type { Request } from './requests.ts';

/** The promotions a visit belongs to, each asked by itself: their IDs in the order of their first days. */
export const slowPromotions = (
  promotions: readonly Promotion[],
  { link, source }: Pick<Request, 'link' | 'source'>,
  day: string,
): string[] =>
  promotions
    .filter(({ from, until, takes }) => {
      const isOpen = day >= from && (until === undefined || day <= until);
      return (
        isOpen &&
        takes.some((one) => {
          if (one.kind === 'link') return one.link === link;
          if (one.kind === 'source') return one.source === source;
          return one.kind === 'sources' && source !== '' && source.indexOf(one.begins) === 0;
        })
      );
    })
    .sort((a, b) => a.from.localeCompare(b.from) || a.id.localeCompare(b.id))
    .map(({ id }) => id);
