import { readFileSync } from 'node:fs';

/** Milliseconds this process's main thread has computed so far, by the kernel's count (proc(5), schedstat). */
const computedMs = (): number =>
  Number(readFileSync(`/proc/self/task/${process.pid}/schedstat`, 'utf8').split(' ')[0]) / 1e6;

/**
 * Milliseconds the host of a virtual machine has kept from each of its processors (proc(5), stat, "steal", in hundredths
 * of a second). The kernel counts them as computed by whatever thread stood there.
 */
const stolenMs = (): number[] =>
  readFileSync('/proc/stat', 'utf8')
    .split('\n')
    .filter((line) => /^cpu\d/.test(line))
    .map((line) => Number(line.split(' ')[8]) * 10);

/**
 * Watches how long this process's event loop is blocked at a time by computing of its own. Time in which the machine, or
 * its host, ran something else does not count, so a busy host fails no test.
 */
export const watchEventLoop = (): { worstMs(): number } => {
  const look = () => ({ wall: performance.now(), computed: computedMs(), stolen: stolenMs() });
  let worst = 0;
  let last = look();
  const timer = setInterval(() => {
    const now = look();
    const stolen = Math.max(...now.stolen.map((ms, processor) => ms - (last.stolen[processor] ?? ms)));
    worst = Math.max(worst, Math.min(now.wall - last.wall, now.computed - last.computed) - stolen);
    last = now;
  }, 2);
  return {
    worstMs: () => {
      clearInterval(timer);
      return worst;
    },
  };
};
