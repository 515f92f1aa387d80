import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import type { FeedAbout } from './feedStore.ts';
import type { FeedsWorker } from './feeds.worker.ts';

let remote: Remote<FeedsWorker> | undefined;
/** The worker that reads feeds and finds products in them; started when it is first asked. */
export const feedsWorker = (): Remote<FeedsWorker> =>
  (remote ??= wrap<FeedsWorker>(
    new Worker(new URL('./feeds.worker.ts', import.meta.url), { type: 'module' }),
  ));

/** The feeds that are kept in this browser. */
export const useFeeds = defineStore('feeds', () => {
  const feeds = shallowRef<readonly FeedAbout[]>([]);
  const problem = ref('');
  const refresh = async (): Promise<void> => {
    try {
      feeds.value = await feedsWorker().feeds();
      problem.value = '';
    } catch (error) {
      problem.value = `Feeds cannot be kept in this browser: ${error instanceof Error ? error.message : String(error)}.`;
    }
  };
  const drop = async (program: string): Promise<void> => {
    await feedsWorker().drop(program);
    await refresh();
  };
  return { drop, feeds, problem, refresh };
});
