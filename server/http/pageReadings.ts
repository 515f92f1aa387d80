import { createHash } from 'node:crypto';
import type { JournalDraft } from '#core/visits';

/** What one beacon tells of a page view: for how long it was in sight and how far it was read by then. */
export interface Told {
  /** What the page view is called. */
  readonly view: string;
  readonly page: string;
  readonly seconds: number;
  /** In hundredths. */
  readonly depth: number;
  readonly scrolled: boolean;
  /** Links of ours that stand on it; undefined of a page of ours. */
  readonly links: readonly string[] | undefined;
  /** The link whose frame or waiting page it is; empty of a page with the script. */
  readonly link: string;
  /** The source its reader came by through a link of ours; undefined where no click of ours is known to have led there. */
  readonly source: string | undefined;
}

/** Most pages and page views that are remembered; those told of longest ago are forgotten first. */
const [mostPages, mostViews] = [5000, 20_000];
/** So long, in milliseconds, is gathered before a page's record is written. */
const gatherMs = 10 * 60_000;

type Draft = Extract<JournalDraft, { kind: 'reading' }>;
interface Gathered extends Pick<Told, 'page' | 'link' | 'source'> {
  readonly since: number;
  views: number;
  seconds: number;
  depth: number;
  scrolled: number;
  links: readonly string[] | undefined;
}

const forgetOldest = (map: Map<string, unknown>, most: number): void => {
  const [oldest] = map.keys();
  if (map.size > most && oldest !== undefined) map.delete(oldest);
};

/**
 * Gathers what pages tell of their reading: one record a page, source and ten minutes, so that many readers make few records. A server that is
 * killed loses what it gathered since; it is no money.
 */
export class PageReadings {
  readonly #append: (draft: JournalDraft) => void;
  readonly #pages = new Map<string, Gathered>();
  /** By page view: what was told of it last, since each beacon tells all of it. */
  readonly #views = new Map<string, Pick<Told, 'seconds' | 'depth' | 'scrolled'>>();
  /** By page: which links were told of it last, as a hash: whoever tells of many pages is not to fill the memory. */
  readonly #links = new Map<string, string>();

  constructor(append: (draft: JournalDraft) => void) {
    this.#append = append;
  }

  /** Takes what a page tells. */
  add({ view, page, seconds, depth, scrolled, links, link, source }: Told, at: number): void {
    this.write(at);
    const before = this.#views.get(view);
    this.#views.delete(view);
    this.#views.set(view, { seconds, depth, scrolled });
    forgetOldest(this.#views, mostViews);
    const key = `${link} ${source ?? '-'} ${page}`;
    if (!this.#pages.has(key) && this.#pages.size >= mostPages) this.write(Infinity);
    const gathered = this.#pages.get(key) ?? {
      ...{ page, link, source, since: at, views: 0, seconds: 0, depth: 0, scrolled: 0 },
      links: undefined,
    };
    this.#pages.set(key, gathered);
    if (!before) gathered.views += 1;
    gathered.seconds += Math.max(0, seconds - (before?.seconds ?? 0));
    gathered.depth += Math.max(0, depth - (before?.depth ?? 0));
    if (scrolled && before?.scrolled !== true) gathered.scrolled += 1;
    if (links && this.#isNews(page, links)) gathered.links = links;
  }

  #isNews(page: string, links: readonly string[]): boolean {
    const told = createHash('sha256').update(links.toSorted().join(' ')).digest('base64url');
    if (this.#links.get(page) === told) return false;
    this.#links.delete(page);
    this.#links.set(page, told);
    forgetOldest(this.#links, mostPages);
    return true;
  }

  /** Writes what was gathered long enough by now (milliseconds since 1970 UTC); all of it for `Infinity`. */
  write(now: number): void {
    for (const [key, { since, page, link, source, views, seconds, depth, scrolled, links }] of this.#pages) {
      // They are in the order in which they began.
      if (now - since < gatherMs) return;
      this.#pages.delete(key);
      const draft: Draft = {
        ...{ kind: 'reading', at: since, page, views, seconds, depth },
        ...(links && { links: [...links] }),
        ...(link !== '' && { link }),
        ...(source !== undefined && { source, scrolled }),
      };
      this.#append(draft);
    }
  }
}
