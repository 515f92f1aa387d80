<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Settings } from '#core/catalogue';
import type { AnyRecord } from '#core/formats';
import { planCatalogue } from '#core/formats';
import { useCatalogue } from '../data/catalogue.ts';
import type { ReadFile } from './import.worker.ts';

/** What becomes of the records of a catalogue file: those that are new, those that are here, and what cannot be taken. */
const props = defineProps<{
  name: string;
  file: Extract<ReadFile, { kind: 'catalogue' }>;
  working: boolean;
}>();
const emit = defineEmits<{ bring: [records: readonly AnyRecord[], settings: Settings | undefined] }>();
const catalogue = useCatalogue();
const records = computed(() => planCatalogue(props.file.records, catalogue.everyRecord()));
const withSettings = ref(false);
watch(
  () => props.file,
  () => (withSettings.value = false),
);
const settingsWords = (given: Settings) =>
  [
    `currency ${given.currency}`,
    ...(given.filters?.length
      ? [`${given.filters.length} ${given.filters.length === 1 ? 'filter' : 'filters'} of the list`]
      : []),
    ...(given.columns ? ['how columns of files are read'] : []),
    ...(given.classification ? ['what counts as a visit'] : []),
  ].join(', ');
const bring = (list: readonly AnyRecord[]) =>
  emit('bring', list, withSettings.value ? records.value.settings : undefined);
const linksWord = (n: number) => `${n} ${n === 1 ? 'link' : 'links'}`;
</script>

<template>
  <section aria-label="A catalogue">
    <p>
      <strong>{{ name }}</strong>: {{ records.fresh.length }} records that are not here yet,
      {{ records.known.length }} that are.
    </p>
    <p v-for="problem in file.problems" :key="problem" class="bad">{{ problem }}</p>
    <p v-for="host in records.sameHosts" :key="host">
      {{ host }} is here already: links of the file on it go to yours.
    </p>
    <p v-if="records.taken.length > 0" class="bad">
      {{ linksWord(records.taken.length) }} of the file {{ records.taken.length === 1 ? 'is' : 'are' }} left
      out, for another link here answers at
      {{
        records.taken
          .slice(0, 3)
          .map(({ path }) => path)
          .join(', ')
      }}{{ records.taken.length > 3 ? ' and more' : '' }}. Rename that one first, or change it by hand.
    </p>
    <v-checkbox
      v-if="records.settings"
      v-model="withSettings"
      :label="`Take its settings too, instead of yours: ${settingsWords(records.settings)}`"
    />
    <div class="buttons">
      <v-btn
        color="primary"
        :disabled="records.fresh.length === 0 && !withSettings"
        :loading="working"
        @click="bring(records.fresh)"
      >
        Bring in what is not here
      </v-btn>
      <v-btn
        v-if="records.known.length > 0"
        class="quiet-button"
        :loading="working"
        @click="bring([...records.fresh, ...records.known])"
      >
        Replace what is here too
      </v-btn>
    </div>
  </section>
</template>

<style scoped>
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  margin: 8px 0;
}
.bad {
  color: var(--copper);
}
</style>
