<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { foldText } from '#core/catalogue';
import type { TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { dimensionNames } from '#core/traffic';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNewest } from '../place/newest.ts';
import { count } from '../theme/formats.ts';
import TickItem from '../theme/TickItem.vue';
import { dimensionWords, useValueWords } from './words.ts';

/** Chooses what traffic is narrowed to: of what, which values, and whether those or all but those. Each press narrows at once. */
const props = defineProps<{
  question: TrafficQuestion;
  /** What is narrowed already, to be changed; undefined for something new. */
  of?: DimensionName | undefined;
}>();
const emit = defineEmits<{ set: [of: DimensionName, values: readonly string[], not: boolean]; close: [] }>();
const valueWords = useValueWords();
const journal = useJournal();
const of = ref<DimensionName>(props.of ?? 'device');
const now = computed(() => props.question.where.find((condition) => condition.of === of.value));
const values = computed(() => now.value?.values ?? []);
const not = ref(now.value?.not ?? false);
watch(of, () => (not.value = now.value?.not ?? false));
const words = ref('');
const { found } = useNewest<readonly { readonly value: string; readonly visitors: number }[]>(
  () => [of.value, journal.news],
  async () => {
    const { from, to, where } = props.question;
    const by = of.value;
    const others = where
      .filter((condition) => condition.of !== by)
      .map(({ values: list, ...rest }) => ({ ...rest, values: [...list] }));
    return (await journalWorker.traffic({ by, from, to, where: others })).lines;
  },
  [],
);
/** More than these are found by typing. */
const most = 100;
const offered = computed(() => {
  const sought = foldText(words.value);
  const named = found.value.map(({ value, visitors }) => ({
    value,
    visitors,
    name: valueWords(of.value, value),
  }));
  return named.filter(({ name }) => foldText(name).includes(sought));
});
const dimensions = dimensionNames.map((name) => ({ value: name, title: dimensionWords[name].one }));
const ways = [
  { value: false, title: 'only these' },
  { value: true, title: 'all but these' },
];
const toggle = (value: string) =>
  emit(
    'set',
    of.value,
    values.value.includes(value) ? values.value.filter((one) => one !== value) : [...values.value, value],
    not.value,
  );
const turn = (isNot: boolean) => {
  not.value = isNot;
  if (values.value.length > 0) emit('set', of.value, values.value, isNot);
};
const clear = () => {
  emit('set', of.value, [], false);
  emit('close');
};
</script>

<template>
  <div class="choose">
    <v-select v-model="of" :items="dimensions" :disabled="props.of !== undefined" label="Narrow by" />
    <v-select :model-value="not" :items="ways" label="To" @update:model-value="turn" />
    <v-text-field v-model="words" label="Find a value" clearable />
    <v-list class="small-menu values" density="compact" role="group" aria-label="Values">
      <tick-item
        v-for="{ value, visitors, name } in offered.slice(0, most)"
        :key="value"
        role="checkbox"
        :ticked="values.includes(value)"
        @click="toggle(value)"
      >
        {{ name }}
        <template #append
          ><span class="quiet">{{ count(visitors) }}</span></template
        >
      </tick-item>
    </v-list>
    <p v-if="offered.length > most" class="quiet">
      and {{ count(offered.length - most) }} more: type to find them
    </p>
    <p v-if="offered.length === 0" class="quiet">Nothing of these days is called so.</p>
    <text-link v-if="values.length > 0" @click="clear">All of them</text-link>
  </div>
</template>

<style scoped>
.choose {
  display: grid;
  gap: 10px;
  width: min(320px, 86vw);
  padding: 14px;
}
.values {
  max-height: 34vh;
  overflow: auto;
}
p {
  margin: 0;
}
</style>
