import { expose } from 'comlink';
import type { Settings } from '#core/catalogue';
import { readNdjson } from '#core/formats';
import type { CatalogueRecords } from '#core/queries';
import { answersFrom, Dataset } from '#core/queries';
import type { JournalRecord } from '#core/visits';
import pLimit from 'p-limit';
import { database } from './database.ts';
import { Segments } from './segments.ts';

/**
 * Keeps the journal's copy of this browser: one window reads the server (Web Locks) and stores what it reads, the
 * others hear of it; each answers its own window's questions from memory.
 */
/** What windows tell each other: that there is more, that all is different, or what the one that stores is to do. */
type WindowMessage = 'more' | 'anew' | 'whole' | { readonly before: number } | { readonly failed: string };

const data = new Dataset();
const segments = new Segments();
const channel = new BroadcastChannel('fernhop-journal');
let key = '';
let onNews: (() => void) | undefined;
let onChange: ((version: number) => void) | undefined;
let soon: ReturnType<typeof setTimeout> | undefined;
/** This window is the one that stores. */
let leading = false;
let following: AbortController | undefined;
const tell = (message: WindowMessage) => channel.postMessage(message);
/** What this window asked of the one that stores, while it is not answered. */
let asked: { readonly done: () => void; readonly failed: (why: string) => void } | undefined;
const mostWaitMs = 60_000;
/** Has the window that stores do something; resolves once all is anew. */
const ask = (what: WindowMessage): Promise<void> =>
  new Promise((resolve, reject) => {
    const late = setTimeout(() => asked?.failed('No other window of this browser answered.'), mostWaitMs);
    const end = () => {
      clearTimeout(late);
      asked = undefined;
    };
    asked = {
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

/** Records that are stored together while many come at once. */
const batchRecords = 10_000;

const news = (): void => {
  soon ??= setTimeout(() => {
    soon = undefined;
    onNews?.();
  }, 60);
};

/** Puts into memory what is stored beyond what memory holds. */
const loadStored = async (): Promise<void> => {
  const db = await database();
  await segments.load(db, data);
  there = Number((await db.get('meta', 'there')) ?? 0);
  news();
};

const store = (records: readonly JournalRecord[]): Promise<void> => inTurn(() => storeNow(records));
const storeNow = async (records: readonly JournalRecord[]): Promise<void> => {
  const fresh = records.filter((record) => record.seq > data.last);
  if (fresh.length === 0) return;
  data.add(fresh);
  await segments.keep(await database(), data, fresh);
  const changes = fresh.flatMap((record) => (record.kind === 'change' ? [record.version] : []));
  if (changes.length > 0) onChange?.(Math.max(...changes));
  news();
  tell('more');
};

/** Yields the records of an answer, in the pieces in which they arrive. */
const readLines = async function* ({ body }: Response): AsyncGenerator<JournalRecord[]> {
  if (body) yield* readNdjson<JournalRecord>(body.pipeThrough(new TextDecoderStream()));
};

const get = async (path: string, signal: AbortSignal): Promise<Response> => {
  const response = await fetch(path, { headers: { Authorization: `Bearer ${key}` }, signal });
  if (!response.ok) throw new Error(`${path} was answered ${response.status}`);
  return response;
};

const forget = (): Promise<void> =>
  inTurn(async () => {
    await segments.clear(await database());
    data.clear();
    tell('anew');
  });

/** Rolls up the days before a moment, in memory and in the database. */
const rollUpNow = (before: number): Promise<void> =>
  inTurn(async () => {
    data.rollUp(before);
    try {
      await segments.replace(await database(), data);
    } catch (error) {
      // What is stored is whole still; memory is to say the same.
      data.clear();
      segments.reset();
      await loadStored();
      throw error;
    }
    tell('anew');
    news();
  });

/** Forgets what is held and fetches all of the server's journal. */
const fetchWhole = async (): Promise<void> => {
  await forget();
  following?.abort();
};

/** What tells one journal from another by its newest record: a request's ID, or the whole record. */
const markOf = (record: JournalRecord): string =>
  record.kind === 'hop' || record.kind === 'beacon'
    ? JSON.stringify([record.seq, record.at, record.click, record.link])
    : JSON.stringify(record);

/** The newest record data, as a mark. */
const lastMark = async (): Promise<string | undefined> => {
  const record = await (await database()).get('journal', data.last);
  if (record) return markOf(record);
  const { columns } = data.journal;
  const visit = columns.rows > 0 ? columns.record(columns.rows - 1) : undefined;
  return visit?.seq === data.last ? markOf(visit) : undefined;
};

/** Follows the server's journal until the connection breaks. */
const follow = async (): Promise<void> => {
  const stop = new AbortController();
  following = stop;
  try {
    const db = await database();
    // The stream is opened first, so that nothing falls between what is fetched and what is streamed.
    const live = await get('/api/live', stop.signal);
    const identity = live.headers.get('Fernhop-Journal') ?? '';
    there = Number(live.headers.get('Fernhop-Seq') ?? 0);
    const mark = await lastMark();
    if ((await db.get('meta', 'journal')) !== identity) await forget();
    await db.put('meta', identity, 'journal');
    // Half a journal is known to be half of one also while the server is away, and in another window.
    await db.put('meta', there, 'there');

    let first = true;
    let batch: JournalRecord[] = [];
    for await (const records of readLines(
      await get(`/api/journal?after=${Math.max(0, data.last - 1)}`, stop.signal),
    )) {
      const [newest] = records;
      if (first && mark !== undefined && data.last > 0 && newest && markOf(newest) !== mark) {
        // The same journal tells another story of the last record held here: what is held is worth nothing.
        await forget();
        throw new Error('the journal was replaced');
      }
      first = false;
      batch = batch.concat(records);
      if (batch.length >= batchRecords) {
        await store(batch);
        batch = [];
      }
    }
    await store(batch);
    if (first && data.last > 0) {
      await forget();
      throw new Error('the journal is shorter than what is held here');
    }
    for await (const records of readLines(live)) {
      if ((records[0]?.seq ?? 0) > data.last + 1) throw new Error('the stream left something out');
      await store(records);
    }
  } finally {
    stop.abort();
  }
};

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

const lead = async (): Promise<never> => {
  leading = true;
  await loadStored();
  for (;;) {
    if (key !== '') await follow().catch(() => undefined);
    await pause(1000);
  }
};

const api = {
  /** Begins; `newsArrived` is called when an answer may have changed, `changed` when the catalogue did. */
  start: async (newsArrived: () => void, changed: (version: number) => void): Promise<void> => {
    onNews = newsArrived;
    onChange = changed;
    channel.onmessage = async ({ data: message }: MessageEvent<WindowMessage>) => {
      if (typeof message === 'object' && 'failed' in message) {
        asked?.failed(message.failed);
        return;
      }
      if (message === 'whole' || typeof message === 'object') {
        if (!leading) return;
        const work = message === 'whole' ? fetchWhole() : rollUpNow(message.before);
        await work.catch((error: unknown) =>
          tell({ failed: error instanceof Error ? error.message : String(error) }),
        );
        return;
      }
      if (message === 'anew') {
        data.clear();
        segments.reset();
      }
      await loadStored();
      if (message === 'anew') asked?.done();
    };
    await loadStored();
    void navigator.locks.request('fernhop-journal', lead);
  },
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
  /** Before which moment requests are kept as counts, and how many they are; a moment of 0 where none are. */
  rolledUp: (): { before: number; count: number; rows: number } => ({
    before: data.rolledUp.before,
    count: data.rolledUp.counts.reduce((sum, { count }) => sum + count, 0),
    rows: data.journal.columns.rows,
  }),
  /** How many records of the journal are here, and how many the server had when last asked. */
  progress: (): { held: number; there: number } => ({ held: data.last, there: Math.max(there, data.last) }),
  seq: () => data.last,
  ...answersFrom(data),
};

export type JournalWorker = typeof api;

expose(api);
