import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import type { UnknownTag } from '#core/link-parts';
import { unknownTagOf } from '#core/link-parts';
import type {
  Domain,
  StoredChange,
  Link,
  Network,
  Program,
  RecordKind,
  RecordOf,
  Settings,
} from '#core/catalogue';
import { changesPerCall, checkRecord, leaningProblem, pushTo } from '#core/catalogue';
import type { Row, Waiting } from './database.ts';
import { database } from './database.ts';
import type { Entry } from './holding.ts';
import { makeHolding } from './holding.ts';
import { newChangeId } from './random.ts';
import { getAbout, getChanges, getHealth, key, postChanges, ServerError } from './server.ts';

/** Where a record is: only in this browser, with the server too, refused by it, or changed by somebody else. */
export type Whereabouts = 'here' | 'live' | 'refused' | 'conflict';

/** How the server is, as far as this browser knows. */
export type ServerState = 'asking' | 'up' | 'away' | 'no key' | 'cannot write';

interface Step {
  readonly kind: RecordKind;
  readonly record: string;
  readonly before: object | null;
}

/** A record may rest on those of the kinds before its own, so it is sent after them. */
const order: readonly RecordKind[] = [
  'domain',
  'network',
  'program',
  'account',
  'link',
  'settings',
  'rate',
  'report',
  'decision',
  'month',
  'payment',
];
/** A record as the server will keep it, so that both say the same of it: an address with its host in ASCII, for instance. */
const asKept = (kind: RecordKind, value: object): Record<string, unknown> => {
  const plain: Record<string, unknown> = JSON.parse(JSON.stringify(value));
  const checked = kind === 'link' || kind === 'domain' ? checkRecord(kind, plain) : undefined;
  return checked?.ok ? { ...checked.value } : plain;
};

/** Where a change stands among those that wait: what is removed goes last, and before what it rests on. */
const placeInOrder = ({ kind, value }: Waiting['change']): number =>
  value === null ? 2 * order.length - order.indexOf(kind) : order.indexOf(kind);
/** A part of a report takes as much room in a call as so many links. */
const reportSize = 50;
const retryMs = 2000;
const healthMs = 4000;

/**
 * What the person edits. An edit is saved in this browser first, then waits in the outbox, then is sent; what
 * others made arrives by the change feed.
 */
