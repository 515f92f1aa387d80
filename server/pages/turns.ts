/** Most requests that one host gets at the same time. */
const most = 2;

const waiting = new Map<string, (() => void)[]>();
const running = new Map<string, number>();

const letGo = (host: string): void => {
  const next = waiting.get(host)?.shift();
  // The place is handed on, or given back.
  if (next) {
    next();
    return;
  }
  const left = (running.get(host) ?? 1) - 1;
  if (left > 0) running.set(host, left);
  else {
    running.delete(host);
    waiting.delete(host);
  }
};

/**
 * Does work that asks a host once fewer than two others are asking it.
 *
 * @throws the signal's reason where it stops while the turn is waited for
 */
export const inTurn = async <T>(host: string, signal: AbortSignal, work: () => Promise<T>): Promise<T> => {
  signal.throwIfAborted();
  const now = running.get(host) ?? 0;
  if (now >= most)
    await new Promise<void>((resolve, reject) => {
      const queue = waiting.get(host) ?? [];
      const turn = () => {
        signal.removeEventListener('abort', leave);
        resolve();
      };
      const leave = () => {
        queue.splice(queue.indexOf(turn), 1);
        reject(signal.reason instanceof Error ? signal.reason : new Error('It was stopped.'));
      };
      signal.addEventListener('abort', leave, { once: true });
      queue.push(turn);
      waiting.set(host, queue);
    });
  else running.set(host, now + 1);
  try {
    return await work();
  } finally {
    letGo(host);
  }
};
