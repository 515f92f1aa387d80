import { parentPort, workerData } from 'node:worker_threads';
import { placeScripts } from './placeScript.ts';

const { dataDir, port, now } = workerData as { dataDir: string; port: number; now: number }; // given by scripts.ts
parentPort?.postMessage(placeScripts(dataDir, port, now));
