<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { LinkFilter } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import { useListFilter } from './listFilter.ts';

/** What of the links is shown: words, and one choice each of program, group, tag and state; kept under a name. */
const catalogue = useCatalogue();
const notice = useNotice();
const route = useRoute();
const router = useRouter();
const { active, filter, groups, set, tags } = useListFilter();
const naming = ref(false);
const name = ref('');

const saved = computed(() => catalogue.settings.filters ?? []);
const query = computed(() =>
  new URLSearchParams(Object.entries(filter.value).filter(([, value]) => value !== '')).toString(),
);
const keep = async () => {
  const title = name.value.trim();
  naming.value = false;
  name.value = '';
  if (title === '') return;
  const others = saved.value.filter((one) => one.name !== title);
  const step = await catalogue.saveRecord('settings', {
    ...catalogue.settings,
    filters: [...others, { name: title, query: query.value }],
  });
  notice.did(`The filter ${title} is kept.`, step);
};
/** What is chosen is shown by the choices beside it. */
const nothing: string | null = null;
const use = (title: string) => {
  const found = saved.value.find((one) => one.name === title);
  if (found)
    void router.replace({
      name: 'links',
      params: { link: route.params['link'] ?? '' },
      query: Object.fromEntries(new URLSearchParams(found.query)),
    });
};
const states = [
  ['starred', 'starred'],
  ['live', 'live'],
  ['here', 'saved here'],
  ['refused', 'refused'],
  ['conflict', 'changed by two'],
  ['not open yet', 'not open yet'],
  ['closing', 'closing within a week'],
  ['closed', 'closed'],
  ['archived', 'archived'],
] as const;
/** The choices that there is something to choose from. */
const choices = computed(() => {
  const choice = (
    field: keyof LinkFilter,
    label: string,
    items: readonly { value: string; title: string }[],
  ) => ({
    field,
    label,
    items: [{ value: '', title: `${label}: any` }, ...items],
  });
  const named = (names: readonly string[]) => names.map((value) => ({ value, title: value }));
  const all = [
    choice(
      'domain',
      'Domain',
      catalogue.domains.map(({ id, host }) => ({ value: id, title: host })),
    ),
    choice(
      'program',
      'Program',
      catalogue.programs.map(({ id, name: title }) => ({ value: id, title })),
    ),
    choice('group', 'Group', named(groups.value)),
    choice('tag', 'Tag', named(tags.value)),
    choice(
      'state',
      'State',
      states.map(([value, title]) => ({ value, title })),
    ),
  ];
  return all.filter(({ field, items }) => items.length > (field === 'domain' ? 2 : 1) || field === 'program');
});
</script>

<template>
  <div class="filter" role="search" aria-label="Filter the list">
    <v-text-field
      single-line
      class="small-field words"
      type="search"
      placeholder="Filter"
      aria-label="Words"
      :model-value="filter.words"
      @update:model-value="set({ words: $event })"
      @keydown.esc.prevent="set({ words: '' })"
    />
    <v-select
      v-for="choice in choices"
      :key="choice.field"
      single-line
      class="small-field"
      :items="choice.items"
      :model-value="filter[choice.field]"
      :aria-label="choice.label"
      @update:model-value="set({ [choice.field]: $event })"
    />
    <v-select
      v-if="saved.length > 0 && !active"
      single-line
      class="small-field"
      :items="saved.map(({ name: title }) => title)"
      :model-value="nothing"
      aria-label="Saved filters"
      placeholder="Saved filters"
      @update:model-value="$event && use($event)"
    />
    <form v-if="naming" @submit.prevent="keep">
      <v-text-field
        v-model="name"
        single-line
        class="small-field"
        aria-label="Name of the filter"
        placeholder="Name"
        @keydown.esc.prevent="naming = false"
      />
    </form>
    <text-link v-else-if="active" @click="naming = true"> Keep this filter </text-link>
    <span class="more"><slot /></span>
  </div>
</template>

<style scoped>
.filter {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 2px 20px 8px;
}
.words {
  width: 120px;
}
.more {
  margin-left: auto;
}
.filter .v-select {
  max-width: 160px;
}
</style>
