import { computed } from 'vue';
import type { LedgerSort } from '#core/queries';
import { ledgerColumns } from '#core/queries';
import { useTableLook } from '../data/tableLook.ts';

/** How conversions are sorted wherever they are listed; the worker puts them in order, of all and not only of those shown. */
export const useLedgerLook = () => {
  const columns = ledgerColumns.map((name) => ({
    name,
    title: name,
    downFirst: ['at', 'ours', 'theirs'].includes(name),
  }));
  const { sort: kept, sortBy, wayOf } = useTableLook('ledger', () => columns, ledgerColumns);
  const sort = computed((): LedgerSort | undefined => {
    const by = ledgerColumns.find((name) => name === kept.value?.by);
    return by && kept.value ? { by, down: kept.value.down } : undefined;
  });
  return { sort, sortBy, wayOf };
};
