import { expose } from 'comlink';
import type { Network } from '#core/catalogue';
import type { JournalRecord } from '#core/visits';
import { database } from './database.ts';
import { makeVisitRecords } from './visitRecords.ts';

/**
 * Keeps the journal's copy of this browser: one window reads the server (Web Locks) and stores what it reads, the
 * others hear of it; each answers its own window's questions from memory.
 */
const held = makeVisitRecords();
const channel = new BroadcastChannel('fernhop-journal');
let key = '';
let onNews: (() => void) | undefined;
let onChange: ((edition: number) => void) | undefined;
let soon: ReturnType<typeof setTimeout> | undefined;

const pageRecords = 5000;

const news = (): void => {
  soon ??= setTimeout(() => {
    soon = undefined;
    onNews?.();
  }, 60);
};

const take = (records: readonly JournalRecord[]): void => {
  held.add(records);
  const changes = records.flatMap((record) => (record.kind === 'change' ? [record.edition] : []));
  if (changes.length > 0) onChange?.(Math.max(...changes));
  news();
};

/** Puts into memory what is stored beyond what memory holds. */
const loadStored = async (): Promise<void> => {
  const db = await database();
  for (;;) {
    const records = await db.getAll('journal', IDBKeyRange.lowerBound(held.last(), true), pageRecords);
    if (records.length === 0) return;
    take(records);
  }
};

const store = async (records: readonly JournalRecord[]): Promise<void> => {
  const fresh = records.filter((record) => record.seq > held.last());
  if (fresh.length === 0) return;
  const tx = (await database()).transaction('journal', 'readwrite');
  for (const record of fresh) await tx.store.put(record);
  await tx.done;
  take(fresh);
  channel.postMessage('more');
};

/** Yields the whole lines of an NDJSON answer as records, in the pieces in which they arrive. */
const readLines = async function* (response: Response): AsyncGenerator<JournalRecord[]> {
  if (!response.body) return;
  let rest = '';
  for await (const text of response.body.pipeThrough(new TextDecoderStream())) {
    const lines = (rest + text).split('\n');
    rest = lines.pop() ?? '';
    const records = lines.filter(Boolean).map((line): JournalRecord => JSON.parse(line));
    if (records.length > 0) yield records;
  }
};

const get = async (path: string, signal: AbortSignal): Promise<Response> => {
  const response = await fetch(path, { headers: { Authorization: `Bearer ${key}` }, signal });
  if (!response.ok) throw new Error(`${path} was answered ${response.status}`);
  return response;
};

const forget = async (): Promise<void> => {
  await (await database()).clear('journal');
  held.clear();
  channel.postMessage('anew');
};

/** Follows the server's journal until the connection breaks. */
const follow = async (): Promise<void> => {
  const stop = new AbortController();
  try {
    const db = await database();
    // The stream is opened first, so that nothing falls between what is fetched and what is streamed.
    const live = await get('/api/live', stop.signal);
    const identity = live.headers.get('Fernhop-Journal') ?? '';
    const last = await db.get('journal', held.last());
    if ((await db.get('meta', 'journal')) !== identity) await forget();
    await db.put('meta', identity, 'journal');

    let first = true;
    for await (const records of readLines(
      await get(`/api/journal?after=${Math.max(0, held.last() - 1)}`, stop.signal),
    )) {
      if (first && last && held.last() > 0 && JSON.stringify(records[0]) !== JSON.stringify(last)) {
        // The same journal tells another story of the last record held here: what is held is worth nothing.
        await forget();
        throw new Error('the journal was replaced');
      }
      first = false;
      await store(records);
    }
    if (first && held.last() > 0) {
      await forget();
      throw new Error('the journal is shorter than what is held here');
    }
    for await (const records of readLines(live)) {
      if ((records[0]?.seq ?? 0) > held.last() + 1) throw new Error('the stream left something out');
      await store(records);
    }
  } finally {
    stop.abort();
  }
};

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

const lead = async (): Promise<never> => {
  await loadStored();
  for (;;) {
    if (key !== '') await follow().catch(() => undefined);
    await pause(1000);
  }
};

const api = {
  /** Begins; `newsArrived` is called when an answer may have changed, `changed` when the catalogue did. */
  start: async (newsArrived: () => void, changed: (edition: number) => void): Promise<void> => {
    onNews = newsArrived;
    onChange = changed;
    channel.onmessage = async ({ data }: MessageEvent<string>) => {
      if (data === 'anew') held.clear();
      await loadStored();
    };
    await loadStored();
    void navigator.locks.request('fernhop-journal', lead);
  },
  setKey: (value: string): void => {
    key = value;
  },
  setNetworks: (networks: readonly Network[]): void => {
    held.setNetworks(networks);
    news();
  },
  figures: held.figures,
  history: held.history,
  recent: held.recent,
  samples: held.samples,
  step: held.step,
  use: held.use,
  journey: held.journey,
  postbacksOf: held.postbacksOf,
  lastPostbacks: held.lastPostbacks,
  clickOfTransaction: held.clickOfTransaction,
  tape: held.tape,
  traces: held.traces,
  seq: held.last,
};

export type JournalWorker = typeof api;

expose(api);
