import { expose } from 'comlink';
import type { ServerStory, Settings } from '#core/catalogue';
import { forkOf, signatureOf } from '#core/catalogue';
import { readNdjson } from '#core/formats';
import type { Answers, CatalogueRecords, QueryName, RolledUp } from '#core/queries';
import { answersFrom, Dataset } from '#core/queries';
import type { GivenBackRecord, JournalRecord } from '#core/visits';
import { givenBackPerCall, isGivenBackKind, isVisit, takeSegment } from '#core/visits';
import pLimit from 'p-limit';
import { database, readMeta } from '../sync/index.ts';
import type { JournalPart } from './journalParts.ts';
import { fetchPart } from './journalParts.ts';
import { proposedHere, proposedMost } from './mostRecords.ts';
import { Segments } from './segments.ts';
import { ServerAnswers } from './serverAnswers.ts';

/**
 * Keeps the journal's copy of this browser: one window reads the server (Web Locks) and stores what it reads, the
 * others hear of it; each answers its own window's questions from memory.
 */
/** What windows tell each other: that there is more, that all is different, or what the one that stores is to do. */
type WindowMessage = 'more' | 'again' | 'anew' | 'lost' | StorageTask | { readonly failed: string };
/** What the one that stores is asked to do: fetch all of the journal, or roll up what is older than a moment. */
type StorageTask = 'whole' | { readonly before: number };

const data = new Dataset();
const segments = new Segments();
const channel = new BroadcastChannel('fernhop-journal');
let key = '';
let onNews: (() => Promise<void>) | undefined;
let onChange: ((version: number) => void) | undefined;
let onEmptied: (() => Promise<void>) | undefined;
let soon: ReturnType<typeof setTimeout> | undefined;
/** This window is the one that stores. */
let leading = false;
let following: AbortController | undefined;
const tell = (message: WindowMessage) => channel.postMessage(message);
/** How much of the journal is here, and who answers. */
export interface Progress {
  readonly held: number;
  readonly there: number;
  /** The server is to be asked. */
  readonly asksServer: boolean;
  /** It is, and answers: figures are whole. */
  readonly byServer: boolean;
  readonly isTooLarge: boolean;
}
/** What this window asked of the one that stores, while it is not answered. */
let asked:
  | { readonly what: StorageTask; readonly done: () => void; readonly failed: (why: string) => void }
  | undefined;
const mostWaitMs = 60_000;
/** Has the window that stores do something; resolves once all is anew. */
const ask = (what: StorageTask): Promise<void> =>
  new Promise((resolve, reject) => {
    const late = setTimeout(() => asked?.failed('No other window of this browser answered.'), mostWaitMs);
    const end = () => {
      clearTimeout(late);
      asked = undefined;
    };
    asked = {
      what,
      done: () => {
        end();
        resolve();
      },
      failed: (why) => {
        end();
        reject(new Error(why));
      },
    };
    tell(what);
  });

/** What changes the stored journal is done one after the other. */
const inTurn = pLimit(1);
/** Records the server has, as it last said to any window; for telling how far a first fetch has come. */
let there = 0;
/** Most records this browser is to keep. */
let most = proposedMost(undefined);
const server = new ServerAnswers();
/** Has it known how much is here now, and what else follows from it. */
const weigh = (): void => server.update(data.last, there, most);

/** For how long what comes by itself waits for the server's first answer. */
const longestFirstMs = 10_000;
/** A server that takes longer for an answer does not answer. */
const longestAnswerMs = 60_000;
/** Records that are stored together while many come at once. */
const batchRecords = 10_000;
/** Most letters of one call that gives records back to the server. */
const mostCallBytes = 1_000_000;

/** How long news are gathered; where the server answers, it is not to be asked for each of them. */
const gatherMs = 60;
const gatherForServerMs = 500;

