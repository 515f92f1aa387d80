import type { Minor } from '#core/values';
import { currencyIn, inferDecimal, readReportAmount } from '#core/values';
import type { Reported } from './reported.ts';

/** Fewer sales that an earlier report has too prove nothing, and amounts that are all alike neither. */
const enough = 3;
/** As many are looked at. */
const most = 2000;
/** So many of them have to have the same amount: some are corrected later. */
const nearlyAll = 0.8;

/** Amounts by transaction, of the sales that a network's earlier reports have; what was said of one several times is left out. */
export const amountsOf = (rows: Iterable<Reported>, network: string): Map<string, Minor> => {
  const found = new Map<string, Minor>();
  const unsure = new Set<string>();
  for (const { network: whose, txn, amount, refundOf } of rows) {
    if (whose !== network || txn === '' || amount === null || refundOf !== undefined) continue;
    if (found.has(txn)) unsure.add(txn);
    found.set(txn, amount);
  }
  for (const txn of unsure) found.delete(txn);
  return found;
};

/**
 * Columns, by their place, whose cells are the commissions that earlier reports of the network have for the same sales; undefined
 * where too few sales are known to tell.
 *
 * @param txn place of the column of transactions
 * @param usual the sign before decimals where a column leaves it open
 */
export const columnsAsBefore = (
  rows: readonly (readonly string[])[],
  width: number,
  txn: number,
  earlier: ReadonlyMap<string, Minor>,
  usual: '.' | ',',
  currency: string,
): ReadonlySet<number> | undefined => {
  if (earlier.size < enough) return undefined;
  const times = new Map<string, number>();
  for (const row of rows) {
    const id = row[txn]?.trim() ?? '';
    if (earlier.has(id)) times.set(id, (times.get(id) ?? 0) + 1);
  }
  // An order with several rows is known by their sum, which none of them has.
  const known = rows.filter((row) => times.get(row[txn]?.trim() ?? '') === 1).slice(0, most);
  const amounts = known.map((row) => earlier.get(row[txn]?.trim() ?? ''));
  if (new Set(amounts).size < enough) return undefined;
  const fitting = new Set<number>();
  for (let column = 0; column < width; column++) {
    if (column === txn) continue;
    const cells = known.map((row) => row[column] ?? '');
    const decimal = inferDecimal(cells) ?? usual;
    const same = cells.filter(
      (cell, i) =>
        cell.trim() !== '' &&
        readReportAmount(cell, decimal, currencyIn(cell, currency) ?? currency) === amounts[i],
    ).length;
    if (same >= cells.length * nearlyAll) fitting.add(column);
  }
  return fitting;
};
