import { strToU8, zipSync } from 'fflate';
import { writeTable } from '#core/formats';
import type { ClaimLine } from '#core/reconcile';
import type { ClaimHead } from './claimPage.ts';
import { claimLetter, claimPage } from './claimPage.ts';
import { claimColumns } from './claimRows.ts';

/**
 * A claim as a zip: a covering letter, the claim as a page, its rows with columns to answer in, what each column holds, and the
 * evidence for each row as it came.
 */
export const claimFile = (head: ClaimHead, lines: readonly ClaimLine[]): Uint8Array<ArrayBuffer> => {
  const columns = claimColumns(head.zone);
  const evidence = Object.fromEntries(
    lines.map((line, i) => [
      `evidence/${String(i + 1).padStart(4, '0')}-${(line.txn || line.ref).replace(/[^A-Za-z0-9_-]/g, '_').slice(0, 60)}.json`,
      strToU8(`${JSON.stringify(line, undefined, 2)}\n`),
    ]),
  );
  const zip = zipSync({
    'letter.txt': strToU8(claimLetter(head, lines)),
    'claim.html': strToU8(claimPage(head, lines)),
    'rows.csv': strToU8(
      writeTable(
        columns.map(({ name }) => name),
        lines.map((line) => columns.map(({ of }) => of(line))),
      ),
    ),
    'columns.csv': strToU8(
      writeTable(
        ['column', 'what it holds', 'unit'],
        columns.map(({ name, means, unit }) => [name, means, unit]),
      ),
    ),
    ...evidence,
  });
  return new Uint8Array(zip);
};
