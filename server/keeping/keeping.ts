import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import type { Journal } from '../journal/index.ts';
import type { Excerpt, ToRemove } from './excerpt.ts';

/** How soon after the start it is first looked, and how often after that, in milliseconds. */
const firstMs = 2000;
const lookMs = 60 * 60_000;

/** The first day of the month that is so many months before a moment's, as the moment of its midnight in UTC. */
export const firstKept = (now: number, months: number): number => {
  const date = new Date(now);
  return Date.UTC(date.getUTCFullYear(), date.getUTCMonth() - months, 1);
};

const inWorker = async (dataDir: string, remove: ToRemove): Promise<Excerpt> => {
  const worker = new Worker(builtFile('excerpt.js'), { workerData: { dataDir, remove } });
  const [excerpt] = (await once(worker, 'message')) as [Excerpt]; // an error of the worker rejects this
  await worker.terminate();
  return excerpt;
};

export interface KeepingParts {
  readonly dataDir: string;
  readonly journal: Journal;
  /** How many months of requests are kept; undefined keeps all. */
  readonly months: () => number | undefined;
  readonly now: () => number;
  readonly log: (message: string, detail: object) => void;
  /** Writes what stays of files; in a thread of its own unless a test says otherwise. */
  readonly excerpt?: (dataDir: string, remove: ToRemove) => Promise<Excerpt>;
}

/**
 * Removes the journal's files of months that the person no longer keeps, whole and sealed ones only, after what stays of them
 * was written down.
 *
 * @returns how many went
 */
export const removeOld = async (parts: KeepingParts): Promise<number> => {
  const { dataDir, journal, months, now, log, excerpt = inWorker } = parts;
  const kept = months();
  if (kept === undefined) return 0;
  const before = firstKept(now(), kept);
  const old = journal.sealedBefore(new Date(before).toISOString().slice(0, 10));
  if (!old) return 0;
  const remove: ToRemove = { ...old, before };
  await journal.remove({ ...remove, ...(await excerpt(dataDir, remove)) });
  log('files of the journal were removed by choice', { files: remove.files.length, last: remove.last });
  return remove.files.length;
};

/** Looks every hour whether files are to go; gives the function that ends it. */
export const startKeeping = (parts: KeepingParts): (() => void) => {
  let isOver = false;
  let timer: NodeJS.Timeout;
  const look = () => {
    removeOld(parts)
      .catch((error: unknown) => parts.log('old files could not be removed', { error: String(error) }))
      .finally(() => {
        if (!isOver) wait(lookMs);
      });
  };
  const wait = (ms: number) => {
    timer = setTimeout(look, ms);
    timer.unref();
  };
  wait(firstMs);
  return () => {
    isOver = true;
    clearTimeout(timer);
  };
};
