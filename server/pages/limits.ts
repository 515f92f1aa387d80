import type { ResourceLimits } from 'node:worker_threads';

/** How long a worker may compute without answering, in milliseconds. */
export const silentMs = 2000;

/** Memory of a worker; one that needs more ends, and nothing else does. */
export const workerLimits: ResourceLimits = {
  maxOldGenerationSizeMb: 128,
  maxYoungGenerationSizeMb: 32,
  stackSizeMb: 4,
};
