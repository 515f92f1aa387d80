import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, nextTick, ref, shallowRef, toRaw, watch } from 'vue';
import type { Link } from '#core/catalogue';
import type { TraceResult } from '#core/link-parts';
import type { LinkFigures, QueriedLink, TapeEvent } from '#core/queries';
import { useCatalogue } from './catalogue.ts';
import type { Progress } from './journal.worker.ts';
import { journalWorker, watchWorker, WorkerGone } from './journalWorker.ts';
import { key } from './server.ts';

export { journalWorker } from './journalWorker.ts';

const tapeEvents = 40;
/** How many days the figures of links, sources and traffic speak of until others are chosen, today with them. */
export const figureDays = 30;
/** For how long changes of links are gathered before the worker is told. */
const gatherMs = 100;

/** What of a link the worker is told. */
const queriedLink = ({
  id,
  domain,
  slug,
  group,
  tags,
  network,
  program,
  destination,
  branches,
  coupons,
}: Link): QueriedLink => ({
  id,
  domain,
  slug,
  ...(group !== undefined && { group }),
  ...(tags !== undefined && { tags }),
  network,
  program,
  destination,
  ...(branches !== undefined && { branches }),
  ...(coupons !== undefined && { coupons }),
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
  const progress = shallowRef<Progress>({
    held: 0,
    there: 0,
    asksServer: false,
    byServer: false,
    isTooLarge: false,
  });
  const loaded = ref(false);
  /** It was whole here at least once since the window was opened. */
  const caughtUp = ref(false);
  /** What computes the figures ended, and is being started again. */
  const stopped = ref(false);
  /** The journal is not whole here yet, and the server does not answer either: what rests on all of it cannot be said. */
  const arriving = computed(
    () =>
      stopped.value ||
      (!progress.value.byServer &&
        (progress.value.held < progress.value.there || (progress.value.held === 0 && !caughtUp.value))),
  );
  /** Whether the server answers, as not all of the journal is here. */
  const byServer = computed(() => !stopped.value && progress.value.byServer);
  const asksServer = computed(() => !stopped.value && progress.value.asksServer);

  /** How often all was asked, and the newest time of which the answers are shown: an older one may take longer. */
  let times = 0;
  let shown = 0;
  /** How often the worker let go what it holds: what was asked before may be answered from a part of the journal. */
  let emptyings = 0;
  const refresh = async (): Promise<void> => {
    const time = (times += 1);
    const since = emptyings;
    // How far it has come is asked first: what is asked after it rests on as much at least.
    const before = await journalWorker.progress();
    if ((before.asksServer && !progress.value.asksServer) || (before.byServer && !progress.value.byServer)) {
      // That the server answers is shown at once, and who looks at a screen asks first for what is on it.
      progress.value = before;
      await nextTick();
    }
    const answers = await Promise.all([
      journalWorker.figures(Date.now(), figureDays),
      journalWorker.tape(tapeEvents),
      journalWorker.lastPostbacks(),
      journalWorker.traces(),
      journalWorker.waiting(),
    ]);
    const after = await journalWorker.progress();
    if (time < shown || since !== emptyings) return;
    shown = time;
    [figures.value, tape.value, lastPostbacks.value, traces.value, waiting.value] = answers;
    // Where the server was to answer and does no more, the answers may be of what is here.
    progress.value = before.byServer && !after.byServer ? after : before;
    loaded.value = true;
    caughtUp.value ||= progress.value.there > 0 && progress.value.held >= progress.value.there;
    news.value += 1;
  };

  /** Asks anew; a worker that ended meanwhile is asked when it is there again. */
  const ask = (): Promise<void> =>
    refresh().catch((error: unknown) => {
      if (!(error instanceof WorkerGone)) throw error;
    });

  /** What is held is read anew: until that is done no sum is shown. */
  const emptied = async (): Promise<void> => {
    emptyings += 1;
    progress.value = { ...progress.value, held: 0, byServer: false };
    await nextTick();
  };

  /** Tells the worker everything it answers from, and goes on telling it what changes. */
  const start = async (): Promise<void> => {
    const catalogue = useCatalogue();
    const raw = <T extends object>(list: readonly T[]): T[] => list.map((record) => toRaw(record));
    const kinds = [
      'domains',
      'networks',
      'programs',
      'accounts',
      'reports',
      'decisions',
      'months',
      'payments',
      'sources',
      'costs',
      'promotions',
      'rates',
    ] as const;
    /** What a worker that ended is told is told again once it is there. */
    const tell = (answer: Promise<unknown>): void => void answer.catch(() => undefined);
    const tellKey = (): void => tell(journalWorker.setKey(key.value));
    const tellRecords = (kind: (typeof kinds)[number]): void =>
      tell(journalWorker.setRecords({ [kind]: raw<object>(catalogue[kind]) }));
    const tellRules = (): void => {
      const rules = catalogue.settings.classification;
      tell(journalWorker.setRules(rules && JSON.parse(JSON.stringify(rules))));
    };
    let lastSent = '';
    let soon: ReturnType<typeof setTimeout> | undefined;
    const tellLinks = (): void => {
      soon = undefined;
      const links = catalogue.links.map(queriedLink);
      // What else changes in a link changes no answer.
      const now = JSON.stringify(links);
      if (now !== lastSent) tell(journalWorker.setRecords({ links }));
      lastSent = now;
    };
    watch(key, tellKey);
    for (const kind of kinds)
      watch(
        () => catalogue[kind],
        () => tellRecords(kind),
      );
    watch(
      () => catalogue.links,
      // Thousands that change one after the other are told once.
      () => (soon ??= setTimeout(tellLinks, gatherMs)),
    );
    watch(() => catalogue.settings.classification, tellRules);
    const begin = async (): Promise<void> => {
      tellKey();
      kinds.forEach(tellRecords);
      lastSent = '';
      tellLinks();
      tellRules();
      await journalWorker.start(
        proxy(ask),
        proxy(() => void catalogue.pull()),
        proxy(emptied),
      );
      await refresh();
      stopped.value = false;
    };
    watchWorker(
      () => (stopped.value = true),
      () => void begin().catch(() => undefined), // ended again: it is begun again
    );
    await begin();
  };

  return {
    arriving,
    asksServer,
    byServer,
    figures,
    lastPostbacks,
    loaded,
    news,
    progress,
    start,
    stopped,
    tape,
    traces,
    waiting,
  };
});
