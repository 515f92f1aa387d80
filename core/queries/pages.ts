import { addTo, element } from '#core/catalogue';
import { outcomeNumber } from '#core/visits';
import type { Dataset } from './dataset.ts';
import { segmentsSince } from './visits.ts';

/** A link of ours on a page. */
export interface LinkOnPage {
  /** ID of the link. */
  readonly link: string;
  /** Counted visits that came from the page by it. */
  readonly visitors: number;
  /** When the newest of them came, in milliseconds since 1970 UTC; 0 where none did. */
  readonly newest: number;
  /** The script on the page says that it stands there. */
  readonly stands: boolean;
}

/** A page from which visitors came, or on which the page script runs. */
export interface PageUse {
  /** Its address, without what stands after `?` and `#`. */
  readonly page: string;
  /** No more is known than its site, as most browsers say no more of it. */
  readonly siteOnly: boolean;
  readonly links: readonly LinkOnPage[];
  /** When anything was heard of it last, in milliseconds since 1970 UTC. */
  readonly newest: number;
  /** Page views that the script told of, and of those in the mean: seconds in sight, hundredths of the page that were seen. */
  readonly views: number;
  readonly seconds: number;
  readonly depth: number;
}

interface Gathered {
  readonly visitors: Map<string, number>;
  readonly newestBy: Map<string, number>;
  stands: readonly string[];
  views: number;
  seconds: number;
  depth: number;
  newest: number;
}

/** Scheme, host and port alone: of a page of another host most browsers say no more (W3C Referrer Policy, `strict-origin-when-cross-origin`). */
const isSiteOnly = (page: string): boolean => /^[a-z]+:\/\/[^/]*\/?$/i.test(page);

/**
 * Pages that carry links of ours, by the visitors who came from them and by what the page script tells, since a moment (milliseconds
 * since 1970 UTC); those with the most visitors first.
 */
export const pages = (data: Dataset, from: number): PageUse[] => {
  const { columns, readings } = data.journal;
  const { outcomes } = data.classification;
  const { link: linkTexts, from: fromTexts } = columns.dictionaries;
  const found = new Map<string, Gathered>();
  const of = (page: string): Gathered => {
    let gathered = found.get(page);
    if (!gathered)
      found.set(
        page,
        (gathered = {
          visitors: new Map(),
          newestBy: new Map(),
          stands: [],
          views: 0,
          seconds: 0,
          depth: 0,
          newest: 0,
        }),
      );
    return gathered;
  };
  /** Pages by their number among what visitors came from; undefined where that is no page of the web. */
  const pageOf = fromTexts.texts.map((text) =>
    /^https?:\/\/./i.test(text) ? text.replace(/[?#].*$/s, '') : undefined,
  );
  segmentsSince(columns, from, (segment, n) => {
    const ofSegment = element(outcomes[n]);
    for (let i = 0; i < segment.rows; i++) {
      const at = element(segment.at[i]);
      if (at < from || ofSegment[i] !== outcomeNumber.counted) continue;
      const page = pageOf[element(segment.from[i])];
      if (page === undefined) continue;
      const gathered = of(page);
      const link = element(linkTexts.texts[element(segment.link[i])]);
      addTo(gathered.visitors, link);
      gathered.newestBy.set(link, Math.max(at, gathered.newestBy.get(link) ?? 0));
      gathered.newest = Math.max(at, gathered.newest);
    }
  });
  for (const { at, page, views, seconds, depth, links, link } of readings) {
    if (link !== undefined) continue;
    // What stood there before the moment may stand there still; how it was read is told of since.
    if (at < from && links === undefined) continue;
    const gathered = of(page);
    if (links) gathered.stands = links;
    gathered.newest = Math.max(at, gathered.newest);
    if (at < from) continue;
    gathered.views += views;
    gathered.seconds += seconds;
    gathered.depth += depth;
  }
  const sumOf = ({ visitors }: Gathered) => [...visitors.values()].reduce((sum, n) => sum + n, 0);
  return [...found]
    .toSorted((a, b) => sumOf(b[1]) - sumOf(a[1]) || b[1].views - a[1].views || (a[0] < b[0] ? -1 : 1))
    .map(([page, { visitors, newestBy, stands, views, seconds, depth, newest }]) => ({
      page,
      siteOnly: isSiteOnly(page) && views === 0,
      newest,
      views,
      seconds: views > 0 ? seconds / views : 0,
      depth: views > 0 ? depth / views : 0,
      links: [...new Set([...visitors.keys(), ...stands])].map((link) => ({
        link,
        visitors: visitors.get(link) ?? 0, // it stands there, and nobody pressed it
        newest: newestBy.get(link) ?? 0,
        stands: stands.includes(link),
      })),
    }));
};
