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
  /** Links of ours that stand on it. */
  readonly links: readonly string[];
}

/** Most pages and page views that are remembered; those told of longest ago are forgotten first. */
const [mostPages, mostViews] = [5000, 20_000];
/** So long, in milliseconds, is gathered before a page's record is written. */
const gatherMs = 10 * 60_000;

type Draft = Extract<JournalDraft, { kind: 'reading' }>;
interface Gathered {
  readonly since: number;
  views: number;
  seconds: number;
  depth: number;
  links: readonly string[] | undefined;
}

const forgetOldest = (map: Map<string, unknown>, most: number): void => {
  const [oldest] = map.keys();
  if (map.size > most && oldest !== undefined) map.delete(oldest);
};

/**
 * Gathers what pages tell of their reading: one record a page and ten minutes, so that many readers make few records. A server that is
 * killed loses what it gathered since; it is no money.
 */
export class PageReadings {
  readonly #append: (draft: JournalDraft) => void;
  readonly #pages = new Map<string, Gathered>();
  /** By page view: what was told of it last, since each beacon tells all of it. */
  readonly #views = new Map<string, { readonly seconds: number; readonly depth: number }>();
  /** By page: which links were told of it last, as a hash: whoever tells of many pages is not to fill the memory. */
  readonly #links = new Map<string, string>();

  constructor(append: (draft: JournalDraft) => void) {
    this.#append = append;
  }

  /** Takes what a page tells. */
  add({ view, page, seconds, depth, links }: Told, at: number): void {
    this.write(at);
    const before = this.#views.get(view);
    this.#views.delete(view);
    this.#views.set(view, { seconds, depth });
    forgetOldest(this.#views, mostViews);
    if (!this.#pages.has(page) && this.#pages.size >= mostPages) this.write(Infinity);
    const gathered = this.#pages.get(page) ?? { since: at, views: 0, seconds: 0, depth: 0, links: undefined };
    this.#pages.set(page, gathered);
    if (!before) gathered.views += 1;
    gathered.seconds += Math.max(0, seconds - (before?.seconds ?? 0));
    gathered.depth += Math.max(0, depth - (before?.depth ?? 0));
    if (this.#isNews(page, links)) gathered.links = links;
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
    for (const [page, { since, links, ...sums }] of this.#pages) {
      // They are in the order in which they began.
      if (now - since < gatherMs) return;
      this.#pages.delete(page);
      const draft: Draft = { kind: 'reading', at: since, page, ...sums, ...(links && { links: [...links] }) };
      this.#append(draft);
    }
  }
}
