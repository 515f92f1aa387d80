import { join } from 'node:path';
import { parentPort, workerData } from 'node:worker_threads';
import { readJournalFiles } from '../dataFolder.ts';
import { readRemovals } from '../journal/index.ts';
import { madeParts, makeParts } from './columnFiles.ts';

const { dataDir, of } = workerData as { dataDir: string; of: string }; // given by columns.ts
const journal = join(dataDir, 'journal');
const after = madeParts(dataDir, of).at(-1)?.last ?? 0;
const records = readJournalFiles(journal, await readRemovals(journal), after);
parentPort?.postMessage(await makeParts(dataDir, of, records));
