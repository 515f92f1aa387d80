import { readLink } from '#core/link-parts';
import type { JournalDraft } from '#core/visits';
import type { TableLink } from './feed/index.ts';
import type { Bounds, Pages } from './pages/index.ts';
import { outcomeOf } from './pages/index.ts';

export interface NightlyCheckParts {
  readonly links: ReadonlyMap<string, TableLink>;
  readonly bounds: Bounds;
  readonly pages: Pick<Pages, 'trace'>;
  readonly keep: (draft: JournalDraft) => Promise<void>;
  readonly log: (message: string, detail: object) => void;
  readonly now: () => number;
}

/** The hour of the server's own clock at which shops are asked. */
const hour = 3;
/** Hosts that are asked at the same time. */
const lanes = 4;

/** The page of the shop a destination carries; undefined where only the network knows it, since asking that is a click. */
export const shopPage = (destination: string): string | undefined => readLink(destination).page;

/**
 * Asks the shop's page of every link that is in use, each page once, and keeps what came of it in the journal. Gives how
 * many pages were asked. The networks are never asked, and a shop that never answers holds up nobody for longer than a
 * trace may take.
 */
export const checkShops = async ({
  links,
  bounds,
  pages: asker,
  keep,
  now,
  signal,
}: Omit<NightlyCheckParts, 'log'> & { readonly signal: AbortSignal }): Promise<number> => {
  const pages = new Map<string, string[]>();
  for (const link of links.values()) {
    const page = link.rare.archived ? undefined : shopPage(link.destination);
    if (page !== undefined) pages.set(page, [...(pages.get(page) ?? []), link.id]);
  }
  const byHost = new Map<string, [page: string, links: string[]][]>();
  for (const entry of pages) {
    const host = URL.canParse(entry[0]) ? new URL(entry[0]).host : '';
    byHost.set(host, [...(byHost.get(host) ?? []), entry]);
  }
  // The pages of one host wait for each other, so that a host that never answers takes up one lane alone.
  const hosts = [...byHost.values()];
  const lane = async (): Promise<void> => {
    for (let host = hosts.shift(); host && !signal.aborted; host = hosts.shift())
      for (const [page, ids] of host) {
        const outcome = outcomeOf(await asker.trace(page, bounds, { signal }));
        if (signal.aborted) return;
        for (const link of ids) await keep({ kind: 'trace', at: now(), by: 'nightly', link, ...outcome });
      }
  };
  await Promise.all(Array.from({ length: lanes }, lane));
  return pages.size;
};

/** Milliseconds until it is next that hour by the server's own clock. */
const untilNight = (at: number): number => {
  const next = new Date(at);
  next.setHours(hour, 0, 0, 0);
  if (next.getTime() <= at) next.setDate(next.getDate() + 1);
  return next.getTime() - at;
};

/** Checks the shops once a night; gives the function that ends it. */
export const startNightlyCheck = (parts: NightlyCheckParts): (() => void) => {
  const stop = new AbortController();
  let timer: ReturnType<typeof setTimeout>;
  const wait = () => {
    timer = setTimeout(() => {
      checkShops({ ...parts, signal: stop.signal })
        .then(
          (pages) => parts.log('asked the shops', { pages }),
          (error: unknown) => parts.log('the shops could not be asked', { error: String(error) }),
        )
        .finally(() => {
          if (!stop.signal.aborted) wait();
        });
    }, untilNight(Date.now()));
    timer.unref();
  };
  wait();
  return () => {
    clearTimeout(timer);
    stop.abort();
  };
};
