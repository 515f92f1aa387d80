import type { UsedLink, UsedPage } from '#core/where-used';
import { mendWords } from './findWords.ts';

/** What is said of one link on one page. */
export interface UsedDetail {
  readonly key: string;
  /** The link it leads to, by its ID; undefined for none, or where the row is that link. */
  readonly link: string | undefined;
  /** The page it stands on; undefined where the row is that page. */
  readonly page: UsedPage | undefined;
  readonly times: number;
  readonly visitors: number;
  readonly gone: boolean;
  /** What is wrong, in a few words and as a sentence; empty for nothing. */
  readonly kind: string;
  readonly says: string;
}
/** A row of the list: a page with its links, or a link with its pages. */
export interface UsedRow {
  readonly key: string;
  readonly page: UsedPage | undefined;
  readonly link: string | undefined;
  readonly visitors: number;
  /** Links on the page, or pages of the link. */
  readonly count: number;
  readonly newest: number;
  readonly toMend: number;
  readonly details: readonly UsedDetail[];
}

const detailOf = (one: UsedLink, key: string): Omit<UsedDetail, 'link' | 'page'> => ({
  key,
  times: one.times,
  visitors: one.visitors,
  gone: one.gone,
  kind: one.mend ? mendWords(one.mend.kind) : '',
  says: one.mend?.says ?? '',
});
const staleDetails = ({ stale }: UsedPage, page: UsedPage | undefined, of?: string): UsedDetail[] =>
  stale
    .filter(({ link }) => of === undefined || link === of)
    .map(({ kind, says, link }) => ({
      key: `${page?.name ?? ''} ${says}`,
      link: of === undefined ? link : undefined,
      page,
      times: 0,
      visitors: 0,
      gone: false,
      kind: mendWords(kind),
      says,
    }));
/** What is to be mended comes first, then what visitors press most. */
const sorted = (details: readonly UsedDetail[]): UsedDetail[] =>
  details.toSorted((a, b) => Number(b.kind !== '') - Number(a.kind !== '') || b.visitors - a.visitors);

/** A row for each page. */
export const rowsByPage = (pages: readonly UsedPage[]): UsedRow[] =>
  pages.map((page) => ({
    key: page.name,
    page,
    link: undefined,
    visitors: page.visitors,
    count: new Set(page.links.filter(({ gone }) => !gone).map(({ link, address }) => link ?? address)).size,
    newest: Math.max(0, ...page.links.map(({ newest }) => newest)),
    toMend: page.toMend,
    details: sorted([
      ...page.links.map((one) => ({
        ...detailOf(one, `${one.link ?? ''} ${one.address}`),
        link: one.link,
        page: undefined,
      })),
      ...staleDetails(page, undefined),
    ]),
  }));

/** A row for each link that stands, or stood, anywhere; those with something to mend come first. */
export const rowsByLink = (pages: readonly UsedPage[]): UsedRow[] => {
  const found = new Map<string, UsedDetail[]>();
  const newest = new Map<string, number>();
  for (const page of pages) {
    for (const [i, one] of page.links.entries()) {
      if (one.link === undefined) continue;
      const details = found.get(one.link) ?? [];
      found.set(one.link, details);
      details.push({ ...detailOf(one, `${page.name} ${i}`), link: undefined, page });
      newest.set(one.link, Math.max(one.newest, newest.get(one.link) ?? 0));
    }
    for (const link of new Set(page.stale.map((each) => each.link)))
      if (link !== undefined) found.get(link)?.push(...staleDetails(page, page, link));
  }
  return [...found]
    .map(([link, details]) => ({
      key: link,
      page: undefined,
      link,
      visitors: details.reduce((sum, { visitors }) => sum + visitors, 0),
      count: new Set(details.filter(({ gone }) => !gone).map(({ page }) => page)).size,
      newest: newest.get(link) ?? 0,
      toMend: details.filter(({ kind }) => kind !== '').length,
      details: sorted(details),
    }))
    .toSorted(
      (a, b) => Number(b.toMend > 0) - Number(a.toMend > 0) || b.visitors - a.visitors || b.toMend - a.toMend,
    );
};
