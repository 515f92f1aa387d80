import { readFileSync } from 'node:fs';

/** Processor time other machines of the same host took away, and all there was, in ticks. */
const stolen = (): { steal: number; all: number } => {
  const ticks = (readFileSync('/proc/stat', 'utf8').split('\n')[0] ?? '')
    .trim()
    .split(/\s+/)
    .slice(1, 9)
    .map(Number);
  return { steal: ticks[7] ?? 0, all: ticks.reduce((sum, n) => sum + n, 0) };
};

const mostStolen = 0.05;
const mostDoubt = 0.1;
const mostTries = 5;
let count = 0;

/** How many measurements were made while the host was busy all the same. */
export const disturbed = (): number => count;

/** What was measured, and whether anything disturbed it. */
export interface Undisturbed<T> {
  readonly value: T;
  readonly clean: boolean;
}

/**
 * Measures again, up to five times, while more than a twentieth of the processor was taken away or what was measured
 * is uncertain by more than a tenth, and gives the least disturbed; how many were disturbed all the same is counted.
 *
 * @param doubt what share of it is uncertain: by what the same thing, measured twice within, differed, say
 */
export const undisturbed = async <T>(
  measure: () => Promise<T>,
  doubt: (value: T) => number = () => 0,
): Promise<Undisturbed<T>> => {
  let best: { readonly value: T; readonly trouble: number } | undefined;
  for (let attempt = 1; attempt <= mostTries; attempt++) {
    const before = stolen();
    const value = await measure();
    const after = stolen();
    const share = (after.steal - before.steal) / Math.max(1, after.all - before.all);
    const trouble = Math.max(share / mostStolen, doubt(value) / mostDoubt);
    if (!best || trouble < best.trouble) best = { value, trouble };
    if (trouble <= 1) return { value, clean: true };
  }
  count += 1;
  if (!best) throw new Error('measured at least once');
  return { value: best.value, clean: false };
};