const news = (): void => {
  weigh();
  soon ??= setTimeout(
    () => {
      soon = undefined;
      void onNews?.();
    },
    server.isAsked ? gatherForServerMs : gatherMs,
  );
};

/** Puts into memory what is stored beyond what memory holds. */
const loadStored = async (): Promise<void> => {
  const db = await database();
  await segments.load(db, data);
  const proposed = await proposedHere();
  const { store: meta } = db.transaction('meta');
  // Empty browsers have none, and most persons choose nothing.
  [there, most] = [(await readMeta(meta, 'there')) ?? 0, (await readMeta(meta, 'most')) ?? proposed];
  news();
};

/** Empties memory, once this window knows that what is answered from now on rests on a part of the journal. */
const emptyMemory = async (): Promise<void> => {
  await onEmptied?.();
  data.clear();
};

/** Has memory say what is stored, and no more. */
const loadAnew = async (): Promise<void> => {
  await emptyMemory();
  segments.reset();
  await loadStored();
};

const store = (records: readonly JournalRecord[]): Promise<void> => inTurn(() => storeNow(records));
const storeNow = async (records: readonly JournalRecord[]): Promise<void> => {
  const fresh = records.filter((record) => record.seq > data.last);
  if (fresh.length === 0) return;
  data.add(fresh);
  try {
    await segments.keep(await database(), data, fresh);
  } catch (error) {
    // Memory is to hold no more than what is stored: what is missing is then fetched again.
    await loadAnew();
    throw error;
  }
  tellChanges(fresh);
  news();
  tell('more');
};

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/** Yields the records of an answer, in the pieces in which they arrive. */
const readLines = async function* ({ body }: Response): AsyncGenerator<JournalRecord[]> {
  if (body) yield* readNdjson<JournalRecord>(body.pipeThrough(new TextDecoderStream()));
};

const get = async (path: string, signal: AbortSignal): Promise<Response> => {
  const response = await fetch(path, { headers: { Authorization: `Bearer ${key}` }, signal });
  if (!response.ok) throw new Error(`${path} was answered ${response.status}`);
  // A portal's page may come with 200 as well.
  if (response.headers.get('Fernhop-Server') === null)
    throw new Error(`${path} was answered by another server`);
  return response;
};

const forget = (): Promise<void> =>
  inTurn(async () => {
    await segments.clear(await database());
    await emptyMemory();
    tell('anew');
  });

/** Stores what memory says in the place of all that is stored, and has every window begin anew with it. */
const replaceStored = async (): Promise<void> => {
  try {
    await segments.replace(await database(), data);
  } catch (error) {
    // What is stored is whole still; memory is to say the same.
    await loadAnew();
    throw error;
  }
  tell('anew');
  news();
};

/** Rolls up the days before a moment, in memory and in the database. */
const rollUpNow = (before: number): Promise<void> =>
  inTurn(async () => {
    data.rollUp(before);
    await replaceStored();
  });

/** Forgets what is held and fetches all of the server's journal. */
const fetchWhole = async (): Promise<void> => {
  await forget();
  following?.abort();
};

/** Keeps records that the server lost, until the person saved them or lets them go. */
const keepLost = async (records: readonly JournalRecord[]): Promise<void> => {
  if (records.length === 0) return;
  await (await database()).put('lost', { at: Date.now(), records });
  tell('lost');
};

/** Every record that is held, or those after one. */
const recordsAfter = async (seq: number): Promise<{ others: JournalRecord[]; lost: JournalRecord[] }> => {
  const others = await (await database()).getAll('journal');
  const { columns } = data.journal;
  const visits = Array.from({ length: columns.rows }, (_, row) => columns.record(row));
  const lost = [...visits, ...others].filter((record) => record.seq > seq).sort((a, b) => a.seq - b.seq);
  return { others, lost };
};

/** Takes back what is held to where the server's journal parts from it. What it lost is kept apart. */
const cutBack = (seq: number): Promise<void> =>
  inTurn(async () => {
    const { others, lost } = await recordsAfter(seq);
    await keepLost(lost);
    data.cutAfter(seq, others);
    await replaceStored();
  });

