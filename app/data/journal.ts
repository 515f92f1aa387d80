import { proxy, wrap } from 'comlink';
import { defineStore } from 'pinia';
import { ref, shallowRef, toRaw, watch } from 'vue';
import type { TraceResult } from '#core/anatomy';
import { useCatalogue } from './catalogue.ts';
import type { JournalWorker } from './journal.worker.ts';
import { key } from './server.ts';
import type { LinkFigures, TapeEvent } from './visitRecords.ts';

/** The worker that keeps the journal. It stands outside the store, which would look into it and never come back. */
export const journalWorker = wrap<JournalWorker>(
  new Worker(new URL('./journal.worker.ts', import.meta.url), { type: 'module' }),
);

const tapeEvents = 40;
/** The days the Links view speaks of. */
export const figureDays = 30;

/** What happened on the wire, asked of the worker that keeps it. */
export const useJournal = defineStore('journal', () => {
  /** Rises when an answer may have changed; what shows answers watches it. */
  const news = ref(0);
  const figures = shallowRef<ReadonlyMap<string, LinkFigures>>(new Map());
  const tape = shallowRef<readonly TapeEvent[]>([]);
  const lastPostbacks = shallowRef<ReadonlyMap<string, number>>(new Map());
  /** What the newest trace of each link came to, a person's or the night's. */
  const traces = shallowRef<ReadonlyMap<string, TraceResult>>(new Map());
  const loaded = ref(false);

  const refresh = async (): Promise<void> => {
    [figures.value, tape.value, lastPostbacks.value, traces.value] = await Promise.all([
      journalWorker.figures(Date.now(), figureDays),
      journalWorker.tape(tapeEvents),
      journalWorker.lastPostbacks(),
      journalWorker.traces(),
    ]);
    loaded.value = true;
    news.value += 1;
  };

  const start = async (): Promise<void> => {
    const catalogue = useCatalogue();
    watch(key, (value) => void journalWorker.setKey(value), { immediate: true });
    watch(
      () => catalogue.networks,
      (networks) => void journalWorker.setNetworks(networks.map((network) => toRaw(network))),
      { immediate: true },
    );
    await journalWorker.start(
      proxy(() => void refresh()),
      proxy(() => void catalogue.pull()),
    );
    await refresh();
  };

  return { figures, lastPostbacks, loaded, news, start, tape, traces };
});
