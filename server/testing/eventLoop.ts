import { readFileSync } from 'node:fs';

/** Milliseconds this process's main thread has computed so far, by the kernel's count (proc(5), schedstat). */
const computedMs = (): number =>
  Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'utf8').split(' ')[0]) / 1e6;

/**
 * Watches how long this process's event loop is blocked at a time by computing of its own. Time in which the machine ran
 * something else does not count, so a busy host fails no test.
 */
export const watchEventLoop = (): { worstMs(): number } => {
  let worst = 0;
  let last = { wall: performance.now(), computed: computedMs() };
  const timer = setInterval(() => {
    const now = { wall: performance.now(), computed: computedMs() };
    worst = Math.max(worst, Math.min(now.wall - last.wall, now.computed - last.computed));
    last = now;
  }, 2);
  return {
    worstMs: () => {
      clearInterval(timer);
      return worst;
    },
  };
};
