import { computed } from 'vue';
import type { TableLook } from '#core/catalogue';
import { useCatalogue } from './catalogue.ts';

/** What a column of a table gives to be sorted by; where it gives nothing, the row comes last. */
export type SortKey = string | number | undefined;

/** A column that can be shown, and sorted by where it gives a key. */
export interface Column<Row> {
  readonly name: string;
  readonly title: string;
  /** What it shows, where the title does not say it all. */
  readonly hint?: string;
  readonly key?: (row: Row) => SortKey;
  /** Rows that cannot be compared with each other, such as amounts of two currencies, are in bands; these stay in order. */
  readonly band?: (row: Row) => string;
  /** Sorted by it for the first time, the largest come first. */
  readonly downFirst?: boolean;
}

type Sort = NonNullable<TableLook['sort']>;

const collator = new Intl.Collator(undefined, { numeric: true });
const compare = (a: string | number, b: string | number): number =>
  typeof a === 'number' && typeof b === 'number' ? a - b : collator.compare(String(a), String(b));

/** Rows in the order of a column's keys, band after band; those without a key last, equal ones as they were. */
export const sortRows = <Row>(
  rows: readonly Row[],
  { key, band }: Pick<Column<Row>, 'key' | 'band'>,
  down: boolean,
): readonly Row[] => {
  const keyed = rows.map((row) => ({ row, key: key?.(row), band: band?.(row) ?? '' })); // without bands all are in one
  const sign = down ? -1 : 1;
  return keyed
    .toSorted((a, b) => {
      if (a.key === undefined || b.key === undefined)
        return Number(a.key === undefined) - Number(b.key === undefined);
      return compare(a.band, b.band) || sign * compare(a.key, b.key);
    })
    .map(({ row }) => row);
};

/**
 * How a table is sorted and which of its columns it shows, kept in the settings under its name.
 *
 * @param usual the columns it shows until others are chosen; those that exist in the order in which they stand
 */
export const useTableLook = <Row>(
  name: string,
  columns: () => readonly Column<Row>[],
  usual: readonly string[],
) => {
  const catalogue = useCatalogue();
  const look = computed((): TableLook => catalogue.settings.tables?.[name] ?? {});
  const keep = (more: TableLook): void =>
    void catalogue.note('settings', {
      ...catalogue.settings,
      tables: { ...catalogue.settings.tables, [name]: more },
    });

  const chosen = computed(() => new Set(look.value.columns ?? usual));
  const isUsual = computed(() => look.value.columns === undefined);
  const toggle = (column: string): void =>
    keep({
      ...look.value,
      columns: columns()
        .map((each) => each.name)
        .filter((each) => (each === column ? !chosen.value.has(each) : chosen.value.has(each))),
    });
  const sort = computed((): Sort | undefined => look.value.sort);
  /** Sorts by a column; by the same again the other way round, a third time as it is by itself. */
  const sortBy = ({ name: by, downFirst = false }: Column<Row>): void => {
    const { sort: before, ...rest } = look.value;
    if (before?.by !== by) keep({ ...rest, sort: { by, down: downFirst } });
    else if (before.down === downFirst) keep({ ...rest, sort: { by, down: !downFirst } });
    else keep(rest);
  };
  const sorted = (rows: readonly Row[]): readonly Row[] => {
    const column = columns().find((each) => each.name === sort.value?.by);
    return column && sort.value ? sortRows(rows, column, sort.value.down) : rows;
  };
  return { chosen, isUsual, sort, sortBy, sorted, toggle };
};
