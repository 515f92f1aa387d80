import { describe, expect, it } from 'vitest';
import type { JournalRecord } from '#core/visits';
import { hopRecord } from '../visits/testing/records.ts';
import { answersFrom, Dataset } from './index.ts';

const day = 86_400_000;
const page = 'https://nightledge.example/rings';
const dataset = (records: readonly JournalRecord[]): Dataset => {
  const data = new Dataset();
  data.add(records.map((record, i) => ({ ...record, seq: i + 1 })));
  return data;
};
const visit = (from: string, at: number, more: object = {}) =>
  hopRecord({ from, at, visitor: `v${at}`, ...more });

describe('pages that carry links', () => {
  it('are told by counted visits, whatever stands behind their path, and by what the script says', () => {
    const found = answersFrom(
      dataset([
        visit(`${page}?utm_source=x`, day),
        visit(`${page}#top`, day + 1, { link: 'lnk_map' }),
        visit(page, day + 2, { link: 'lnk_map' }),
        // Repeats, bots and other apps' own addresses are no visitors of a page.
        visit(page, day + 3, { visitor: `v${day + 2}`, link: 'lnk_map' }),
        visit(page, day + 4, { ua: 'curl/8.0' }),
        visit('android-app://mail.example', day + 5),
        visit('', day + 6),
        visit('https://elsewhere.example/', day + 7),
        {
          seq: 1,
          kind: 'reading',
          at: day + 8,
          page,
          views: 3,
          seconds: 90,
          depth: 180,
          links: ['lnk_map', 'lnk_torch'],
        },
        { seq: 1, kind: 'reading', at: day + 9, page, views: 1, seconds: 30, depth: 20 },
      ]),
    ).pages(0);
    expect(found).toEqual([
      {
        page,
        siteOnly: false,
        newest: day + 9,
        views: 4,
        seconds: 30,
        depth: 50,
        links: [
          { link: 'lnk_kit', visitors: 1, newest: day, stands: false },
          { link: 'lnk_map', visitors: 2, newest: day + 2, stands: true },
          { link: 'lnk_torch', visitors: 0, newest: 0, stands: true },
        ],
      },
      {
        page: 'https://elsewhere.example/',
        siteOnly: true,
        newest: day + 7,
        views: 0,
        seconds: 0,
        depth: 0,
        links: [{ link: 'lnk_kit', visitors: 1, newest: day + 7, stands: false }],
      },
    ]);
  });

  it('are those since a moment; what stood there before it may stand there still', () => {
    const found = answersFrom(
      dataset([
        visit(page, 5),
        { seq: 1, kind: 'reading', at: 6, page, views: 3, seconds: 90, depth: 180, links: ['lnk_torch'] },
        { seq: 1, kind: 'reading', at: day, page, views: 2, seconds: 10, depth: 100 },
      ]),
    ).pages(day);
    expect(found).toMatchObject([
      { page, views: 2, seconds: 5, depth: 50, links: [{ link: 'lnk_torch', visitors: 0, stands: true }] },
    ]);
  });
});