/**
 * Holds the journal that is here against the server's. After an older folder was put back there, what it lost is kept apart;
 * another server's journal is begun only once the person has said what becomes of what is here.
 *
 * @throws Error where the person has not been asked yet
 */
const meet = async (signature: string, signal: AbortSignal): Promise<void> => {
  const db = await database();
  const met = await readMeta(db.transaction('meta').store, 'journal');
  if (met && signatureOf(met) === signature) return;
  const about: ServerStory = await (await get('/api/about', signal)).json();
  const story = { identity: about.identity, generations: about.generations };
  if (met && met.identity !== story.identity) {
    const chosen = await readMeta(db.transaction('meta').store, 'server');
    if (chosen?.identity !== story.identity)
      throw new Error('another server answers, and nobody chose it yet');
    await keepLost((await recordsAfter(0)).lost);
    await forget();
  } else if (met) {
    const fork = forkOf(met, story);
    if (fork && data.last > fork.seq) await cutBack(fork.seq);
  }
  await db.put('meta', story, 'journal');
};

/**
 * Begins anew with the server's daily counts, where it removed by choice what this browser has not read: the rest of the
 * journal is then fetched from its beginning.
 */
const beginWithCounts = async (signal: AbortSignal): Promise<void> => {
  const rolledUp: RolledUp = await (await get('/api/rolled-up', signal)).json();
  await inTurn(async () => {
    await segments.clear(await database());
    await emptyMemory();
    data.rolledUp = rolledUp;
    await replaceStored();
  });
};

/** Puts what the server has as columns into a browser that has nothing yet: a million lines need not be read one by one. */
const fetchColumns = async (signal: AbortSignal): Promise<void> => {
  if (data.last > 0) return;
  const { parts }: { parts: readonly JournalPart[] } = await (await get('/api/columns', signal)).json();
  const bytesOf = async (path: string) => new Uint8Array(await (await get(path, signal)).arrayBuffer());
  for (const part of parts) {
    const found = await fetchPart(part, bytesOf, signal);
    // What is missing comes as lines.
    if (!found) return;
    await inTurn(async () => {
      try {
        takeSegment(data.journal.columns, found.rows);
        data.addStored(found.others);
        data.rowsCame(part.last);
        await segments.keep(await database(), data, found.others);
      } catch (error) {
        await loadAnew();
        throw error;
      }
    });
    news();
    tell('more');
  }
};

/** Tells the catalogue of its changes among records of the journal. */
const tellChanges = (records: readonly JournalRecord[]): void => {
  const changes = records.flatMap((record) => (record.kind === 'change' ? [record.version] : []));
  if (changes.length > 0) onChange?.(Math.max(...changes));
};

/** Hears what comes without keeping it, where the server answers for good. */
const followFromAfar = async (live: Response): Promise<void> => {
  for await (const records of readLines(live)) {
    there = Math.max(there, ...records.map(({ seq }) => seq));
    await (await database()).put('meta', there, 'there');
    tellChanges(records);
    news();
    tell('more');
  }
};

