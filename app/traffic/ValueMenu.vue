<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { journalWorker } from '../data/journal.ts';
import { count } from '../theme/formats.ts';
import { dimensionWords, useValueWords } from './words.ts';

/** Chooses what traffic is narrowed to: of what, which values, and whether those or all but those. */
const props = defineProps<{
  question: TrafficQuestion;
  names: readonly DimensionName[];
  /** What is narrowed already, to be changed; undefined for something new. */
  of?: DimensionName | undefined;
}>();
const emit = defineEmits<{ set: [of: DimensionName, values: readonly string[], not: boolean]; close: [] }>();
const valueWords = useValueWords();
const of = ref<DimensionName>(props.of ?? 'device');
const now = props.question.where.find((condition) => condition.of === props.of);
const values = ref<readonly string[]>(now?.values ?? []);
const not = ref(now?.not ?? false);
const found = ref<readonly { readonly value: string; readonly visitors: number }[]>([]);
/** More than these are found by typing. */
const most = 500;
watch(
  of,
  async (name) => {
    const { from, to, where } = props.question;
    const others = where.filter((condition) => condition.of !== name);
    const { lines } = await journalWorker.traffic({ by: name, from, to, where: others });
    if (of.value === name)
      found.value = lines.slice(0, most).map(({ value, visitors }) => ({ value, visitors }));
  },
  { immediate: true },
);
watch(of, () => (values.value = []));
const items = computed(() =>
  found.value.map(({ value, visitors }) => ({
    value,
    title: valueWords(of.value, value),
    subtitle: `${count(visitors)} ${visitors === 1 ? 'visitor' : 'visitors'}`,
  })),
);
const dimensions = computed(() =>
  props.names.map((name) => ({ value: name, title: dimensionWords[name].one })),
);
const ways = [
  { value: false, title: 'is' },
  { value: true, title: 'is not' },
];
const set = () => {
  emit('set', of.value, values.value, not.value);
  emit('close');
};
const clear = () => {
  emit('set', of.value, [], false);
  emit('close');
};
</script>

<template>
  <form class="choose" @submit.prevent="set">
    <v-select v-model="of" :items="dimensions" :disabled="props.of !== undefined" label="Only where" />
    <v-select v-model="not" :items="ways" label="It" />
    <v-autocomplete
      v-model="values"
      :items="items"
      :item-props="true"
      label="Values"
      multiple
      chips
      closable-chips
    />
    <div class="buttons">
      <v-btn type="submit" color="primary" :disabled="values.length === 0">Show</v-btn>
      <v-btn v-if="props.of !== undefined" class="quiet-button" @click="clear">All of them</v-btn>
      <v-btn v-else class="quiet-button" @click="emit('close')">Cancel</v-btn>
    </div>
  </form>
</template>

<style scoped>
.choose {
  display: grid;
  gap: 10px;
  width: min(340px, 86vw);
  padding: 14px;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