export const useCatalogue = defineStore('catalogue', () => {
  const holding = makeHolding();
  const { rows, waiting, write } = holding;
  const loaded = ref(false);
  /** Up to which version this window has everything in memory. */
  let version = 0;
  /** The newest version the server ever told of; one that tells of less was set back. */
  let newest = 0;
  const server = ref<ServerState>('asking');
  const serverProblem = ref('');
  /** Why this browser's database cannot be used, as a sentence; empty where it can. */
  const storageProblem = ref('');
  const by = ref(localStorage.getItem('fernhop-by') ?? '');
  const undoable = ref<Step[][]>([]);
  /** Why the last step could not be undone, as a sentence. */
  const refusedUndo = ref('');

  /** Every record by its kind, in one pass over all of them. */
  const byKind = computed(() => {
    const found = new Map<RecordKind, object[]>();
    for (const { kind, value } of rows.values()) if (value) pushTo(found, kind, value);
    return found;
  });
  /** The records of a kind; the same list as before where none of them changed, so that nobody takes it for news. */
  const ofKind = <K extends RecordKind>(kind: K) =>
    computed((before?: RecordOf[K][]) => {
      // A row's value passed the schema of its kind before it was stored.
      const now = (byKind.value.get(kind) ?? []) as RecordOf[K][];
      return before?.length === now.length && before.every((record, i) => record === now[i]) ? before : now;
    });
  const domains = ofKind('domain');
  const networks = ofKind('network');
  const programs = ofKind('program');
  const accounts = ofKind('account');
  const links = ofKind('link');
  const reports = ofKind('report');
  const decisions = ofKind('decision');
  const months = ofKind('month');
  const payments = ofKind('payment');
  const rates = ofKind('rate');
  const allSettings = ofKind('settings');
  const settings = computed((): Settings => allSettings.value[0] ?? { id: 'settings', currency: 'EUR' });

  const value = (record: string | undefined): object | undefined =>
    (record === undefined ? undefined : rows.get(record)?.value) ?? undefined;
  // As above: what is stored under an ID of a kind is a record of that kind.
  const link = (id: string | undefined) => value(id) as Link | undefined;
  const domain = (id: string | undefined) => value(id) as Domain | undefined;
  const network = (id: string | undefined) => value(id) as Network | undefined;
  const program = (id: string | undefined) => value(id) as Program | undefined;

  const where = (record: string): Whereabouts => {
    const found = waiting.get(record);
    if (!found) return 'live';
    if (found.theirs) return 'conflict';
    return found.refusal ? 'refused' : 'here';
  };
  /** True for a record that a server has taken at least once. */
  const wasLive = (record: string): boolean => (rows.get(record)?.base ?? 0) > 0;
  /** The account tag for which a link stays here: nobody registered it, so nobody might be credited. */
  const unregisteredTag = (record: string): UnknownTag | undefined => {
    const found = rows.get(record);
    return found?.kind === 'link' && found.value && waiting.has(record)
      ? // As above: it passed the schema of its kind.
        unknownTagOf(found.value as Link, networks.value, programs.value, accounts.value)
      : undefined;
  };
  const waitingCount = computed(() => [...waiting.values()].filter((w) => !w.refusal && !w.theirs).length);
  const stuck = computed(() => [...waiting.values()].filter((w) => w.refusal ?? w.theirs));

  /** What saving a record writes: its row, and the change that then waits. */
  const entryOf = (kind: RecordKind, record: string, next: object | null, step?: string): Entry => {
    const base = rows.get(record)?.base ?? 0;
    const before = waiting.get(record);
    // The server never heard of it: nothing needs to be sent.
    if (next === null && base === 0 && before && before.sent.length === 0)
      return { record, row: { record, kind, value: null, base } };
    const plain = next && asKept(kind, next);
    const change = {
      change: newChangeId(),
      kind,
      record,
      revision: base + 1,
      by: by.value,
      ...(step !== undefined && { step }),
      at: Date.now(),
      value: plain,
    };
    return {
      record,
      row: { record, kind, value: plain, base },
      waiting: { record, sent: before?.sent ?? [], change },
    };
  };

  /** Saves records as one step that can be undone as one. */
  const save = async (
    ...changes: readonly { kind: RecordKind; value: { readonly id: string } | null; id?: string }[]
  ) => {
    const step = changes.length > 1 ? newChangeId() : undefined;
    const list = changes.map(({ kind, value: next, id }) => ({ kind, next, record: next?.id ?? id ?? '' }));
    let steps: Step[] = [];
    await write(function* () {
      steps = list.map(({ kind, record }) => ({ kind, record, before: rows.get(record)?.value ?? null }));
      for (const { kind, next, record } of list) yield entryOf(kind, record, next, step);
    });
    undoable.value.push(steps.reverse());
    if (undoable.value.length > 100) undoable.value.shift();
    void push();
  };
  const saveRecord = <K extends RecordKind>(kind: K, next: RecordOf[K]) => save({ kind, value: next });

  /** Takes back the last step made in this window; gives false when there is none. */
  const undo = async (): Promise<boolean> => {
    const steps = undoable.value.at(-1);
    if (!steps) return false;
    const gone = new Set(steps.flatMap(({ record, before }) => (before === null ? [record] : [])));
    const left = <T extends { readonly id: string }>(list: readonly T[]) =>
      list.filter(({ id }) => !gone.has(id));
    const leaning = {
      links: left(links.value),
      programs: left(programs.value),
      accounts: left(accounts.value),
    };
    // Thousands of links may be undone at once, and only those that were archived to another lean on one.
    const archived = { ...leaning, links: leaning.links.filter((link) => link.archived?.to !== undefined) };
    for (const { kind, record, before } of steps) {
      const leans =
        before === null ? leaningProblem(kind, record, kind === 'link' ? archived : leaning) : undefined;
      if (leans === undefined) continue;
      refusedUndo.value = `This cannot be undone. ${leans}`;
      return false;
    }
    undoable.value.pop();
    const step = steps.length > 1 ? newChangeId() : undefined;
    await write(() => steps.map(({ kind, record, before }) => entryOf(kind, record, before, step)));
    void push();
    return true;
  };

  /** Settles a conflict: with one's own version on top of theirs, or with theirs. */
  const choose = async (record: string, whose: 'mine' | 'theirs'): Promise<void> => {
    const found = waiting.get(record);
    if (!found?.theirs) return;
    const { theirs } = found;
    const row: Row = { record, kind: theirs.kind, value: theirs.value, base: theirs.revision };
    if (whose === 'theirs') await write(() => [{ record, row }]);
    else {
      const change = { ...found.change, change: newChangeId(), revision: theirs.revision + 1 };
      await write(() => [
        { record, row: { ...row, value: found.change.value }, waiting: { record, sent: [], change } },
      ]);
      void push();
    }
  };

  /** What the server's answer to a sent change means for its record. */
  const settled = (
    { record, change }: Waiting,
    refused: ReadonlyMap<string, { path: string; message: string; theirs?: StoredChange }>,
  ): Entry[] => {
    const now = waiting.get(record);
    const row = rows.get(record);
    if (!now || !row) return [];
    const refusal = refused.get(change.change);
    if (!refusal) {
      const stored = { ...row, base: change.revision };
      if (now.change.change === change.change) return [{ record, row: stored }];
      // It was edited again while it was on its way: the newer edit builds on what was just taken.
      const next = { ...now.change, revision: change.revision + 1 };
      return [{ record, row: stored, waiting: { ...now, sent: [], change: next } }];
    }
    const { theirs, path, message } = refusal;
    if (theirs && now.sent.includes(theirs.change)) {
      // "Theirs" is an earlier edit of our own whose answer never reached us.
      const next = { ...now.change, change: newChangeId(), revision: theirs.revision + 1 };
      return [
        { record, row: { ...row, base: theirs.revision }, waiting: { record, sent: [], change: next } },
      ];
    }
    return [{ record, waiting: { ...now, ...(theirs ? { theirs } : { refusal: { path, message } }) } }];
  };

  const heard = (error: unknown): void => {
    const status = error instanceof ServerError ? error.status : 0;
    server.value = status === 401 ? 'no key' : status === 503 ? 'cannot write' : 'away';
  };

  let pushing: Promise<void> | undefined;
  const send = async (): Promise<void> => {
    for (;;) {
      const inOrder = [...waiting.values()]
        .filter((w) => !w.refusal && !w.theirs)
        .sort((a, b) => placeInOrder(a.change) - placeInOrder(b.change) || a.change.at - b.change.at);
      // Reading ten thousand links at once would stop the screen; only those that go are read.
      const batch: Waiting[] = [];
      let size = 0;
      for (const w of inOrder) {
        size += w.change.kind === 'report' ? reportSize : 1;
        if (batch.length > 0 && size > changesPerCall) break;
        if (!unregisteredTag(w.record)) batch.push(w);
      }
      if (batch.length === 0 || key.value === '') return;
      // What is on its way may arrive without our hearing of it, so that is written first.
      const going: Waiting[] = [];
      await write(() =>
        batch.flatMap((w): Entry[] => {
          const now = waiting.get(w.record);
          // Edited since it was picked: it goes with the next batch.
          if (now?.change.change !== w.change.change) return [];
          going.push(w);
          return [
            { record: w.record, waiting: { ...now, sent: [...new Set([...now.sent, w.change.change])] } },
          ];
        }),
      );
      if (going.length === 0) continue;
      const answer = await postChanges(going.map((w) => w.change));
      newest = Math.max(newest, answer.version);
      const refused = new Map(answer.refused.map((r) => [r.change, r]));
      await write(() => going.flatMap((w) => settled(w, refused)));
      server.value = 'up';
    }
  };
  /** Sends what waits; one window at a time, in the order it was made. */
  const push = (): Promise<void> =>
    (pushing ??= navigator.locks
      .request('fernhop-outbox', send)
      .catch(heard)
      .finally(() => (pushing = undefined)));

  let pulling: Promise<void> | undefined;
  const take = async (): Promise<void> => {
    const db = await database();
    for (;;) {
      const page = await getChanges(version);
      await write(() =>
        page.changes.flatMap((stored): Entry[] => {
          const mine = waiting.get(stored.record);
          if ((rows.get(stored.record)?.base ?? 0) >= stored.revision) return [];
          const known = mine?.sent.includes(stored.change) || mine?.change.change === stored.change;
          if (mine) return known ? [] : [{ record: stored.record, waiting: { ...mine, theirs: stored } }];
          const { record, kind, value: theirs, revision } = stored;
          return [{ record, row: { record, kind, value: theirs, base: revision } }];
        }),
      );
      version = page.version;
      await db.put('meta', version, 'version');
      if (!page.more) return;
    }
  };

  /** After the server was set back to an older state: sends again what it knew before and lacks now. */
  const restore = async (): Promise<void> => {
    const revisions = new Map<string, number>();
    for (let after = 0, more = true; more;) {
      const page = await getChanges(after);
      for (const stored of page.changes) revisions.set(stored.record, stored.revision);
      ({ version: after, more } = page);
      version = after;
    }
    await write(() =>
      [...rows.values()].flatMap((row): Entry[] => {
        const revision = revisions.get(row.record) ?? 0;
        if (row.base <= revision || (revision === 0 && row.value === null)) return [];
        const entry = entryOf(row.kind, row.record, row.value);
        const change = entry.waiting && { ...entry.waiting.change, revision: revision + 1 };
        return [
          {
            record: row.record,
            row: { ...row, base: revision },
            ...(change && { waiting: { record: row.record, sent: [], change } }),
          },
        ];
      }),
    );
    await (await database()).put('meta', version, 'version');
  };

  /**
   * Compares the server with the one this browser was filled from. What came from another server is let go, since it
   * lives there; what was made here and never taken by any server stays.
   */
  const meet = async (journal: string): Promise<void> => {
    const db = await database();
    const before = await db.get('meta', 'server');
    if (before === journal) return;
    if (before !== undefined) {
      const theirs = [...rows.values()].filter((row) => row.base > 0).map((row) => row.record);
      await holding.forget(theirs);
      version = 0;
      newest = 0;
    }
    await db.put('meta', version, 'version');
    await db.put('meta', journal, 'server');
  };

  /** Takes what others made. */
  const pull = (): Promise<void> =>
    (pulling ??= navigator.locks
      .request('fernhop-feed', take)
      .catch(heard)
      .finally(() => (pulling = undefined)));

  let loading: Promise<void> | undefined;
  const load = async (): Promise<void> => {
    version = await holding.load();
    // An empty browser may be about to be filled: whether there is nothing, the server says.
    if (rows.size > 0) loaded.value = true;
  };

  const look = async (): Promise<void> => {
    try {
      const [health, about] = await Promise.all([
        getHealth(),
        key.value === '' || server.value === 'up' ? undefined : getAbout(),
        loading,
      ]);
      serverProblem.value = health.problem ?? '';
      if (!health.ok) server.value = 'cannot write';
      else if (key.value === '') server.value = 'no key';
      else {
        if (about) await navigator.locks.request('fernhop-feed', () => meet(about.journal));
        if (Math.max(version, newest) > health.version)
          await navigator.locks.request('fernhop-feed', restore);
        newest = health.version;
        server.value = 'up';
        if (version !== health.version) await pull();
        if (waitingCount.value > 0) await push();
      }
    } catch (error) {
      heard(error);
    }
    if (storageProblem.value !== '') return;
    loaded.value = true;
    setTimeout(() => void look(), server.value === 'up' ? healthMs : retryMs);
  };

  /** Loads what this browser has and begins to keep in step with the server. */
  const start = async (): Promise<void> => {
    holding.listen();
    loading = load();
    // The server is asked while the database is still being read.
    void look();
    try {
      await loading;
    } catch (error) {
      storageProblem.value = error instanceof Error ? error.message : String(error);
      throw error;
    }
  };

  const setBy = (name: string): void => {
    by.value = name.slice(0, 80);
    localStorage.setItem('fernhop-by', by.value);
  };

  return {
    accounts,
    by,
    choose,
    decisions,
    domain,
    domains,
    unregisteredTag,
    link,
    links,
    loaded,
    months,
    network,
    networks,
    payments,
    program,
    programs,
    pull,
    rates,
    refusedUndo,
    reports,
    save,
    saveRecord,
    server,
    serverProblem,
    setBy,
    settings,
    start,
    storageProblem,
    stuck,
    undo,
    waiting,
    waitingCount,
    wasLive,
    where,
  };
});
