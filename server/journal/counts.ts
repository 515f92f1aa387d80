import { join } from 'node:path';
import type { DailyCount } from '#core/visits';
import { mergeCounts } from '#core/visits';
import type { Removal } from './chain.ts';
import { chainName, contentIfThere, readChain } from './chain.ts';

/** What was removed by choice from a journal, oldest first. */
export const readRemovals = async (folder: string): Promise<Removal[]> =>
  readChain(await contentIfThere(join(folder, chainName))).lines.flatMap(({ line }) =>
    line?.kind === 'removed' ? [line] : [],
  );

/**
 * The daily counts of requests that were removed by choice. Where their file was damaged, what can be read of it; the journal
 * tells of the damage.
 */
export const readCounts = async (folder: string, removals: readonly Removal[]): Promise<DailyCount[]> => {
  const lists: DailyCount[][] = [];
  for (const { counts } of removals) {
    const text = (await contentIfThere(join(folder, counts.file))).toString('utf8');
    lists.push(
      text.split('\n').flatMap((line): DailyCount[] => {
        try {
          const count: DailyCount = JSON.parse(line); // written by whoever removed the requests
          return [count];
        } catch {
          return [];
        }
      }),
    );
  }
  return mergeCounts(lists);
};
