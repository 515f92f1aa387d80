/** A page of a site that was read. */
export interface CrawledPage {
  readonly kind: 'page';
  /** Where it came from in the end. */
  readonly url: string;
  readonly html: string;
}
/** A page that was not read, and why. */
export interface LeftPage {
  readonly kind: 'left';
  readonly url: string;
  /** As a sentence. */
  readonly because: string;
  /** What it was answered, where it was. */
  readonly status?: number;
}
/** How the reading of a site ended. */
export interface CrawlEnd {
  readonly kind: 'crawled';
  /** How many pages were read. */
  readonly pages: number;
  /** Why it ended before all was read, as a sentence; empty where all was. */
  readonly because: string;
}
/** What the reading of a site gives, one after the other. */
export type CrawlStep = CrawledPage | LeftPage | CrawlEnd;
