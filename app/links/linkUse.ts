import { shallowRef, watch } from 'vue';
import { figureDays, journalWorker, useJournal } from '../data/journal.ts';
import type { LinkUse } from '../data/visitAnswers.ts';

const none: LinkUse = { clicks: 0, again: 0, branches: new Map(), sources: new Map(), pages: new Map() };

/** What people did with a link in the days the Links view speaks of, kept up to date. */
export const useLinkUse = (link: () => string) => {
  const journal = useJournal();
  const use = shallowRef<LinkUse>(none);
  watch(
    [link, () => journal.news],
    async ([id]) => {
      const found = await journalWorker.use(id, Date.now() - figureDays * 86_400_000);
      if (id === link()) use.value = found;
    },
    { immediate: true },
  );
  return use;
};
