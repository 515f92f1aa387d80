import { computed } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNewest } from '../place/newest.ts';

/** Names of all sources that are known: those with a record, those that cost, and those that anybody ever came by. */
export const useSourceNames = () => {
  const catalogue = useCatalogue();
  const journal = useJournal();
  const { found } = useNewest<readonly string[]>(
    () => [journal.news, catalogue.sources],
    async () => (await journalWorker.sources(0)).sources.map(({ source }) => source),
    [],
  );
  return computed(() =>
    [
      ...new Set([
        ...catalogue.sources.map(({ source }) => source),
        ...found.value,
        ...catalogue.costs.flatMap(({ of }) => ('source' in of ? [of.source] : [])),
      ]),
    ].filter((name) => name !== ''),
  );
};
