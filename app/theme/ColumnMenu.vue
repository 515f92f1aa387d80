<script setup lang="ts">
import TickItem from './TickItem.vue';

/** Chooses which columns a table shows. */
defineProps<{
  columns: readonly { readonly name: string; readonly title: string; readonly about?: string }[];
  chosen: ReadonlySet<string>;
}>();
defineEmits<{ toggle: [name: string] }>();
</script>

<template>
  <v-menu :close-on-content-click="false" location="bottom end">
    <template #activator="{ props: opens }">
      <text-link v-bind="opens">Columns</text-link>
    </template>
    <v-list class="small-menu" density="compact" role="menu" aria-label="Columns that are shown">
      <tick-item
        v-for="column in columns"
        :key="column.name"
        role="menuitemcheckbox"
        :ticked="chosen.has(column.name)"
        @click="$emit('toggle', column.name)"
        >{{ column.about ?? column.title }}</tick-item
      >
    </v-list>
  </v-menu>
</template>
