import type { Change, FieldConflict, ServerStory, StoredChange, Whose } from '#core/catalogue';
import { differingKinds, digestOf, forkOf, signatureOf } from '#core/catalogue';
import { isStuck, nextBatch, toSend } from './batches.ts';
import type { Row, Waiting } from './database.ts';
import { NotKept } from './database.ts';
import type { ChangeMaker, Edit, Outcome } from './entries.ts';
import {
  afterAnswer,
  afterChoice,
  afterComparison,
  afterEdit,
  afterMove,
  afterNews,
  rowOf,
} from './entries.ts';
import type { Entry, RecordStore } from './recordStore.ts';
import type { SyncServer } from './server.ts';
import { ServerError } from './server.ts';

/**
 * How the server is, as far as this browser knows. Of these, only *up* sends and takes; *another server* waits for a
 * person's answer first.
 */
export type ServerState =
  'asking' | 'up' | 'away' | 'no key' | 'cannot write' | 'not our server' | 'another server';

/** What came of a comparison with the server, for the person to read. */
export interface Finding {
  readonly kind: 'set back' | 'differed';
  /** Records taken from the server, offered to it again, and left for a person to choose. */
  readonly taken: number;
  readonly offered: number;
  readonly asked: number;
}

export interface SyncParts extends ChangeMaker {
  readonly store: RecordStore;
  readonly server: SyncServer;
  /** Only one window of a browser at a time does what has this name. */
  lock<T>(name: string, work: () => Promise<T>): Promise<T>;
  /** True for a record that is kept here for a reason of its own. */
  stays(record: string): boolean;
  onState(state: ServerState, problem: string): void;
  onFinding(finding: Finding): void;
  /** What the server told could not be kept here. */
  onNotKept(words: string): void;
}

/** Most bytes of a call: what a web server in front takes where nobody told it otherwise. */
const mostBytes = 900_000;
/** After so many quiet looks what is held is compared with the server. */
const looksToComparison = 75;

/** The server is another one, or in another generation, than the answer was asked of. */
class Elsewhere extends Error {}

/**
 * Keeps the catalogue of this browser and the server in step. An edit is on this browser's disk when `save` resolves; it is
 * sent, merged and settled from there. `docs/architecture.md` draws the states of a record.
 */