/** Follows the server's journal until the connection breaks. */
const follow = async (): Promise<void> => {
  const stop = new AbortController();
  following = stop;
  try {
    // The stream is opened first, so that nothing falls between what is fetched and what is streamed.
    const live = await get('/api/live', stop.signal);
    await meet(live.headers.get('Fernhop-Server') ?? '', stop.signal); // `get` saw that it is there
    there = Number(live.headers.get('Fernhop-Seq'));
    if (data.last < Number(live.headers.get('Fernhop-Removed'))) await beginWithCounts(stop.signal);
    // Half a journal is known to be half of one also while the server is away, and in another window.
    await (await database()).put('meta', there, 'there');
    news();
    tell('more');
    if (server.isTooLarge) {
      await followFromAfar(live);
      return;
    }
    // What this browser does by itself is not to keep the server's first answer waiting.
    if (server.isAsked) await Promise.race([server.heard(), pause(longestFirstMs)]);
    await fetchColumns(stop.signal);
    let batch: JournalRecord[] = [];
    for await (const records of readLines(await get(`/api/journal?after=${data.last}`, stop.signal))) {
      batch = batch.concat(records);
      if (batch.length >= batchRecords) {
        await store(batch);
        batch = [];
      }
    }
    await store(batch);
    // An answer that was cut off may end like a whole one: a proxy, or a server that was killed, ended it.
    if (data.last < there) throw new Error('the journal ended before its newest record');
    for await (const records of readLines(live)) {
      if ((records[0]?.seq ?? 0) > data.last + 1) throw new Error('the stream left something out');
      await store(records);
    }
  } finally {
    stop.abort();
  }
};

/** Does what a window asks of the one that stores. */
const carryOut = (task: StorageTask): Promise<void> =>
  task === 'whole' ? fetchWhole() : rollUpNow(task.before);
const wordsOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));

const lead = async (): Promise<never> => {
  leading = true;
  await inTurn(loadStored);
  // The window that stored before may have been closed before it did what this one asked of it.
  if (asked) {
    const { what, done, failed } = asked;
    await carryOut(what).then(done, (error: unknown) => failed(wordsOf(error)));
  }
  for (;;) {
    if (key !== '') await follow().catch(() => undefined);
    await pause(1000);
  }
};

/**
 * Asks the server, where it is the one this journal is of.
 *
 * @throws Error where it does not answer, or another one does
 */
const askServer = async (question: QueryName, args: readonly unknown[]): Promise<string> => {
  const response = await fetch('/api/ask', {
    method: 'POST',
    headers: { Authorization: `Bearer ${key}`, 'Content-Type': 'application/json' },
    body: JSON.stringify({ question, args }),
    signal: AbortSignal.timeout(longestAnswerMs),
  });
  const signature = response.headers.get('Fernhop-Server');
  const met = await readMeta((await database()).transaction('meta').store, 'journal');
  if (!response.ok || !met || signature !== signatureOf(met))
    throw new Error(`The server answered ${response.status}.`);
  return response.text();
};

const answers = answersFrom(data);
/** Every question of a screen, answered here, or by the server while this browser cannot. */
const questions = Object.fromEntries(
  Object.entries(answers).map(([name, answer]) => [
    name,
    async (...args: unknown[]): Promise<unknown> => {
      if (server.isAsked)
        try {
          const isNew = !server.isAnswering;
          const found = await server.answer(askServer, name as QueryName, args);
          if (isNew) news();
          return found;
        } catch {
          // The screen hears first that sums cannot be said now.
          await onNews?.();
        }
      // What was asked before is answered before.
      else await server.answered();
      return (answer as (...rest: readonly unknown[]) => unknown)(...args);
    },
  ]),
) as unknown as Answers; // each is asked and answers as before, later

