<script setup lang="ts">
import type { Marks } from '#core/catalogue';
import { relValues } from '#core/catalogue';

/** The marks that travel with a placed link. */
const marks = defineModel<Marks>({ required: true });

const meanings = {
  sponsored: 'sponsored: it is paid',
  nofollow: 'nofollow: not a recommendation to search engines',
  ugc: 'ugc: written by visitors',
} as const;
const toggle = (rel: Marks['rel'][number], on: boolean) =>
  (marks.value = {
    ...marks.value,
    rel: relValues.filter((value) => (value === rel ? on : marks.value.rel.includes(value))),
  });
</script>

<template>
  <v-checkbox
    v-for="rel in relValues"
    :key="rel"
    :model-value="marks.rel.includes(rel)"
    :label="meanings[rel]"
    @update:model-value="toggle(rel, $event === true)"
  />
  <v-checkbox
    :model-value="marks.newTab"
    label="Opens a new tab"
    @update:model-value="marks = { ...marks, newTab: $event === true }"
  />
  <v-text-field
    :model-value="marks.title"
    label="Title shown on hover"
    @update:model-value="marks = { ...marks, title: $event }"
  />
</template>