export const makeSync = (parts: SyncParts) => {
  const { store, server, lock } = parts;
  const { rows, waiting, write } = store;
  /** Up to which version this window has everything in memory. */
  let version = 0;
  let met: ServerStory | undefined;
  let bytesPerCall = mostBytes;
  let quietLooks = 0;
  /** The server that answered where another one was met before; it waits for a person's answer. */
  let stranger: ServerStory | undefined;

  const load = async (): Promise<void> => {
    store.listen();
    const known = await store.load();
    version = known.version ?? 0;
    met = known.server;
  };

  /** Gives answers of the server that was met only. */
  const ours = <T extends { readonly signature: string }>(answer: T): T => {
    if (!met || answer.signature !== signatureOf(met)) throw new Elsewhere();
    return answer;
  };

  const save = (edits: readonly Edit[]): Promise<void> =>
    write(function* () {
      for (const edit of edits) yield afterEdit(edit, rows.get(edit.record), waiting.get(edit.record), parts);
    });

  /** Settles a conflict field by field. */
  const choose = (record: string, whose: (conflict: FieldConflict) => Whose): Promise<void> =>
    write(() => {
      const found = waiting.get(record);
      return found?.theirs ? [afterChoice(found, found.theirs, whose, parts)] : [];
    });

  /** Sends again what was refused. */
  const retry = (records: readonly string[]): Promise<void> =>
    write(() =>
      records.flatMap((record): Entry[] => {
        const found = waiting.get(record);
        if (!found?.refusal) return [];
        const { refusal: _, ...rest } = found;
        return [{ record, waiting: rest }];
      }),
    );

  /** Lets an edit go that was never taken: the record is again as the server has it, or gone. */
  const drop = (record: string): Promise<void> =>
    write(() => {
      const found = waiting.get(record);
      const row = rows.get(record);
      if (!found || !row) return [];
      if (found.theirs) return [];
      return [{ record, row: row.stored && found.from !== undefined ? { ...row, value: found.from } : null }];
    });

  /** What was refused because of a record it rests on is tried again once such records came. */
  const retryLeaning = (came: readonly { readonly kind: string }[]): Promise<void> => {
    const leaning = [...waiting.values()].filter(
      ({ refusal }) => refusal && ['domain', 'network'].includes(refusal.path),
    );
    const isMet = came.some(({ kind }) => kind === 'domain' || kind === 'network');
    return isMet && leaning.length > 0 ? retry(leaning.map(({ record }) => record)) : Promise.resolve();
  };

  const send = async (): Promise<void> => {
    while (met) {
      const batch = nextBatch(rows, waiting, bytesPerCall, parts.stays);
      if (batch.length === 0) {
        if (bytesPerCall === 1) bytesPerCall = mostBytes;
        return;
      }
      const signature = signatureOf(met);
      // What is on its way may arrive without our hearing of it, so that is written first.
      const going: Change[] = [];
      await write(() =>
        batch.flatMap(({ record }): Entry[] => {
          const now = waiting.get(record);
          if (!now || isStuck(now)) return [];
          const change = toSend(now);
          going.push(change);
          return [{ record, waiting: { ...now, inFlight: change, sentTo: now.sentTo ?? signature } }];
        }),
      );
      if (going.length === 0) continue;
      const outcomes = await ask(going);
      if (!outcomes) continue;
      // An answer that speaks of none of them is not the answer to this call.
      if (!going.some(({ change }) => outcomes.has(change)))
        throw new ServerError(0, 'The answer was to another call.');
      await write(() =>
        going.flatMap((change) => {
          const now = waiting.get(change.record);
          const row = rows.get(change.record);
          const outcome = outcomes.get(change.change);
          // The feed may have told of it before the answer did.
          return row && outcome && now?.inFlight?.change === change.change
            ? [afterAnswer(change, now, row, outcome, now.sentTo === signature, parts)]
            : [];
        }),
      );
      await retryLeaning(going.filter(({ change }) => isTaken(outcomes, change)));
    }
  };
  const isTaken = (outcomes: ReadonlyMap<string, Outcome>, change: string): boolean => {
    const outcome = outcomes.get(change);
    return outcome !== undefined && 'taken' in outcome;
  };

  /** Asks the server to take changes; undefined where they are to be tried in smaller calls. */
  const ask = async (changes: readonly Change[]): Promise<ReadonlyMap<string, Outcome> | undefined> => {
    if (!met) return undefined;
    try {
      const answer = ours(await server.send(changes, signatureOf(met)));
      return new Map<string, Outcome>([
        ...answer.taken.map(({ change, version: taken }) => [change, { taken }] as const),
        ...answer.overtaken.map(({ change, newest }) => [change, { newest }] as const),
        ...answer.refused.map(
          ({ change, path, message, theirs }) => [change, { refusal: { path, message }, theirs }] as const,
        ),
      ]);
    } catch (error) {
      if (!(error instanceof ServerError)) throw error;
      if (error.status === 412) throw new Elsewhere();
      if (error.status !== 413 && error.status !== 400) throw error;
      if (changes.length > 1) {
        bytesPerCall = error.status === 413 ? Math.max(1, Math.floor(bytesPerCall / 2)) : 1;
        return undefined;
      }
      const message =
        error.status === 413
          ? 'It is larger than the server takes in one call. Shorten it; what is long is often the notes.'
          : `The server cannot read it: ${error.message}`;
      return new Map(changes.map(({ change }) => [change, { refusal: { path: '', message } }]));
    }
  };

  const take = async (): Promise<void> => {
    for (;;) {
      const page = ours(await server.changes(version));
      await write(
        () =>
          page.changes.flatMap((theirs): Entry[] => {
            const entry = afterNews(theirs, rows.get(theirs.record), waiting.get(theirs.record), parts);
            return entry ? [entry] : [];
          }),
        { version: page.version },
      );
      version = page.version;
      await retryLeaning(page.changes);
      if (!page.more) return;
    }
  };

  /** All that the server has, and up to which version that is. */
  const readAll = async (
    story: ServerStory,
  ): Promise<{ all: Map<string, StoredChange>; version: number }> => {
    const all = new Map<string, StoredChange>();
    for (let after = 0; ;) {
      const page = await server.changes(after);
      if (page.signature !== signatureOf(story)) throw new Elsewhere();
      for (const theirs of page.changes) all.set(theirs.record, theirs);
      after = page.version;
      if (!page.more) return { all, version: after };
    }
  };

  /** Brings this browser to what the server has, record by record. */
  const settleAll = async (
    story: ServerStory,
    settle: (row: Row, waiting: Waiting | undefined, theirs: StoredChange | undefined) => Entry | undefined,
  ): Promise<Omit<Finding, 'kind'>> => {
    const { all, version: read } = await readAll(story);
    const finding = { taken: 0, offered: 0, asked: 0 };
    await write(
      function* () {
        for (const row of rows.values()) {
          const before = waiting.get(row.record);
          const entry = settle(row, before, all.get(row.record));
          if (!entry) continue;
          if (entry.waiting?.theirs) finding.asked += before?.theirs ? 0 : 1;
          else if (entry.waiting) finding.offered += before ? 0 : 1;
          else if (entry.row?.value !== row.value) finding.taken += 1;
          yield entry;
        }
        for (const theirs of all.values())
          if (!rows.has(theirs.record)) {
            finding.taken += 1;
            yield { record: theirs.record, row: rowOf(theirs) };
          }
      },
      { version: read, server: story },
    );
    version = read;
    met = story;
    return finding;
  };

  const tell = (kind: Finding['kind'], finding: Omit<Finding, 'kind'>): void => {
    if (finding.taken + finding.offered + finding.asked > 0) parts.onFinding({ kind, ...finding });
  };

  /** Holds what is here against a server that began another generation, or that is another one. */
  const meet = async (): Promise<void> => {
    const story = await server.story();
    // Another window may have met it already.
    met = (await store.readServer()) ?? met;
    stranger = undefined;
    if (!met) {
      await write(() => [], { server: story });
      met = story;
      return;
    }
    if (met.identity !== story.identity) {
      const isEmpty = ![...rows.values()].some((row) => row.value) && waiting.size === 0;
      if (isEmpty) await begin(story);
      else stranger = story;
      return;
    }
    const fork = forkOf(met, story);
    if (!fork) return;
    // What is beyond the fork here is what the server has lost.
    const isBeyond = (known?: { readonly version: number }): boolean =>
      known !== undefined && known.version > fork.version;
    const hasLost =
      [...rows.values()].some(({ stored }) => isBeyond(stored)) ||
      [...waiting.values()].some(({ news, theirs }) => isBeyond(news) || isBeyond(theirs));
    if (!hasLost) {
      const from = Math.min(version, fork.version);
      await write(() => [], { server: story, version: from });
      met = story;
      version = from;
      return;
    }
    tell(
      'set back',
      await settleAll(story, (row, w, theirs) => afterComparison(row, w, theirs, fork.version, parts)),
    );
  };

  /** Lets everything go and begins with what a server has. */
  const begin = async (story: ServerStory): Promise<void> => {
    await write(() => [...rows.keys()].map((record) => ({ record, row: null })), {
      server: story,
      version: 0,
    });
    met = story;
    version = 0;
  };

  /**
   * Answers what is to become of this browser's records at another server: all of them are offered to it, or let go for
   * what it has.
   */
  const answerStranger = (answer: 'bring mine' | 'take theirs'): Promise<void> =>
    lock('fernhop-feed', async () => {
      const story = stranger;
      if (!story) return;
      if (answer === 'take theirs') await begin(story);
      else await settleAll(story, (row, w, theirs) => afterMove(row, w, theirs, parts));
      stranger = undefined;
    }).catch(heard);

  /** Compares what is held with the server by kind, and settles what differs. */
  const compare = async (): Promise<void> => {
    const theirs = ours(await server.digest());
    if (theirs.version !== version || waiting.size > 0) return;
    const here = [...rows.values()].flatMap(({ record, kind, stored }) =>
      stored ? [{ record, kind, change: stored.change }] : [],
    );
    if (differingKinds(digestOf(here), theirs.kinds).length === 0) return;
    const story = await server.story();
    if (!met || story.identity !== met.identity) throw new Elsewhere();
    tell(
      'differed',
      await settleAll(story, (row, w, stored) => afterComparison(row, w, stored, Infinity, parts)),
    );
  };

  const heard = (error: unknown): void => {
    if (error instanceof Elsewhere) return; // the next look meets it
    if (error instanceof NotKept) {
      parts.onNotKept(error.message);
      return;
    }
    if (!(error instanceof ServerError)) throw error;
    const { status, isStranger } = error;
    if (isStranger) parts.onState('not our server', '');
    else if (status === 401) parts.onState('no key', '');
    else parts.onState(status === 503 ? 'cannot write' : 'away', status === 0 ? '' : error.message);
  };

  const oneAtATime = (name: string, work: () => Promise<void>) => {
    let running: Promise<void> | undefined;
    return (): Promise<void> =>
      (running ??= lock(name, work)
        .catch(heard)
        .finally(() => (running = undefined)));
  };
  /** Sends what waits; one window at a time, in the order it was made. */
  const push = oneAtATime('fernhop-outbox', send);
  /** Takes what others made. */
  const pull = oneAtATime('fernhop-feed', take);

  const isUnsent = (): boolean => [...waiting.values()].some((w) => !isStuck(w));

  /** Asks how the server is, and does what there is to do with it. */
  const look = async (): Promise<void> => {
    try {
      const health = await server.health();
      if (!met || health.signature !== signatureOf(met)) await lock('fernhop-feed', meet);
      if (stranger) {
        parts.onState('another server', '');
        return;
      }
      parts.onState(health.ok ? 'up' : 'cannot write', health.problem ?? '');
      if (version !== health.version) await pull();
      if (isUnsent()) await push();
      quietLooks = waiting.size === 0 && version === health.version ? quietLooks + 1 : 0;
      if (quietLooks >= looksToComparison) {
        quietLooks = 0;
        await lock('fernhop-feed', compare);
      }
    } catch (error) {
      heard(error);
    }
  };

  return {
    answerStranger,
    choose,
    compare: () => lock('fernhop-feed', compare).catch(heard),
    drop,
    load,
    look,
    pull,
    push,
    retry,
    save,
    /** The server this browser's records are from, and the one that answers in its place. */
    stranger: () => stranger,
  };
};

export type Sync = ReturnType<typeof makeSync>;
