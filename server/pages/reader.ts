import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import pLimit from 'p-limit';
import type { PageFacts } from '#core/link-parts';
import { workerLimits } from './limits.ts';
import type { ReadPage } from './trace.ts';

const begin = async (file: string): Promise<Worker> => {
  const worker = new Worker(file, { resourceLimits: workerLimits });
  await once(worker, 'online');
  return worker;
};

/**
 * Reads pages in a worker of their own, one at a time: a page that takes longer than `mostMs` to read, or more memory than
 * there is for it, ends that worker and gives undefined, and the next page is read by a new one.
 */
export const makeReader = (file: string, mostMs: number): ReadPage => {
  let worker: Worker | undefined;
  const inTurn = pLimit(1);

  const readNow = async (html: string, base: string): Promise<PageFacts | undefined> => {
    const reader = (worker ??= await begin(file));
    return new Promise((resolve) => {
      const settle = (facts: PageFacts | undefined) => {
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
      reader.postMessage({ html, base });
    });
  };

  return (html, base) => inTurn(() => readNow(html, base)).catch(() => undefined);
};