const api = {
  /**
   * Begins; `newsArrived` is called when an answer may have changed, `changed` when the catalogue did, and `emptied` before
   * what is held is let go to be read anew.
   */
  start: async (
    newsArrived: () => Promise<void>,
    changed: (version: number) => void,
    emptied: () => Promise<void>,
  ): Promise<void> => {
    onNews = newsArrived;
    onChange = changed;
    onEmptied = emptied;
    channel.onmessage = async ({ data: message }: MessageEvent<WindowMessage>) => {
      if (typeof message === 'object' && 'failed' in message) {
        asked?.failed(message.failed);
        return;
      }
      if (message === 'whole' || typeof message === 'object') {
        if (!leading) return;
        await carryOut(message).catch((error: unknown) => tell({ failed: wordsOf(error) }));
        return;
      }
      if (message === 'lost') {
        news();
        return;
      }
      if (message === 'again') {
        if (leading) following?.abort();
        return;
      }
      // One after the other: what is read while memory is emptied would be put into it twice.
      await inTurn(message === 'anew' ? loadAnew : loadStored);
      if (message === 'anew') asked?.done();
    };
    await inTurn(loadStored);
    void navigator.locks.request('fernhop-journal', lead);
  },
  /** Holds a lock for as long as this worker lives. */
  hold: (name: string): Promise<void> =>
    new Promise((resolve) => {
      void navigator.locks.request(name, () => {
        resolve();
        return new Promise(() => undefined);
      });
    }),
  setKey: (value: string): void => {
    key = value;
  },
  setRecords: (records: Partial<CatalogueRecords>): void => {
    data.setRecords(records);
    news();
  },
  setRules: (rules: Settings['classification']): void => {
    data.setRules(rules);
    news();
  },
  /** Rolls up the days before a moment, whichever window stores. */
  rollUp: (before: number): Promise<void> => (leading ? rollUpNow(before) : ask({ before })),
  /** Brings back what is kept as counts: all of the journal is fetched anew. */
  fetchWhole: (): Promise<void> => (leading ? fetchWhole() : ask('whole')),
  /**
   * Before which moment requests are kept as counts, and how many they are; a moment of 0 where none are. In turn, as memory
   * rolls up before it is stored, and a window that was told so may be closed at once.
   */
  rolledUp: (): Promise<{ before: number; count: number; rows: number }> =>
    inTurn(() => ({
      before: data.rolledUp.before,
      count: data.rolledUp.counts.reduce((sum, { count }) => sum + count, 0),
      rows: data.journal.columns.rows,
    })),
  /** What the server lost and is kept here: when that was found, and how many requests and postbacks each time. */
  lost: async (): Promise<{ at: number; visits: number; others: number }[]> =>
    (await (await database()).getAll('lost')).map(({ at, records }) => {
      const visits = records.filter(isVisit).length;
      return { at, visits, others: records.length - visits };
    }),
  /** The same as lines of JSON, for a file. */
  lostLines: async (at: number): Promise<string> => {
    const found = await (await database()).get('lost', at);
    return (found?.records ?? []).map((record) => `${JSON.stringify(record)}\n`).join('');
  },
  /** The same in calls to the server, each of at most 1,000 records and about a megabyte. */
  lostCalls: async (at: number): Promise<GivenBackRecord[][]> => {
    const found = await (await database()).get('lost', at);
    const calls: GivenBackRecord[][] = [];
    let bytes = 0;
    for (const record of (found?.records ?? []).filter(isGivenBackKind)) {
      const call = calls.at(-1);
      const size = JSON.stringify(record).length;
      if (!call || call.length >= givenBackPerCall || bytes + size > mostCallBytes) {
        calls.push([record]);
        bytes = size;
      } else {
        call.push(record);
        bytes += size;
      }
    }
    return calls;
  },
  letLostGo: async (at: number): Promise<void> => {
    await (await database()).delete('lost', at);
    news();
    tell('lost');
  },
  /** Every record of the journal that is here, as lines of JSON. */
  allLines: async (): Promise<string> =>
    (await recordsAfter(0)).lost.map((record) => `${JSON.stringify(record)}\n`).join(''),
  /** How many records of the journal are here, and how many the server had when last asked. */
  progress: (): Progress => ({
    held: data.last,
    there: Math.max(there, data.last),
    asksServer: server.isAsked,
    byServer: server.isAnswering,
    isTooLarge: server.isTooLarge,
  }),
  seq: () => data.last,
  most: (): number => most,
  /** How many records this browser is to keep at most; beyond that the server answers. */
  keepAtMost: async (records: number): Promise<void> => {
    most = records;
    await (await database()).put('meta', records, 'most');
    news();
    if (leading) following?.abort();
    else tell('again');
  },
  ...questions,
};

export type JournalWorker = typeof api;

expose(api);
