import type { Page } from '#core/catalogue';
import type { LinkReader } from '#core/articles';
import { addressKey } from '#core/link-parts';
import type { PageUse } from '#core/queries';
import type { ToMend } from './toMend.ts';
import { judgedLinks, staleSaid, toMend } from './toMend.ts';

/** A link on a page. */
export interface UsedLink {
  /** ID of the link it is or could be; undefined for none. */
  readonly link: string | undefined;
  /** As it stands there; empty where the page itself was not read. */
  readonly address: string;
  /** How often it stands there; 0 where nobody saw it stand there, and visitors came by it. */
  readonly times: number;
  /** Counted visits from the page by it, and when the newest came (milliseconds since 1970 UTC, 0 for none). */
  readonly visitors: number;
  readonly newest: number;
  /** Whatever the link becomes, nothing has to be done here. */
  readonly follows: boolean;
  /** It stood there once: the page was read since, and has it no more. */
  readonly gone: boolean;
  readonly mend: ToMend | undefined;
}

/** A page or file that carries links, and how that is known. */
export interface UsedPage {
  /** Its address, or the file's name. */
  readonly name: string;
  readonly title: string;
  readonly by: 'file' | 'crawl' | 'visitors' | 'script';
  /** ID of its record; undefined where it was not read. */
  readonly record: string | undefined;
  /** When it was read, in milliseconds since 1970 UTC; 0 for never. */
  readonly readAt: number;
  /** No more is known of it than its site. */
  readonly siteOnly: boolean;
  readonly visitors: number;
  readonly newest: number;
  /** Page views the script told of; seconds in sight and hundredths seen in the mean. */
  readonly views: number;
  readonly seconds: number;
  readonly depth: number;
  readonly links: readonly UsedLink[];
  /** What its words say of products that is no longer so. */
  readonly stale: readonly (ToMend & { readonly link: string | undefined })[];
  /** How many more addresses stand there than are listed. */
  readonly more: number;
  /** How much is to be mended. */
  readonly toMend: number;
}

/** A place of the web, without what stands behind `?`: so pages are told of by scripts and in referrers. */
const heardKey = (address: string): string => addressKey(address.replace(/[?#].*$/s, ''));

interface Heard {
  readonly use: PageUse;
  readonly visitors: Map<string, { visitors: number; newest: number; stands: boolean }>;
}

const gathered = (heard: readonly PageUse[]): Map<string, Heard> => {
  const found = new Map<string, Heard>();
  for (const use of heard) {
    const key = heardKey(use.page);
    const known = found.get(key);
    const visitors =
      known?.visitors ?? new Map<string, { visitors: number; newest: number; stands: boolean }>();
    for (const { link, visitors: n, newest, stands } of use.links) {
      const before = visitors.get(link);
      visitors.set(link, {
        visitors: n + (before?.visitors ?? 0),
        newest: Math.max(newest, before?.newest ?? 0),
        stands: stands || (before?.stands ?? false),
      });
    }
    const views = use.views + (known?.use.views ?? 0);
    const mean = (field: 'seconds' | 'depth') =>
      views === 0 ? 0 : (use[field] * use.views + (known?.use[field] ?? 0) * (known?.use.views ?? 0)) / views;
    found.set(key, {
      visitors,
      use: {
        ...(known?.use ?? use),
        siteOnly: use.siteOnly && (known?.use.siteOnly ?? true),
        newest: Math.max(use.newest, known?.use.newest ?? 0),
        views,
        seconds: mean('seconds'),
        depth: mean('depth'),
      },
    });
  }
  return found;
};

/**
 * Every page and file that is known to carry links of ours, and what is to be mended there by what the links are now: pages and files
 * that were read, joined with those that visitors came from or the script runs on. Those with something to mend come first, and of them those that most visitors come from.
 *
 * @param read as they were kept
 * @param heard what the journal knows of pages
 */
export const whereUsed = (
  reader: LinkReader,
  read: readonly Page[],
  heard: readonly PageUse[],
): UsedPage[] => {
  const products = new Map(reader.register.products.map((product) => [product.id, product]));
  const known = gathered(heard);
  const isShort = new Map<string, boolean>();
  /** True for a link that stands as its short address wherever it is placed. */
  const standsShort = (id: string): boolean => {
    let found = isShort.get(id);
    if (found === undefined) {
      const link = reader.linkOf(id);
      const placing = link && reader.placing(link, '');
      found = !placing || 'refused' in placing || placing.link.counted === undefined;
      isShort.set(id, found);
    }
    return found;
  };
  const heardOnly = (
    { visitors }: Heard,
    readLinks: ReadonlySet<string> | undefined,
    readAt: number,
  ): UsedLink[] =>
    [...visitors].flatMap(([link, { visitors: n, newest, stands }]): UsedLink[] => {
      if (readLinks?.has(link)) return [];
      const gone = readLinks !== undefined && !stands && newest < readAt;
      return [
        {
          link,
          address: '',
          times: stands ? 1 : 0,
          visitors: n,
          newest,
          follows: standsShort(link),
          gone,
          mend: gone ? undefined : toMend(reader, link, standsShort(link)),
        },
      ];
    });
  const withSums = (page: Omit<UsedPage, 'visitors' | 'toMend'>): UsedPage => ({
    ...page,
    visitors: page.links.reduce((sum, { visitors }) => sum + visitors, 0),
    toMend: page.stale.length + page.links.filter(({ mend }) => mend !== undefined).length,
  });
  const taken = new Set<string>();
  const pages = read.map((page): UsedPage => {
    const key = addressKey(page.name);
    const own = key === '' || taken.has(key) ? undefined : known.get(key);
    if (own) taken.add(key);
    const told = new Set<string>();
    const links = judgedLinks(reader, page).map((judged): UsedLink => {
      // A link may stand there by several addresses; who came by it is told with the first.
      const isFirst = judged.link !== undefined && !told.has(judged.link);
      if (judged.link !== undefined) told.add(judged.link);
      const came = isFirst ? own?.visitors.get(judged.link ?? '') : undefined;
      return { ...judged, gone: false, visitors: came?.visitors ?? 0, newest: came?.newest ?? 0 };
    });
    return withSums({
      name: page.name,
      title: page.title,
      by: page.by,
      record: page.id,
      readAt: page.readAt,
      siteOnly: false,
      newest: own?.use.newest ?? 0,
      views: own?.use.views ?? 0,
      seconds: own?.use.seconds ?? 0,
      depth: own?.use.depth ?? 0,
      links: [...links, ...(own ? heardOnly(own, told, page.readAt) : [])],
      stale: staleSaid(reader, products, page),
      more: page.more ?? 0,
    });
  });
  for (const [key, own] of known) {
    if (taken.has(key)) continue;
    const { page, siteOnly, newest, views, seconds, depth } = own.use;
    const facts = {
      name: page,
      title: '',
      record: undefined,
      readAt: 0,
      siteOnly,
      newest,
      views,
      seconds,
      depth,
    };
    pages.push(
      withSums({
        ...facts,
        by: views > 0 ? 'script' : 'visitors',
        links: heardOnly(own, undefined, 0),
        stale: [],
        more: 0,
      }),
    );
  }
  return pages.toSorted(
    (a, b) =>
      Number(b.toMend > 0) - Number(a.toMend > 0) ||
      b.visitors - a.visitors ||
      b.toMend - a.toMend ||
      (a.name < b.name ? -1 : Number(a.name > b.name)),
  );
};
