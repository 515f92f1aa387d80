import { defineStore } from 'pinia';
import { computed, ref, shallowReactive } from 'vue';
import type { Domain, Kept, Link, Network, Program, RecordKind, RecordOf, Settings } from '#core/catalogue';
import { changesPerCall } from '#core/catalogue';
import type { Row, Waiting } from './database.ts';
import { database } from './database.ts';
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
const order: readonly RecordKind[] = ['domain', 'network', 'program', 'link', 'settings'];
const retryMs = 2000;
const healthMs = 4000;

/**
 * What the person edits. An edit is saved in this browser first, then waits in the outbox, then is sent; what
 * others made arrives by the change feed.
 */
export const useCatalogue = defineStore('catalogue', () => {
  const rows = shallowReactive(new Map<string, Row>());
  const waiting = shallowReactive(new Map<string, Waiting>());
  const loaded = ref(false);
  /** Up to which edition this window has everything in memory. */
  let edition = 0;
  /** The newest edition the server ever told of; one that tells of less was set back. */
  let newest = 0;
  const server = ref<ServerState>('asking');
  const serverProblem = ref('');
  const by = ref(localStorage.getItem('fernhop-by') ?? '');
  const undoable = ref<Step[][]>([]);
  const channel = new BroadcastChannel('fernhop-catalogue');

  const ofKind = <K extends RecordKind>(kind: K) =>
    computed(() => {
      const found: RecordOf[K][] = [];
      // A row's value passed the schema of its kind before it was stored.
      for (const row of rows.values())
        if (row.kind === kind && row.value) found.push(row.value as RecordOf[K]);
      return found;
    });
  const domains = ofKind('domain');
  const networks = ofKind('network');
  const programs = ofKind('program');
  const links = ofKind('link');
  const settings = computed(
    (): Settings => ofKind('settings').value[0] ?? { id: 'settings', currency: 'EUR' },
  );

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
  const waitingCount = computed(() => [...waiting.values()].filter((w) => !w.refusal && !w.theirs).length);
  const stuck = computed(() => [...waiting.values()].filter((w) => w.refusal ?? w.theirs));

  const store = async (row: Row | undefined, change: Waiting | undefined, record: string): Promise<void> => {
    const tx = (await database()).transaction(['records', 'outbox'], 'readwrite');
    if (row) await tx.objectStore('records').put(row);
    if (change) await tx.objectStore('outbox').put(change);
    else await tx.objectStore('outbox').delete(record);
    await tx.done;
    if (row) rows.set(record, row);
    if (change) waiting.set(record, change);
    else waiting.delete(record);
    channel.postMessage(record);
  };

  const put = async (kind: RecordKind, record: string, next: object | null): Promise<void> => {
    const row = rows.get(record);
    const base = row?.base ?? 0;
    const before = waiting.get(record);
    if (next === null && base === 0 && before && before.sent.length === 0) {
      // The server never heard of it: nothing needs to be sent.
      await store({ record, kind, value: null, base }, undefined, record);
      return;
    }
    const plain: Record<string, unknown> | null = next && JSON.parse(JSON.stringify(next));
    await store(
      { record, kind, value: plain, base },
      {
        record,
        sent: before?.sent ?? [],
        change: {
          change: newChangeId(),
          kind,
          record,
          revision: base + 1,
          by: by.value,
          at: Date.now(),
          value: plain,
        },
      },
      record,
    );
  };

  /** Saves records as one step that can be undone as one. */
  const save = async (
    ...changes: readonly { kind: RecordKind; value: { readonly id: string } | null; id?: string }[]
  ) => {
    const steps: Step[] = [];
    for (const { kind, value: next, id } of changes) {
      const record = next?.id ?? id ?? '';
      steps.unshift({ kind, record, before: rows.get(record)?.value ?? null });
      await put(kind, record, next);
    }
    undoable.value.push(steps);
    if (undoable.value.length > 100) undoable.value.shift();
    void push();
  };
  const saveRecord = <K extends RecordKind>(kind: K, next: RecordOf[K]) => save({ kind, value: next });

  /** Takes back the last step made in this window; gives false when there is none. */
  const undo = async (): Promise<boolean> => {
    const steps = undoable.value.pop();
    if (!steps) return false;
    for (const { kind, record, before } of steps) await put(kind, record, before);
    void push();
    return true;
  };

  /** Settles a conflict: with one's own version on top of theirs, or with theirs. */
  const choose = async (record: string, whose: 'mine' | 'theirs'): Promise<void> => {
    const found = waiting.get(record);
    if (!found?.theirs) return;
    const { theirs } = found;
    const row: Row = { record, kind: theirs.kind, value: theirs.value, base: theirs.revision };
    if (whose === 'theirs') await store(row, undefined, record);
    else {
      await store(
        { ...row, value: found.change.value },
        {
          record,
          sent: [],
          change: { ...found.change, change: newChangeId(), revision: theirs.revision + 1 },
        },
        record,
      );
      void push();
    }
  };

  const settle = async (
    sentChange: Waiting,
    refused: Map<string, { path: string; message: string; theirs?: Kept }>,
  ) => {
    const { record, change } = sentChange;
    const now = waiting.get(record);
    const row = rows.get(record);
    if (!now || !row) return;
    const refusal = refused.get(change.change);
    if (!refusal) {
      const kept = { ...row, base: change.revision };
      if (now.change.change === change.change) await store(kept, undefined, record);
      // It was edited again while it was on its way: the newer edit builds on what was just taken.
      else
        await store(
          kept,
          { ...now, sent: [], change: { ...now.change, revision: change.revision + 1 } },
          record,
        );
      return;
    }
    const { theirs, path, message } = refusal;
    if (theirs && now.sent.includes(theirs.change))
      // "Theirs" is an earlier edit of our own whose answer never reached us.
      await store(
        { ...row, base: theirs.revision },
        { record, sent: [], change: { ...now.change, change: newChangeId(), revision: theirs.revision + 1 } },
        record,
      );
    else
      await store(undefined, { ...now, ...(theirs ? { theirs } : { refusal: { path, message } }) }, record);
  };

  const heard = (error: unknown): void => {
    const status = error instanceof ServerError ? error.status : 0;
    server.value = status === 401 ? 'no key' : status === 503 ? 'cannot write' : 'away';
  };

  let pushing: Promise<void> | undefined;
  const send = async (): Promise<void> => {
    for (;;) {
      const batch = [...waiting.values()]
        .filter((w) => !w.refusal && !w.theirs)
        .sort(
          (a, b) => order.indexOf(a.change.kind) - order.indexOf(b.change.kind) || a.change.at - b.change.at,
        )
        .slice(0, changesPerCall);
      if (batch.length === 0 || key.value === '') return;
      const tx = (await database()).transaction('outbox', 'readwrite');
      for (const w of batch) {
        const marked = { ...w, sent: [...new Set([...w.sent, w.change.change])] };
        waiting.set(w.record, marked);
        await tx.store.put(marked);
      }
      await tx.done;
      const answer = await postChanges(batch.map((w) => w.change));
      newest = Math.max(newest, answer.edition);
      const refused = new Map(answer.refused.map((r) => [r.change, r]));
      for (const w of batch) await settle(w, refused);
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
      const page = await getChanges(edition);
      for (const kept of page.changes) {
        const mine = waiting.get(kept.record);
        const row = rows.get(kept.record);
        if ((row?.base ?? 0) >= kept.revision) continue;
        const known = mine?.sent.includes(kept.change) || mine?.change.change === kept.change;
        if (mine && !known) await store(undefined, { ...mine, theirs: kept }, kept.record);
        else if (!mine)
          await store(
            { record: kept.record, kind: kept.kind, value: kept.value, base: kept.revision },
            undefined,
            kept.record,
          );
      }
      edition = page.edition;
      await db.put('meta', edition, 'edition');
      if (!page.more) return;
    }
  };

  /** After the server was set back to an older state: sends again what it knew before and lacks now. */
  const restore = async (): Promise<void> => {
    const revisions = new Map<string, number>();
    for (let after = 0, more = true; more;) {
      const page = await getChanges(after);
      for (const kept of page.changes) revisions.set(kept.record, kept.revision);
      ({ edition: after, more } = page);
      edition = after;
    }
    for (const row of [...rows.values()]) {
      const revision = revisions.get(row.record) ?? 0;
      if (row.base <= revision || (revision === 0 && row.value === null)) continue;
      rows.set(row.record, { ...row, base: revision });
      await put(row.kind, row.record, row.value);
    }
    await (await database()).put('meta', edition, 'edition');
  };

  /**
   * Compares the server with the one this browser was filled from. What came from another server is let go, since it
   * lives there; what was made here and never taken by any server stays.
   */
  const meet = async (): Promise<void> => {
    const db = await database();
    const { journal } = await getAbout();
    const before = await db.get('meta', 'server');
    if (before === journal) return;
    if (before !== undefined) {
      const theirs = [...rows.values()].filter((row) => row.base > 0).map((row) => row.record);
      const tx = db.transaction(['records', 'outbox'], 'readwrite');
      for (const record of theirs) {
        await tx.objectStore('records').delete(record);
        await tx.objectStore('outbox').delete(record);
      }
      await tx.done;
      for (const record of theirs) {
        rows.delete(record);
        waiting.delete(record);
        channel.postMessage(record);
      }
      edition = 0;
      newest = 0;
    }
    await db.put('meta', edition, 'edition');
    await db.put('meta', journal, 'server');
  };

  /** Takes what others made. */
  const pull = (): Promise<void> =>
    (pulling ??= navigator.locks
      .request('fernhop-feed', take)
      .catch(heard)
      .finally(() => (pulling = undefined)));

  const load = async (): Promise<void> => {
    // One transaction, so that the edition is that of these very records, whatever another window does meanwhile.
    const tx = (await database()).transaction(['records', 'outbox', 'meta']);
    const [records, changes, known] = await Promise.all([
      tx.objectStore('records').getAll(),
      tx.objectStore('outbox').getAll(),
      tx.objectStore('meta').get('edition'),
      tx.done,
    ]);
    // What another window told of in the meantime is newer than what was read.
    for (const row of records) if (!rows.has(row.record)) rows.set(row.record, row);
    for (const change of changes) if (!waiting.has(change.record)) waiting.set(change.record, change);
    edition = Number(known ?? 0);
    loaded.value = true;
  };

  const look = async (): Promise<void> => {
    try {
      const health = await getHealth();
      serverProblem.value = health.problem ?? '';
      if (!health.ok) server.value = 'cannot write';
      else if (key.value === '') server.value = 'no key';
      else {
        if (server.value !== 'up') await navigator.locks.request('fernhop-feed', meet);
        if (Math.max(edition, newest) > health.edition)
          await navigator.locks.request('fernhop-feed', restore);
        newest = health.edition;
        server.value = 'up';
        if (edition !== health.edition) await pull();
        if (waitingCount.value > 0) await push();
      }
    } catch (error) {
      heard(error);
    }
    setTimeout(() => void look(), server.value === 'up' ? healthMs : retryMs);
  };

  /** Loads what this browser has and begins to keep in step with the server. */
  const start = async (): Promise<void> => {
    channel.onmessage = async ({ data }: MessageEvent<string>) => {
      const db = await database();
      const [row, change] = await Promise.all([db.get('records', data), db.get('outbox', data)]);
      if (row) rows.set(data, row);
      else rows.delete(data);
      if (change) waiting.set(data, change);
      else waiting.delete(data);
    };
    await load();
    void look();
  };

  const setBy = (name: string): void => {
    by.value = name.slice(0, 80);
    localStorage.setItem('fernhop-by', by.value);
  };

  return {
    by,
    choose,
    domain,
    domains,
    link,
    links,
    loaded,
    network,
    networks,
    program,
    programs,
    pull,
    save,
    saveRecord,
    server,
    serverProblem,
    setBy,
    settings,
    start,
    stuck,
    undo,
    waiting,
    waitingCount,
    wasLive,
    where,
  };
});
