import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { dataFormat, dataFormatOf, dataFormatProblem } from './dataDir.ts';
import { makeBackup } from './rescue/index.ts';

/**
 * Makes sure that a folder is in this server's format: marks a new one with it, and brings an older one to it, after a backup
 * of it was made in its folder `backups`. Files of the journal are never rewritten.
 *
 * Format 4 (from 3): a network may say how its postbacks write amounts, currencies and transactions, and when it pays; a closed
 * month keeps its whole balance, a payment what it is for, a decision what was answered. An older program refuses it.
 * Format 3 (from 2): the journal has a chain of seals, begun when it is opened; an older program would not go on with it.
 *
 * @throws Error with one line that says what to do, where it is in a format that is not read here, or no backup can be made
 */
export const bringToFormat = async (
  folder: string,
  { now, log }: { readonly now: () => number; readonly log: (message: string, detail: object) => void },
): Promise<void> => {
  const problem = dataFormatProblem(folder);
  if (problem !== undefined) throw new Error(problem);
  const format = dataFormatOf(folder);
  if (format !== undefined && format < dataFormat) {
    const to = join(folder, 'backups', `before-format-${dataFormat}.tar.gz`);
    mkdirSync(join(folder, 'backups'), { recursive: true, mode: 0o700 });
    // Mail addresses stay where they can be erased.
    await makeBackup({ data: folder, to, mailAddresses: false, now: now() });
    log('the data folder was brought to a newer format', { from: format, to: dataFormat, backup: to });
  }
  writeFileSync(join(folder, 'format'), `${dataFormat}\n`, { mode: 0o600 });
};
