import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import { shallowRef, toRaw, watch } from 'vue';
import type { Domain, Link } from '#core/catalogue';
import type { VisitorSample } from '#core/hop';
import type { Samples } from '#core/queries';
import { journalWorker, useJournal } from '../data/journal.ts';
import { WorkerGone } from '../data/journalWorker.ts';
import type { SharesWorker } from './shares.worker.ts';

let worker: Remote<SharesWorker> | undefined;
const shares = () =>
  (worker ??= wrap<SharesWorker>(
    new Worker(new URL('./shares.worker.ts', import.meta.url), { type: 'module' }),
  ));

/** Visitors to simulate before more than a few came: a few countries, devices and languages through the hours of a week. */
const strangers = (): VisitorSample[] =>
  ['DE', 'US', 'GB', 'JP', 'FR', 'BR', 'IN', ''].flatMap((country, i) =>
    (['phone', 'desktop', 'tablet'] as const).map((device, j) => ({
      at: Date.now() - (i * 3 + j) * 7 * 3_600_000,
      source: '',
      country,
      device,
      language: ['de-DE', 'en-US', 'en-GB', 'ja-JP', 'fr-FR', 'pt-BR', 'en-IN', 'es-ES'][i] ?? 'en',
      returning: (i + j) % 4 === 0,
    })),
  );

/** The expected share of each branch of a link, from visitors like those it had; computed again when it changes. */
export const useShares = (link: () => Link, domain: () => Domain) => {
  const expected = shallowRef<ReadonlyMap<string, number>>(new Map());
  /** Whose visitors the simulated ones were drawn from; of nobody when they are made up. */
  const drawnFrom = shallowRef<Samples['of']>('nobody');
  /** Real visitors, where there were some. */
  const came = shallowRef<readonly VisitorSample[]>([]);
  let wanted: readonly [Link, Domain] | undefined;
  let working = false;
  /** Computes what was asked last; what was asked while it computed comes next, and only the newest of it. */
  const work = async (): Promise<void> => {
    if (working) return;
    working = true;
    try {
      while (wanted) {
        const [asked, on] = wanted;
        wanted = undefined;
        const { of, visitors } = await journalWorker.samples(asked.id, 2000);
        const plain = <T>(value: T): T => JSON.parse(JSON.stringify(toRaw(value)));
        const found = await shares().shares(
          plain(asked),
          plain(on),
          of === 'nobody' ? strangers() : visitors,
        );
        if (asked !== link()) continue;
        expected.value = found;
        drawnFrom.value = of;
        came.value = visitors;
      }
    } catch (error) {
      if (!(error instanceof WorkerGone)) throw error;
      // It is asked again with the first news of the one that takes its place.
      wanted ??= [link(), domain()];
    } finally {
      working = false;
    }
  };
  watch(
    [link, domain],
    ([asked, on]) => {
      if ((asked.branches ?? []).length === 0) return;
      wanted = [asked, on];
      void work();
    },
    { immediate: true },
  );
  watch(
    () => useJournal().news,
    () => void work(),
  );
  return { came, expected, drawnFrom };
};
