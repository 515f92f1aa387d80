<script setup lang="ts">
import { ref, watch } from 'vue';
import type { Terms } from '#core/catalogue';
import { readAmount, writeAmount } from '#core/values';
import { today } from '../data/today.ts';
import DayField from '../theme/DayField.vue';

/** What a program pays, from which day on: a fixed amount, a share of the sale, or tiers by the month. */
const props = defineProps<{ terms: readonly Terms[]; currency: string }>();
const emit = defineEmits<{ change: [terms: Terms[] | undefined, problem: string] }>();

interface Line {
  kind: Terms['kind'];
  from: string;
  event: string;
  currency: string;
  /** An amount, a percentage, or tiers such as `1: 2.00, 11: 2.50`. */
  value: string;
}

const lineOf = (terms: Terms): Line => {
  const { kind, from, event } = terms;
  switch (terms.kind) {
    case 'fixed':
      return {
        kind,
        from,
        event,
        currency: terms.currency,
        value: writeAmount(terms.amount, terms.currency),
      };
    case 'percent':
      return { kind, from, event, currency: props.currency, value: String(terms.basisPoints / 100) };
    case 'tiers':
      return {
        kind,
        from,
        event,
        currency: terms.currency,
        value: terms.steps
          .map((step) => `${step.from}: ${writeAmount(step.amount, terms.currency)}`)
          .join(', '),
      };
  }
};
const lines = ref(props.terms.map(lineOf));

/** Reads a line as terms, or says what is wrong with it. */
const termsOf = ({ kind, from, event, currency, value }: Line): Terms | string => {
  if (!/^\d{4}-\d\d-\d\d$/.test(from)) return 'Say from which day the terms hold.';
  if (kind === 'percent') {
    const match = /^(\d{1,3})(?:[.,](\d{1,2}))?\s*%?$/.exec(value.trim());
    return match
      ? { kind, from, event, basisPoints: Number(match[1]) * 100 + Number((match[2] ?? '').padEnd(2, '0')) }
      : `"${value}" is no percentage. Write it like 8 or 7.5.`;
  }
  if (kind === 'fixed') {
    const read = readAmount(value, currency);
    return read.ok
      ? { kind, from, event, amount: read.value, currency }
      : (read.problems[0]?.message ?? 'The amount cannot be read.');
  }
  const steps: { from: number; amount: number }[] = [];
  for (const part of value.split(',')) {
    const match = /^\s*(\d{1,6})\s*:\s*(\S+)\s*$/.exec(part);
    const read = match ? readAmount(match[2] ?? '', currency) : undefined;
    if (!match || !read?.ok) return `"${part.trim()}" is no tier. Write them like 1: 2.00, 11: 2.50.`;
    steps.push({ from: Number(match[1]), amount: read.value });
  }
  return { kind, from, event, currency, steps };
};
watch(
  lines,
  (list) => {
    const read = list.map(termsOf);
    const problem = read.find((one) => typeof one === 'string');
    emit(
      'change',
      problem === undefined ? read.filter((one) => typeof one !== 'string') : undefined,
      problem ?? '',
    );
  },
  { deep: true },
);
const add = () =>
  lines.value.push({
    kind: 'fixed',
    from: today(),
    event: '',
    currency: props.currency,
    value: '',
  });
const kinds: readonly { value: Terms['kind']; title: string }[] = [
  { value: 'fixed', title: 'a fixed amount' },
  { value: 'percent', title: 'percent of the sale' },
  { value: 'tiers', title: 'tiers by the month' },
];
const hints: Readonly<Record<Terms['kind'], string>> = {
  fixed: '4.50',
  percent: '8',
  tiers: '1: 2.00, 11: 2.50',
};
</script>

<template>
  <div v-for="(line, i) in lines" :key="i" class="line">
    <span>from</span>
    <day-field v-model="line.from" aria-label="From day" />
    <v-text-field
      v-model="line.event"
      single-line
      class="small-field event"
      placeholder="every event"
      aria-label="Event"
      maxlength="80"
    />
    <v-select v-model="line.kind" single-line class="small-field" :items="kinds" aria-label="Kind of terms" />
    <v-text-field
      v-model="line.value"
      single-line
      class="small-field mono"
      :placeholder="hints[line.kind]"
      aria-label="What it pays"
    />
    <v-text-field
      v-if="line.kind !== 'percent'"
      v-model="line.currency"
      single-line
      class="small-field currency"
      maxlength="3"
      aria-label="Currency of the terms"
    />
    <text-link aria-label="Take these terms away" @click="lines.splice(i, 1)"> Take away </text-link>
  </div>
  <text-link @click="add">Add terms</text-link>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
}
.event {
  width: 110px;
}
.currency {
  width: 60px;
}
</style>
