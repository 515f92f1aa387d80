<script setup lang="ts">
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
      <v-list-item
        v-for="column in columns"
        :key="column.name"
        role="menuitemcheckbox"
        :aria-checked="chosen.has(column.name)"
        @click="$emit('toggle', column.name)"
      >
        <template #prepend>
          <!-- A drawing: the item itself is what is pressed. -->
          <v-icon
            :icon="chosen.has(column.name) ? '$checkboxOn' : '$checkboxOff'"
            :color="chosen.has(column.name) ? 'primary' : undefined"
            size="19"
            aria-hidden="true"
          />
        </template>
        <v-list-item-title>{{ column.about ?? column.title }}</v-list-item-title>
      </v-list-item>
    </v-list>
  </v-menu>
</template>
