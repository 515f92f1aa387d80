import { computed, shallowRef } from 'vue';
import type { TableLook } from '#core/catalogue';
import type { Order } from '#core/values';
import { inOrder } from '#core/values';
import { useCatalogue } from './catalogue.ts';

/** A column that can be shown, and sorted by where it gives a key. */
export interface Column<Row> extends Partial<Order<Row>> {
  readonly name: string;
  readonly title: string;
  /** A second line of its heading, such as the zone of its times. */
  readonly under?: string;
  /** What it shows, where the title does not say it all. */
  readonly hint?: string;
  readonly number?: boolean;
  /** Sorted by it for the first time, the largest come first. */
  readonly downFirst?: boolean;
}

/** A column of amounts, each compared with those of its currency only; sorted by it, the largest come first. */
export const amountColumn = <Row>(
  name: string,
  title: string,
  amount: (row: Row) => number | undefined,
  currency: (row: Row) => string,
): Column<Row> => ({ name, title, number: true, downFirst: true, key: amount, band: currency });

type Sort = NonNullable<TableLook['sort']>;

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
  /** What was just chosen, until it is kept: the next press builds on it. */
  const chosenNow = shallowRef<TableLook | undefined>();
  const look = computed((): TableLook => chosenNow.value ?? catalogue.settings.tables?.[name] ?? {});
  const keep = async (next: TableLook): Promise<void> => {
    chosenNow.value = next;
    await catalogue.note('settings', {
      ...catalogue.settings,
      tables: { ...catalogue.settings.tables, [name]: next },
    });
    if (chosenNow.value === next) chosenNow.value = undefined;
  };

  const chosen = computed(() => new Set(look.value.columns ?? usual));
  const isUsual = computed(() => look.value.columns === undefined);
  const toggle = (column: string): void =>
    void keep({
      ...look.value,
      columns: columns()
        .map((each) => each.name)
        .filter((each) => (each === column ? !chosen.value.has(each) : chosen.value.has(each))),
    });
  const sort = computed((): Sort | undefined => look.value.sort);
  /** Sorts by a column; by the same again the other way round, a third time as it is by itself. */
  const sortBy = (by: string): void => {
    const downFirst = columns().find(({ name: each }) => each === by)?.downFirst ?? false; // most begin with the smallest
    const { sort: before, ...rest } = look.value;
    if (before?.by !== by) void keep({ ...rest, sort: { by, down: downFirst } });
    else if (before.down === downFirst) void keep({ ...rest, sort: { by, down: !downFirst } });
    else void keep(rest);
  };
  const sorted = (rows: readonly Row[]): readonly Row[] => {
    const column = columns().find((each) => each.name === sort.value?.by);
    const { key, ...rest } = column ?? {};
    return key && sort.value ? inOrder(rows, { key, ...rest }, sort.value.down) : rows;
  };
  /** Which way it is sorted by a column, where it is. */
  const wayOf = (column: string): 'up' | 'down' | undefined =>
    sort.value?.by === column ? (sort.value.down ? 'down' : 'up') : undefined;
  return { chosen, isUsual, sort, sortBy, sorted, toggle, wayOf };
};
