import { writeTable } from '#core/formats';
import type { UsedPage } from './whereUsed.ts';

const moment = (at: number): string => (at === 0 ? '' : new Date(at).toISOString());

/**
 * Where links are used as CSV: a row for each link on each page, and one for each thing its words say that is no longer so.
 *
 * @param slugOf a link by its ID, as it is written in addresses
 */
export const usedCsv = (pages: readonly UsedPage[], slugOf: (link: string) => string): string =>
  writeTable(
    [
      'page',
      'title',
      'known by',
      'read',
      'link',
      'address',
      'times',
      'visitors',
      'newest visitor',
      'to mend',
      'says',
    ],
    pages.flatMap(({ name, title, by, readAt, links, stale }) => {
      const page = [name, title, by, moment(readAt)];
      return [
        ...links.map(({ link, address, times, visitors, newest, mend, gone }) => [
          ...page,
          link === undefined ? '' : slugOf(link),
          address,
          gone ? 'no longer' : String(times),
          String(visitors),
          moment(newest),
          mend?.kind ?? '',
          mend?.says ?? '',
        ]),
        ...stale.map(({ link, kind, says }) => [
          ...page,
          link === undefined ? '' : slugOf(link),
          '',
          '',
          '',
          '',
          kind,
          says,
        ]),
      ];
    }),
  );
