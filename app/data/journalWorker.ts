import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import type { JournalWorker } from './journal.worker.ts';
import { newChangeId } from './random.ts';

/** The worker ended while it was asked something. It is started again, and then asked anew. */
export class WorkerGone extends Error {}

const pauseMs = 1000;
let onGone: (() => void) | undefined;
let onStarted: (() => void) | undefined;

/** A worker, and a promise that rejects when it ends. */
const startWorker = (): { readonly remote: Remote<JournalWorker>; readonly ended: Promise<never> } => {
  const worker = new Worker(new URL('./journal.worker.ts', import.meta.url), { type: 'module' });
  const remote = wrap<JournalWorker>(worker);
  const ended = new Promise<never>((_, reject) => {
    const gone = () => reject(new WorkerGone('The worker ended.'));
    let isHeld = false;
    // Before it holds its lock an error means that it could not be loaded; later ones are not its end.
    worker.addEventListener('error', () => isHeld || gone());
    // A worker that ends says nothing, but the browser lets go what it held.
    if ('locks' in navigator) {
      const name = `fernhop-worker-${newChangeId()}`;
      void remote.hold(name).then(() => {
        isHeld = true;
        return navigator.locks.request(name, gone);
      });
    }
  });
  ended.catch(() => {
    worker.terminate();
    onGone?.();
    setTimeout(() => {
      current = startWorker();
      onStarted?.();
    }, pauseMs);
  });
  return { remote, ended };
};

let current = startWorker();

/** Has the end of the worker, and its new start, told: then it knows nothing and is to be told everything. */
export const watchWorker = (gone: () => void, started: () => void): void => {
  onGone = gone;
  onStarted = started;
};

/**
 * The worker that keeps the journal. A call of a worker that ends rejects with `WorkerGone`. It stands outside the store,
 * which would look into it and never come back.
 */
export const journalWorker = new Proxy({} as Remote<JournalWorker>, {
  get:
    (_target, name: keyof JournalWorker) =>
    (...asked: readonly unknown[]) => {
      const { remote, ended } = current;
      const call = remote[name] as (...args: readonly unknown[]) => Promise<unknown>; // every one of them is a call
      return Promise.race([call(...asked), ended]);
    },
});
