<script setup lang="ts">
import { computed } from 'vue';
import { dayName, dayNumber } from '#core/hop';
import type { TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { dimensionNames } from '#core/traffic';
import DayField from '../theme/DayField.vue';
import ValueMenu from './ValueMenu.vue';
import { dimensionWords, outcomeWords, periodWords, useConditionWords } from './words.ts';
import WordMenu from './WordMenu.vue';

/** What is asked, as a sentence whose words are the controls. */
const props = defineProps<{
  question: TrafficQuestion;
  today: string;
  /** What stands before *by* in the place of what is shown. */
  lead?: string;
}>();
const emit = defineEmits<{
  ask: [part: Partial<TrafficQuestion>];
  narrow: [of: DimensionName, values: readonly string[], not: boolean];
}>();
const conditionWords = useConditionWords();
const what = computed(() => {
  const { show = 'counted' } = props.question;
  return show === 'counted' ? 'Visitors' : outcomeWords[show].name;
});
const lastDays = (days: number) =>
  emit('ask', { from: dayName(dayNumber(props.today) - days + 1), to: props.today });
const monthAgo = (months: number) => {
  const first = new Date(`${props.today.slice(0, 7)}-15T12:00Z`);
  first.setUTCMonth(first.getUTCMonth() - months);
  const month = first.toISOString().slice(0, 7);
  const days = new Date(Date.UTC(Number(month.slice(0, 4)), Number(month.slice(5)), 0)).getUTCDate();
  const to = `${month}-${String(days).padStart(2, '0')}`;
  emit('ask', { from: `${month}-01`, to: to < props.today ? to : props.today });
};
const periods = [
  ...[7, 28, 30, 90].map((days) => ({ title: `Last ${days} days`, pick: () => lastDays(days) })),
  { title: 'This month', pick: () => monthAgo(0) },
  { title: 'Last month', pick: () => monthAgo(1) },
];
</script>

<template>
  <h1>
    {{ lead ?? `${what} by` }}
    <word-menu :word="dimensionWords[question.by].one" label="Told apart by">
      <template #default="{ close }">
        <v-list density="compact" class="small-menu">
          <v-list-item
            v-for="name in dimensionNames"
            :key="name"
            :active="name === question.by"
            :title="dimensionWords[name].one"
            @click="(emit('ask', { by: name }), close())"
          />
        </v-list>
      </template> </word-menu
    ><template v-for="condition in question.where" :key="`${condition.of}${condition.not}`"
      >, {{ dimensionWords[condition.of].one }}
      <word-menu :word="conditionWords(condition)" label="Only where">
        <template #default="{ close }">
          <value-menu
            :question="question"
            :of="condition.of"
            @set="(of, values, not) => emit('narrow', of, values, not)"
            @close="close"
          />
        </template> </word-menu></template
    >,
    <word-menu :word="periodWords(question)" label="Period">
      <template #default="{ close }">
        <v-list density="compact" class="small-menu">
          <v-list-item
            v-for="{ title, pick } in periods"
            :key="title"
            :title="title"
            @click="(pick(), close())"
          />
        </v-list>
        <div class="period">
          <day-field
            :model-value="question.from"
            label="From"
            @update:model-value="$event && $event <= question.to && emit('ask', { from: $event })"
          />
          <day-field
            :model-value="question.to"
            label="To"
            @update:model-value="$event && $event >= question.from && emit('ask', { to: $event })"
          />
        </div>
      </template>
    </word-menu>
  </h1>
</template>

<style scoped>
.period {
  display: grid;
  gap: 10px;
  padding: 6px 14px 14px;
}
</style>
