<script setup lang="ts">
import { computed } from 'vue';
import type { Marks } from '#core/catalogue';
import { relValues } from '#core/catalogue';

/** What becomes of the marks of many links: each is left as it is, left to the domain (null), or set. */
const marks = defineModel<{ [K in keyof Marks]?: Marks[K] | null }>({ required: true });

type Choice = 'leave' | 'domain' | 'set';
const choices = [
  { value: 'leave', title: 'Leave as it is' },
  { value: 'domain', title: 'As its domain' },
  { value: 'set', title: 'Set to' },
];
const start: Marks = { rel: ['sponsored', 'nofollow'], newTab: true, title: '' };
const choiceOf = (name: keyof Marks): Choice => {
  const value = marks.value[name];
  return value === undefined ? 'leave' : value === null ? 'domain' : 'set';
};
const choose = (name: keyof Marks, choice: Choice) => {
  const { [name]: _, ...rest } = marks.value;
  marks.value = choice === 'leave' ? rest : { ...rest, [name]: choice === 'domain' ? null : start[name] };
};
const put = (more: Partial<Marks>) => (marks.value = { ...marks.value, ...more });
const newTab = computed({
  get: () => marks.value.newTab === true,
  set: (on: boolean) => put({ newTab: on }),
});
</script>

<template>
  <v-select
    label="Rel values"
    :items="choices"
    :model-value="choiceOf('rel')"
    @update:model-value="choose('rel', $event)"
  />
  <v-select
    v-if="marks.rel"
    label="Rel"
    multiple
    chips
    placeholder="none"
    persistent-placeholder
    :items="[...relValues]"
    :model-value="marks.rel"
    @update:model-value="put({ rel: relValues.filter((value) => $event.includes(value)) })"
  />
  <v-select
    label="New tab"
    :items="choices"
    :model-value="choiceOf('newTab')"
    @update:model-value="choose('newTab', $event)"
  />
  <v-checkbox
    v-if="marks.newTab !== undefined && marks.newTab !== null"
    v-model="newTab"
    label="Opens a new tab"
  />
  <v-select
    label="Hover title"
    :items="choices"
    :model-value="choiceOf('title')"
    @update:model-value="choose('title', $event)"
  />
  <v-text-field
    v-if="marks.title !== undefined && marks.title !== null"
    label="Title shown on hover"
    :model-value="marks.title"
    @update:model-value="put({ title: $event })"
  />
</template>
