import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import pLimit from 'p-limit';
import type { PageFacts } from '#core/link-parts';
import { workerLimits } from './limits.ts';
import type { ReadPage } from './trace.ts';

/** A page to read, and what of it is wanted. */
export interface PageToRead {
  readonly html: string;
  /** Its address. */
  readonly base: string;
  readonly what: 'facts' | 'addresses';
}
/** Reads pages; each gives undefined for one that could not be worked through. */
export interface PageReader {
  readonly facts: ReadPage;
  /** The addresses of its links. */
  readonly addresses: (html: string, base: string) => Promise<readonly string[] | undefined>;
}

const begin = async (file: string): Promise<Worker> => {
  const worker = new Worker(file, { resourceLimits: workerLimits });
  // Its first word says that it has loaded what it reads with: on a busy machine that takes longer than a page may.
  await Promise.race([once(worker, 'message'), once(worker, 'exit')]);
  return worker;
};

/**
 * Reads pages in a worker of their own, one at a time: a page that takes longer than `mostMs` to read, or more memory than
 * there is for it, ends that worker and gives undefined, and the next page is read by a new one.
 */
export const makeReader = (file: string, mostMs: number): PageReader => {
  let worker: Worker | undefined;
  const inTurn = pLimit(1);

  // What comes back is what was asked for.
  const readNow = async <T>(page: PageToRead): Promise<T | undefined> => {
    const reader = (worker ??= await begin(file));
    return new Promise((resolve) => {
      const settle = (facts: T | undefined) => {
        clearTimeout(late);
        reader.off('message', settle);
        reader.off('error', giveUp);
        reader.off('exit', giveUp);
        resolve(facts);
      };
      const giveUp = () => {
        worker = undefined;
        settle(undefined);
        reader.on('error', () => undefined);
        void reader.terminate();
      };
      const late = setTimeout(giveUp, mostMs);
      reader.on('message', settle);
      reader.on('error', giveUp);
      reader.on('exit', giveUp);
      reader.postMessage(page);
    });
  };

  const read = <T>(page: PageToRead) => inTurn(() => readNow<T>(page)).catch(() => undefined);
  return {
    facts: (html, base) => read<PageFacts>({ html, base, what: 'facts' }),
    addresses: (html, base) => read<readonly string[]>({ html, base, what: 'addresses' }),
  };
};
