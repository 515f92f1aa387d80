/** What a row is put in order by; rows that give nothing come last. */
export type OrderKey = string | number | undefined;

/** How rows are put in order. */
export interface Order<Row> {
  readonly key: (row: Row) => OrderKey;
  /** Rows that cannot be compared, such as amounts of two currencies, are in bands; the bands stay in order. */
  readonly band?: (row: Row) => string;
}

const collator = new Intl.Collator(undefined, { numeric: true });
const compare = (a: string | number, b: string | number): number =>
  typeof a === 'number' && typeof b === 'number' ? a - b : collator.compare(String(a), String(b));

/**
 * Rows in the order of their keys, band after band; those without a key last, equal ones as they were.
 *
 * @param down the largest come first
 */
export const inOrder = <Row>(rows: readonly Row[], { key, band }: Order<Row>, down: boolean): Row[] => {
  const keyed = rows.map((row) => ({ row, key: key(row), band: band?.(row) ?? '' })); // without bands all are in one
  const sign = down ? -1 : 1;
  return keyed
    .toSorted((a, b) =>
      a.key === undefined || b.key === undefined
        ? Number(a.key === undefined) - Number(b.key === undefined)
        : compare(a.band, b.band) || sign * compare(a.key, b.key),
    )
    .map(({ row }) => row);
};
