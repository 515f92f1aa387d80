import type { LinkUse } from '#core/queries';
import { shallowRef, watch } from 'vue';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useOwnDays } from '../data/ownDays.ts';

const none: LinkUse = { clicks: 0, repeats: 0, branches: new Map(), sources: new Map(), pages: new Map() };

/** What people did with a link in the days the Links view speaks of, kept up to date. */
export const useLinkUse = (link: () => string) => {
  const journal = useJournal();
  const { since } = useOwnDays();
  const use = shallowRef<LinkUse>(none);
  let asked = 0;
  let shown = 0;
  watch(
    [link, () => journal.news],
    async ([id]) => {
      const turn = ++asked;
      const found = await journalWorker.use(id, since.value);
      // An older answer that comes late is not to stand over a newer one.
      if (id !== link() || turn < shown) return;
      shown = turn;
      use.value = found;
    },
    { immediate: true },
  );
  return use;
};
