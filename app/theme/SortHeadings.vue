<script setup lang="ts">
import type { Column } from '../data/tableLook.ts';
import SortHeading from './SortHeading.vue';

/** The headings of a table, each sorting it where its column can be sorted. */
defineProps<{
  columns: readonly (Pick<Column<never>, 'name' | 'title' | 'under' | 'hint' | 'key' | 'number'> & {
    /** It can be sorted by elsewhere, where its rows come from. */
    readonly sortable?: true;
    /** Pixels, where the table does not find its widths by itself. */
    readonly width?: number;
  })[];
  wayOf: (column: string) => 'up' | 'down' | undefined;
}>();
defineEmits<{ sort: [column: string] }>();
</script>

<template>
  <thead>
    <tr>
      <sort-heading
        v-for="column in columns"
        :key="column.name"
        :title="column.title"
        :under="column.under"
        :hint="column.hint"
        :class="column.name"
        :style="column.width === undefined ? undefined : { width: `${column.width}px` }"
        :number="column.number ?? false"
        :sortable="column.sortable ?? column.key !== undefined"
        :sorted="wayOf(column.name)"
        @sort="$emit('sort', column.name)"
      />
      <slot />
    </tr>
  </thead>
</template>
