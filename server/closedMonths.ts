import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { isIntact } from '#core/reconcile';
import type { StoredCatalogue } from './dataFolder.ts';
import { catalogueOf } from './dataFolder.ts';
import { chainName, readChain } from './journal/index.ts';

/** What came of checking the closed months of a data folder. */
export interface MonthsVerification {
  /** How many there are. */
  readonly months: number;
  /** What is wrong, each as a sentence. */
  readonly problems: readonly string[];
  /** What is worth knowing and no fault. */
  readonly notes: readonly string[];
}

/**
 * Checks every closed month of a data folder: its figures by their checksum, and that the journal still has the seal they
 * rest on. It changes nothing, and a server may be running on it.
 */
export const verifyMonths = async (folder: string): Promise<MonthsVerification> => {
  if (!existsSync(join(folder, 'changes.ndjson'))) return { months: 0, problems: [], notes: [] };
  let catalogue: StoredCatalogue;
  try {
    catalogue = catalogueOf(folder);
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    const problem = `changes.ndjson holds a line that is no change, so it was damaged and no closed month could be checked: ${error.message}`;
    return { months: 0, problems: [problem], notes: [] };
  }
  const names = new Map(catalogue.all('network').map(({ id, name }) => [id, name]));
  const path = join(folder, 'journal', chainName);
  const { lines } = readChain(existsSync(path) ? await readFile(path) : Buffer.alloc(0));
  const seals = new Set(lines.map(({ hash }) => hash));
  const restored = lines.flatMap(({ line }) => (line?.kind === 'restored' ? [line] : []));
  const problems: string[] = [];
  const notes: string[] = [];
  const months = catalogue.all('month');
  for (const month of months) {
    const what = `The month ${month.month} with ${names.get(month.network) ?? month.network}`;
    if (!(await isIntact(month)))
      problems.push(`${what}: its figures do not fit their checksum, so somebody altered them.`);
    const { seal } = month;
    if (!seal || seals.has(seal.hash)) continue;
    // What was sealed after a backup was made is not in the folder that was put back from it.
    const lost = restored.find(({ from, at }) => from < seal.at && seal.at < at);
    if (lost)
      notes.push(
        `${what}: the seal it rests on came after the backup that was put back on ${new Date(lost.at).toISOString()}.`,
      );
    else
      problems.push(
        `${what}: the seal it rests on (${seal.hash.slice(0, 16)}, up to record ${seal.seq}) is not in the chain, so the journal is not the one it was closed by.`,
      );
  }
  return { months: months.length, problems, notes };
};
