<script setup lang="ts">
import type { Column } from '../data/tableLook.ts';
import SortHeading from './SortHeading.vue';

/** The headings of a table, each sorting it where its column can be sorted. */
defineProps<{
  columns: readonly Pick<Column<never>, 'name' | 'title' | 'hint' | 'key' | 'number'>[];
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
        :hint="column.hint"
        :number="column.number ?? false"
        :sortable="column.key !== undefined"
        :sorted="wayOf(column.name)"
        @sort="$emit('sort', column.name)"
      />
      <slot />
    </tr>
  </thead>
</template>
