import { parentPort, workerData } from 'node:worker_threads';
import type { ToRemove } from './excerpt.ts';
import { writeExcerpt } from './excerpt.ts';

const { dataDir, remove } = workerData as { dataDir: string; remove: ToRemove }; // given by keeping.ts
parentPort?.postMessage(await writeExcerpt(dataDir, remove));
