<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue';
import type { ClosedMonth } from '#core/catalogue';
import type { Adjustment } from '#core/reconcile';
import { sumByCurrency } from '#core/values';
import { journalWorker, useJournal } from '../data/journal.ts';
import { dayMonth, money } from '../theme/formats.ts';
import { isIntact } from './closeMonth.ts';
import { monthWords } from './words.ts';

/** Says that a month is closed and what changed since, and which changes of closed months arrived in this one. */
const props = defineProps<{ network: string; month: string; closed: ClosedMonth | undefined }>();
const journal = useJournal();
const adjustments = shallowRef<readonly Adjustment[]>([]);
const intact = shallowRef<boolean | undefined>();

watch(
  [() => props.network, () => journal.news],
  async ([network]) => {
    const found = await journalWorker.adjustments(network);
    if (network === props.network) adjustments.value = found;
  },
  { immediate: true },
);
watch(
  () => props.closed,
  async (closed) => (intact.value = closed && (await isIntact(closed))),
  { immediate: true },
);
const sumOf = (list: readonly Adjustment[]) =>
  sumByCurrency(list.map(({ currency, change }) => ({ currency, minor: change })))
    .map(({ minor, currency }) => money(minor, currency))
    .join(' and ');
const since = computed(() => adjustments.value.filter((one) => one.month === props.month));
const arrived = computed(() => {
  const months = new Map<string, Adjustment[]>();
  for (const one of adjustments.value)
    if (one.arrived === props.month && one.month !== props.month)
      months.set(one.month, [...(months.get(one.month) ?? []), one]);
  return [...months];
});
</script>

<template>
  <p v-if="closed" class="line" role="note">
    <strong>Closed on {{ dayMonth(closed.at) }}.</strong>
    <template v-if="intact === false">
      Its figures no longer fit their checksum: somebody altered them.</template
    >
    <template v-else>
      Paid for:
      {{
        Object.entries(closed.theirs)
          .map(([currency, minor]) => money(minor, currency))
          .join(' and ') || 'nothing'
      }}.
    </template>
    {{
      since.length === 0
        ? 'Nothing changed since.'
        : `Since then ${since.length} ${since.length === 1 ? 'change' : 'changes'}, ${sumOf(since)}; they count when they arrived.`
    }}
    <code :title="closed.checksum">{{ closed.checksum.slice(0, 12) }}</code>
  </p>
  <p v-for="[name, list] in arrived" :key="name" class="line" role="note">
    Adjustment of {{ monthWords(name) }}, closed before: {{ sumOf(list) }} in {{ list.length }}
    {{ list.length === 1 ? 'change' : 'changes' }}.
  </p>
</template>

<style scoped>
.line {
  margin: 6px 20px 0;
  font-size: 13px;
}
code {
  color: var(--ink-two);
}
</style>
