import { defineStore } from 'pinia';
import { shallowReactive } from 'vue';
import type { TraceResult } from '#core/anatomy';
import { database } from './database.ts';

/** What the last trace of each link came to, kept in this browser. */
export const useTraces = defineStore('traces', () => {
  const results = shallowReactive(new Map<string, TraceResult>());

  /** Reads the result of a link, where there is one. */
  const load = async (link: string): Promise<void> => {
    const found = await (await database()).get('traces', link);
    if (found) results.set(link, found);
  };
  const keep = async (link: string, result: TraceResult): Promise<void> => {
    results.set(link, result);
    await (await database()).put('traces', result, link);
  };
  return { keep, load, results };
});
