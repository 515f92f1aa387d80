import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import { defineStore } from 'pinia';
import { ref, toRaw, watch } from 'vue';
import type { ArticleRegister } from '#core/articles';
import type { Page } from '#core/catalogue';
import type { PageUse } from '#core/queries';
import type { UsedPage } from '#core/where-used';
import type { CatalogueChange } from '../data/catalogue.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { NotKept } from '../sync/index.ts';
import type { ArticlesWorker } from './articles.worker.ts';

const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** For how long before now it is looked for pages that visitors came from: an article is pressed for years. */
const heardMs = 365 * 86_400_000;

/**
 * The worker that reads articles and pages, and what they are read against: today's links, programs and products. It is asked beside a
 * link's route, so what only the worker needs is not loaded with it.
 */
export const useArticleReading = defineStore('articleReading', () => {
  const catalogue = useCatalogue();
  const journal = useJournal();
  /** Rises when what is found in an article may have changed. */
  const news = ref(0);
  let remote: Remote<ArticlesWorker> | undefined;
  let known: Promise<void> | undefined;

  /** Links whose destination died, and what was seen there. */
  const dead = (): [link: string, because: string][] =>
    [...journal.traces].flatMap(([link, { alive, because }]) => (alive ? [] : [[link, because]]));
  const register = (): ArticleRegister => ({
    ...plain({
      domains: catalogue.domains,
      networks: catalogue.networks,
      programs: catalogue.programs,
      accounts: catalogue.accounts,
      links: catalogue.links,
      products: catalogue.products,
    }),
    port: location.port,
    dead: new Map(dead()),
    now: Date.now(),
  });
  /** The worker, once it knows what to read against. */
  const worker = async (): Promise<Remote<ArticlesWorker>> => {
    const own = (remote ??= wrap<ArticlesWorker>(
      new Worker(new URL('./articles.worker.ts', import.meta.url), { type: 'module' }),
    ));
    await (known ??= own.know(register(), plain(catalogue.settings.articles ?? {})));
    return own;
  };
  // Links and choices that change, here or elsewhere, change what is found.
  watch(
    () => [
      catalogue.domains,
      catalogue.networks,
      catalogue.programs,
      catalogue.links,
      catalogue.products,
      catalogue.settings.articles,
      // Traces come anew with every request; what died seldom does.
      JSON.stringify(dead()),
    ],
    () => {
      known = undefined;
      news.value += 1;
    },
  );

  /** Every page and file that is known to carry links, judged by today's links. */
  const whereUsed = async (): Promise<UsedPage[]> => {
    const heard: PageUse[] = await journalWorker.pages(Date.now() - heardMs);
    const own = await worker();
    return own.whereUsed(catalogue.pages.map(toRaw), heard);
  };
  /** Keeps what of ours stands on pages and files that were read; what carries none any more is forgotten. */
  const keepPages = async (read: readonly Page[]): Promise<void> => {
    const { isNews } = await import('#core/where-used');
    const known = new Map(catalogue.pages.map((page) => [page.id, page]));
    const changes = read.flatMap((page): CatalogueChange[] => {
      const before = known.get(page.id);
      if (page.links.length === 0) return before ? [{ kind: 'page', value: null, id: page.id }] : [];
      return isNews(page, before) ? [{ kind: 'page', value: page }] : [];
    });
    try {
      await catalogue.noteAll(changes);
    } catch (error) {
      // That this browser keeps no more is said above every view.
      if (!(error instanceof NotKept)) throw error;
    }
  };
  return { keepPages, news, whereUsed, worker };
});
