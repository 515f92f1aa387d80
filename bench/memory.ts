import { writeSync } from 'node:fs';

// Loaded before a server: on a signal it collects garbage and says how many bytes are held, on and off the heap.
process.on('SIGUSR2', () => {
  globalThis.gc?.();
  const { heapUsed, external } = process.memoryUsage();
  writeSync(1, `held=${heapUsed + external}\n`);
});
