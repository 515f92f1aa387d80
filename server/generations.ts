import { join } from 'node:path';
import type { Generation } from '#core/catalogue';
import { readIfThere, replaceFile } from './dataDir.ts';

/** How many are kept; a browser that knows none of them compares everything. */
const most = 500;

/** The generations a file tells of; a line that cannot be read ends them. */
const readGenerations = (text: string): Generation[] => {
  const found: Generation[] = [];
  for (const line of text.split('\n').filter((written) => written !== ''))
    try {
      const generation: Generation = JSON.parse(line); // written below
      found.push(generation);
    } catch {
      break;
    }
  return found;
};

/**
 * Begins a generation of a data folder: one with every start of a server on it. Where the disk does not take it, it counts
 * while this server runs.
 *
 * @returns all of them, the new one last
 */
export const beginGeneration = async (
  folder: string,
  generation: Generation,
  log: (message: string, detail: object) => void,
): Promise<readonly Generation[]> => {
  const path = join(folder, 'generations.ndjson');
  const generations = [...readGenerations(readIfThere(path) ?? ''), generation].slice(-most);
  try {
    await replaceFile(path, generations.map((each) => `${JSON.stringify(each)}\n`).join(''));
  } catch (error) {
    log('the generation could not be written', { error: String(error) });
  }
  return generations;
};
