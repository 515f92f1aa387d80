<script setup lang="ts">
import { computed } from 'vue';
import type { ReportProfile, Status } from '#core/catalogue';
import { statuses } from '#core/catalogue';
import type { ReportChoices, ReportQuestion } from '#core/conversions';
import { readMoment } from '#core/values';
import { count } from '../theme/formats.ts';
import type { OpenedFile } from './report.worker.ts';
import WritingQuestions from './WritingQuestions.vue';

/** What a report leaves open, each as one choice. */
const props = defineProps<{
  opened: OpenedFile;
  profile: ReportProfile;
  asks: readonly ReportQuestion[];
  /** What the words that are asked about mean, as far as it was said. */
  taught: Readonly<Record<string, Status>>;
}>();
const emit = defineEmits<{
  correct: [said: Partial<ReportProfile>, answered: ReportQuestion];
  answer: [choices: ReportChoices];
  teach: [word: string, status: Status];
}>();

const isAsked = (what: ReportQuestion) => props.asks.includes(what);
const dateCells = computed(() => {
  const column = props.opened.header.findIndex((name) => props.profile.columns[name] === 'at');
  return props.opened.sample.map((row) => row[column] ?? '');
});
const dateCell = computed(() => dateCells.value.find((cell) => cell.trim() !== '') ?? '');
const longDay = new Intl.DateTimeFormat(undefined, { dateStyle: 'long', timeZone: 'UTC' });
const epochDay = (since1904: boolean) => {
  const at = readMoment(dateCell.value, '', 'ymd', 'UTC', since1904);
  return at === undefined ? '' : longDay.format(at);
};
const isStatus = (value: unknown): value is Status => statuses.some((status) => status === value);
const several = computed(() => {
  const n = props.opened.reading.several.orders;
  return `${count(n)} ${n === 1 ? 'order has' : 'orders have'} several rows. What are they?`;
});
const twins = computed(() => {
  const n = props.opened.reading.several.twins;
  return `${count(n)} ${n === 1 ? 'row stands' : 'rows stand'} there twice, letter for letter. What are they?`;
});
</script>

<template>
  <section v-if="asks.length > 0" class="questions" aria-label="What the file leaves open">
    <v-select
      v-if="isAsked('amount')"
      label="Which column is your commission?"
      :items="[
        ...opened.reading.candidates.amount.map((name) => ({ value: name, title: name })),
        { value: '', title: 'None: it is priced by terms' },
      ]"
      @update:model-value="emit('answer', { amount: $event === '' ? null : $event })"
    />
    <v-select
      v-if="isAsked('at')"
      label="Which column is the day of the sale?"
      :items="[...opened.reading.candidates.at]"
      @update:model-value="$event !== null && emit('answer', { at: $event })"
    />
    <writing-questions
      :asks-dates="isAsked('dates')"
      :asks-decimal="isAsked('decimal')"
      :date-cells="dateCells"
      @dates="emit('correct', { dates: $event }, 'dates')"
      @decimal="emit('correct', { decimal: $event }, 'decimal')"
    />
    <v-select
      v-if="isAsked('epoch')"
      label="From when do its days count?"
      :items="[
        { value: '1900', title: `from 1900: ${dateCell} is ${epochDay(false)}` },
        { value: '1904', title: `from 1904: ${dateCell} is ${epochDay(true)}` },
      ]"
      @update:model-value="emit('correct', { since1904: $event === '1904' }, 'epoch')"
    />
    <template v-if="isAsked('states')">
      <v-select
        v-for="{ word, rows } in opened.reading.states"
        :key="word"
        :label="`What does “${word}” mean? (${count(rows)} ${rows === 1 ? 'row' : 'rows'})`"
        :items="[...statuses]"
        :model-value="taught[word] ?? null"
        @update:model-value="isStatus($event) && emit('teach', word, $event)"
      />
    </template>
    <v-select
      v-if="isAsked('orders')"
      :label="several"
      :items="[
        { value: 'items', title: 'items of the order: add them up' },
        { value: 'newest', title: 'states of the same sale: the newest counts' },
      ]"
      @update:model-value="emit('correct', { orders: $event === 'newest' ? 'newest' : 'items' }, 'orders')"
    />
    <v-select
      v-if="isAsked('twins')"
      :label="twins"
      :items="[
        { value: 'each', title: 'two of the same: each counts' },
        { value: 'once', title: 'one that was written twice: it counts once' },
      ]"
      @update:model-value="emit('correct', { twins: $event === 'once' ? 'once' : 'each' }, 'twins')"
    />
    <p v-if="isAsked('columns')">
      No column is known to hold the date, or what was earned. Say below which is which.
    </p>
  </section>
</template>

<style scoped>
.questions {
  display: grid;
  gap: 8px;
  max-width: 560px;
  margin: 12px 0;
  padding: 12px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
.questions p {
  margin: 0;
}
</style>
