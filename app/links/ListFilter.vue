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

const chosen = (field: keyof LinkFilter, { target }: Event) => {
  if (target instanceof HTMLSelectElement || target instanceof HTMLInputElement)
    set({ [field]: target.value });
};
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
const use = ({ target }: Event) => {
  if (!(target instanceof HTMLSelectElement)) return;
  const found = saved.value.find((one) => one.name === target.value);
  target.value = '';
  if (found)
    void router.replace({
      name: 'links',
      params: { link: route.params['link'] ?? '' },
      query: Object.fromEntries(new URLSearchParams(found.query)),
    });
};
const states = [
  ['', 'State: any'],
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
</script>

<template>
  <div class="filter" role="search" aria-label="Filter the list">
    <input
      type="search"
      placeholder="Filter"
      aria-label="Words"
      :value="filter.words"
      @input="chosen('words', $event)"
      @keydown.esc.prevent="set({ words: '' })"
    />
    <select
      v-if="catalogue.domains.length > 1"
      aria-label="Domain"
      :value="filter.domain"
      @change="chosen('domain', $event)"
    >
      <option value="">Domain: any</option>
      <option v-for="domain in catalogue.domains" :key="domain.id" :value="domain.id">
        {{ domain.host }}
      </option>
    </select>
    <select aria-label="Program" :value="filter.program" @change="chosen('program', $event)">
      <option value="">Program: any</option>
      <option v-for="program in catalogue.programs" :key="program.id" :value="program.id">
        {{ program.name }}
      </option>
    </select>
    <select
      v-if="groups.length > 0"
      aria-label="Group"
      :value="filter.group"
      @change="chosen('group', $event)"
    >
      <option value="">Group: any</option>
      <option v-for="group in groups" :key="group">{{ group }}</option>
    </select>
    <select v-if="tags.length > 0" aria-label="Tag" :value="filter.tag" @change="chosen('tag', $event)">
      <option value="">Tag: any</option>
      <option v-for="tag in tags" :key="tag">{{ tag }}</option>
    </select>
    <select aria-label="State" :value="filter.state" @change="chosen('state', $event)">
      <option v-for="[value, words] in states" :key="value" :value="value">{{ words }}</option>
    </select>
    <select v-if="saved.length > 0 && !active" aria-label="Saved filters" @change="use">
      <option value="">Saved filters</option>
      <option v-for="one in saved" :key="one.name">{{ one.name }}</option>
    </select>
    <form v-if="naming" @submit.prevent="keep">
      <input
        v-model="name"
        aria-label="Name of the filter"
        placeholder="Name"
        @keydown.esc.prevent="naming = false"
      />
    </form>
    <button v-else-if="active" class="text-link" type="button" @click="naming = true">
      Keep this filter
    </button>
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
input,
select {
  height: 26px;
  padding: 0 8px;
  max-width: 150px;
  font-size: 13px;
  color: var(--ink);
  background: var(--sunk);
  border: 0;
  border-radius: var(--leaf-button);
}
input {
  width: 120px;
  background: var(--surface);
  border: 1px solid var(--line);
}
input::placeholder {
  color: var(--ink-two);
  opacity: 1;
}
</style>
