<script setup lang="ts">
import { computed } from 'vue';
import type { DateOrder } from '#core/catalogue';
import { readMoment } from '#core/values';

/** How a file writes its dates and amounts, where it leaves that open: each way with what it makes of a date of the file. */
const props = defineProps<{
  asksDates: boolean;
  asksDecimal: boolean;
  /** Dates as they stand in the file. */
  dateCells: readonly string[];
}>();
const emit = defineEmits<{ dates: [order: DateOrder]; decimal: [sign: '.' | ','] }>();

const longDay = new Intl.DateTimeFormat(undefined, { dateStyle: 'long', timeZone: 'UTC' });
const orderWords: readonly (readonly [DateOrder, string])[] = [
  ['dmy', 'day first'],
  ['mdy', 'month first'],
  ['ymd', 'year first'],
];
const momentOf = (cell: string, order: DateOrder) => readMoment(cell.trim(), '', order, 'UTC');
/** A date that tells the orders apart, where the file has one: 4 April is the same either way. */
const dateCell = computed(() => {
  const filled = props.dateCells.filter((cell) => cell.trim() !== '');
  return (filled.find((cell) => momentOf(cell, 'dmy') !== momentOf(cell, 'mdy')) ?? filled[0] ?? '').trim();
});
const orders = computed(() =>
  orderWords.flatMap(([value, words]) => {
    const at = momentOf(dateCell.value, value);
    return at === undefined ? [] : [{ value, title: `${words}: ${dateCell.value} is ${longDay.format(at)}` }];
  }),
);
const decimals = [
  { value: '.', title: 'a point: 1.234 is between one and two' },
  { value: ',', title: 'a comma: 1.234 is more than a thousand' },
];
const isOrder = (value: unknown): value is DateOrder => orderWords.some(([order]) => order === value);
</script>

<template>
  <v-select
    v-if="asksDates"
    label="Which number is the day?"
    :items="orders"
    @update:model-value="isOrder($event) && emit('dates', $event)"
  />
  <v-select
    v-if="asksDecimal"
    label="What stands before the decimals?"
    :items="decimals"
    @update:model-value="emit('decimal', $event === ',' ? ',' : '.')"
  />
</template>
