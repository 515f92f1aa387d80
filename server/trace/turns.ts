/** Most requests of the tracer that one host gets at the same time. */
const most = 2;

const waiting = new Map<string, (() => void)[]>();
const running = new Map<string, number>();

/** Does work that asks a host once fewer than two others are asking it. */
export const inTurn = async <T>(host: string, work: () => Promise<T>): Promise<T> => {
  const now = running.get(host) ?? 0;
  if (now >= most)
    await new Promise<void>((resolve) => {
      const queue = waiting.get(host) ?? [];
      queue.push(resolve);
      waiting.set(host, queue);
    });
  else running.set(host, now + 1);
  try {
    return await work();
  } finally {
    const next = waiting.get(host)?.shift();
    // The place is handed on, or given back.
    if (next) next();
    else {
      const left = (running.get(host) ?? 1) - 1;
      if (left > 0) running.set(host, left);
      else {
        running.delete(host);
        waiting.delete(host);
      }
    }
  }
};
