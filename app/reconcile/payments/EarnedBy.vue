<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { EarnedByTag, EarnedSum } from '#core/queries';
import { journalWorker, useJournal } from '../../data/journal.ts';
import { money } from '../../theme/formats.ts';
import Arriving from '../Arriving.vue';
import { monthWords } from '../words.ts';

/** What each account tag earned with a network in a month, beside the whole site. */
const props = defineProps<{ network: string; today: string }>();
const journal = useJournal();
const months = shallowRef<readonly string[]>([]);
const month = ref('');
const earned = shallowRef<readonly EarnedByTag[]>([]);
watch(
  [() => props.network, () => journal.news],
  async ([asked]) => {
    const found = await journalWorker.months(asked);
    if (asked !== props.network) return;
    months.value = found;
    if (!found.includes(month.value))
      month.value = found.find((one) => one < props.today.slice(0, 7)) ?? found[0] ?? '';
  },
  { immediate: true },
);
watch(
  [() => props.network, month, () => journal.news, () => journal.arriving],
  async ([asked, chosen, , arriving]) => {
    if (arriving || chosen === '') return;
    const found = await journalWorker.earnedByTag(asked, chosen);
    if (chosen === month.value && asked === props.network) earned.value = found;
  },
);
const site = computed(() => {
  const found = new Map<string, EarnedSum>();
  for (const { currency, ours, theirs, sales } of earned.value.flatMap(({ sums }) => sums)) {
    const before = found.get(currency) ?? { currency, ours: 0, theirs: 0, sales: 0 };
    found.set(currency, {
      currency,
      ours: before.ours + ours,
      theirs: before.theirs + theirs,
      sales: before.sales + sales,
    });
  }
  return [...found.values()];
});
</script>

<template>
  <section aria-label="Earned by">
    <h2>
      Earned by
      <v-select
        v-model="month"
        class="month"
        aria-label="Month"
        :items="months.map((one) => ({ value: one, title: monthWords(one) }))"
      />
    </h2>
    <arriving v-if="journal.arriving" />
    <v-table v-else density="compact">
      <thead>
        <tr>
          <th scope="col">Tag</th>
          <th scope="col">Who</th>
          <th scope="col" class="number">Sales</th>
          <th scope="col" class="number">We heard</th>
          <th scope="col" class="number">They report</th>
        </tr>
      </thead>
      <tbody v-for="one in earned" :key="one.tag">
        <tr v-for="sum in one.sums" :key="sum.currency">
          <td class="mono">{{ one.tag || '—' }}</td>
          <td>{{ one.tag === '' ? 'no click found' : one.owner || 'not registered' }}</td>
          <td class="number">{{ sum.sales }}</td>
          <td class="number ours">{{ money(sum.ours, sum.currency) }}</td>
          <td class="number theirs">{{ money(sum.theirs, sum.currency) }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr v-for="sum in site" :key="sum.currency">
          <td colspan="2">The whole site</td>
          <td class="number">{{ sum.sales }}</td>
          <td class="number ours">{{ money(sum.ours, sum.currency) }}</td>
          <td class="number theirs">{{ money(sum.theirs, sum.currency) }}</td>
        </tr>
      </tfoot>
    </v-table>
  </section>
</template>

<style scoped>
h2 {
  display: flex;
  align-items: center;
  gap: 10px;
}
.month {
  flex: none;
  width: 190px;
  font-family: 'Figtree Variable', sans-serif;
}
.number {
  text-align: right !important;
}
.ours {
  color: var(--fern);
}
.theirs {
  color: var(--slate);
}
tfoot td {
  font-weight: 600;
}
.arriving {
  padding: 10px 0;
}
</style>
