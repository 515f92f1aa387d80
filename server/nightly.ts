import { readLink } from '#core/anatomy';
import type { JournalDraft } from '#core/visits';
import type { TableLink } from './feed/index.ts';
import type { Bounds } from './trace/index.ts';
import { outcomeOf, trace } from './trace/index.ts';

export interface NightlyParts {
  readonly links: ReadonlyMap<string, TableLink>;
  readonly bounds: Bounds;
  readonly keep: (draft: JournalDraft) => Promise<void>;
  readonly log: (message: string, detail: object) => void;
  readonly now: () => number;
}

/** The hour of the server's own clock at which shops are asked. */
const hour = 3;

/** The page of the shop a destination carries; undefined where only the network knows it, since asking that is a click. */
export const shopPage = (destination: string): string | undefined => readLink(destination).page;

/**
 * Asks the shop's page of every link that is in use, each page once, and keeps what came of it in the journal. Gives how
 * many pages were asked. The networks are never asked.
 */
export const checkShops = async ({
  links,
  bounds,
  keep,
  now,
  signal,
}: Omit<NightlyParts, 'log'> & { readonly signal: AbortSignal }): Promise<number> => {
  const pages = new Map<string, string[]>();
  for (const link of links.values()) {
    const page = link.rare.archived ? undefined : shopPage(link.destination);
    if (page !== undefined) pages.set(page, [...(pages.get(page) ?? []), link.id]);
  }
  for (const [page, ids] of pages) {
    const outcome = outcomeOf(await trace(page, bounds, { signal }));
    if (signal.aborted) break;
    for (const link of ids) await keep({ kind: 'trace', at: now(), by: 'nightly', link, ...outcome });
  }
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
export const checkNightly = (parts: NightlyParts): (() => void) => {
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
