import { proxy, wrap } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, toRaw, watch } from 'vue';
import type { Link } from '#core/catalogue';
import type { TraceResult } from '#core/link-parts';
import type { LinkFigures, QueriedLink, TapeEvent } from '#core/queries';
import { useCatalogue } from './catalogue.ts';
import type { JournalWorker } from './journal.worker.ts';
import { key } from './server.ts';

/** The worker that keeps the journal. It stands outside the store, which would look into it and never come back. */
export const journalWorker = wrap<JournalWorker>(
  new Worker(new URL('./journal.worker.ts', import.meta.url), { type: 'module' }),
);

const tapeEvents = 40;
/** For how long changes of links are gathered before the worker is told. */
const gatherMs = 100;
/** The days the Links view speaks of. */
export const figureDays = 30;

/** What of a link the worker is told. */
const queriedLink = ({ id, domain, slug, group, network, program, destination }: Link): QueriedLink => ({
  id,
  domain,
  slug,
  ...(group !== undefined && { group }),
  network,
  program,
  destination,
});

/** What visitors and networks sent, asked of the worker that keeps it. */
export const useJournal = defineStore('journal', () => {
  /** Rises when an answer may have changed; what shows answers watches it. */
  const news = ref(0);
  const figures = shallowRef<ReadonlyMap<string, LinkFigures>>(new Map());
  const tape = shallowRef<readonly TapeEvent[]>([]);
  const lastPostbacks = shallowRef<ReadonlyMap<string, number>>(new Map());
  /** What the newest trace of each link came to, a person's or the nightly check's. */
  const traces = shallowRef<ReadonlyMap<string, TraceResult>>(new Map());
  /** How many differences wait for a decision. */
  const waiting = ref(0);
  const progress = shallowRef({ held: 0, there: 0 });
  const loaded = ref(false);
  /** It was whole here at least once since the window was opened. */
  const caughtUp = ref(false);
  /** The journal is not whole here yet: what rests on all of it cannot be said. */
  const arriving = computed(
    () => progress.value.held < progress.value.there || (progress.value.held === 0 && !caughtUp.value),
  );

  const refresh = async (): Promise<void> => {
    // How far it has come is asked first: what is asked after it rests on as much at least.
    [progress.value, figures.value, tape.value, lastPostbacks.value, traces.value, waiting.value] =
      await Promise.all([
        journalWorker.progress(),
        journalWorker.figures(Date.now(), figureDays),
        journalWorker.tape(tapeEvents),
        journalWorker.lastPostbacks(),
        journalWorker.traces(),
        journalWorker.waiting(),
      ]);
    loaded.value = true;
    caughtUp.value ||= progress.value.there > 0 && progress.value.held >= progress.value.there;
    news.value += 1;
  };

  const start = async (): Promise<void> => {
    const catalogue = useCatalogue();
    watch(key, (value) => void journalWorker.setKey(value), { immediate: true });
    const raw = <T extends object>(list: readonly T[]): T[] => list.map((one) => toRaw(one));
    for (const kind of [
      'domains',
      'networks',
      'programs',
      'accounts',
      'reports',
      'decisions',
      'months',
      'payments',
    ] as const)
      watch(
        () => catalogue[kind],
        (records: readonly object[]) => void journalWorker.setRecords({ [kind]: raw(records) }),
        { immediate: true },
      );
    let lastSent = '';
    let soon: ReturnType<typeof setTimeout> | undefined;
    const tellLinks = (): void => {
      soon = undefined;
      const links = catalogue.links.map(queriedLink);
      // What else changes in a link changes no answer.
      const now = JSON.stringify(links);
      if (now !== lastSent) void journalWorker.setRecords({ links });
      lastSent = now;
    };
    tellLinks();
    watch(
      () => catalogue.links,
      // Thousands that change one after the other are told once.
      () => (soon ??= setTimeout(tellLinks, gatherMs)),
    );
    watch(
      () => catalogue.settings.classification,
      (rules) => void journalWorker.setRules(rules && JSON.parse(JSON.stringify(rules))),
      { immediate: true },
    );
    await journalWorker.start(
      proxy(() => void refresh()),
      proxy(() => void catalogue.pull()),
    );
    await refresh();
  };

  return { arriving, figures, lastPostbacks, loaded, news, progress, start, tape, traces, waiting };
});
