<script setup lang="ts">
import SortHeadings from '../../theme/SortHeadings.vue';
import { computed, ref, shallowRef, watch } from 'vue';
import type { EarnedByTag, EarnedSum } from '#core/queries';
import { journalWorker, useJournal } from '../../data/journal.ts';
import type { Column } from '../../data/tableLook.ts';
import { amountColumn, useTableLook } from '../../data/tableLook.ts';
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
    if (chosen === month.value && asked === props.network && !journal.arriving) earned.value = found;
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
const rows = computed(() =>
  earned.value.flatMap(({ tag, owner, sums }) =>
    sums.map((sum) => ({
      ...sum,
      tag,
      who: tag === '' ? 'no click found' : owner || 'not registered',
    })),
  ),
);
type Row = (typeof rows.value)[number];
const columns: readonly Column<Row>[] = [
  { name: 'tag', title: 'Tag', key: ({ tag }) => tag || undefined },
  { name: 'who', title: 'Who', key: ({ who }) => who },
  { name: 'sales', title: 'Sales', number: true, downFirst: true, key: ({ sales }) => sales },
  amountColumn(
    'ours',
    'We heard',
    ({ ours }) => ours,
    ({ currency }) => currency,
  ),
  amountColumn(
    'theirs',
    'They report',
    ({ theirs }) => theirs,
    ({ currency }) => currency,
  ),
];
const look = useTableLook('earned', () => columns, []);
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
      <text-link :to="{ name: 'writers', query: { month } }">Statements</text-link>
    </h2>
    <arriving v-if="journal.arriving" />
    <v-table v-else density="compact">
      <sort-headings :columns="columns" :way-of="look.wayOf" @sort="look.sortBy" />
      <tbody>
        <tr v-for="one in look.sorted(rows)" :key="`${one.tag} ${one.currency}`">
          <td class="mono">{{ one.tag || '—' }}</td>
          <td>{{ one.who }}</td>
          <td class="number">{{ one.sales }}</td>
          <td class="number ours">{{ money(one.ours, one.currency) }}</td>
          <td class="number theirs">{{ money(one.theirs, one.currency) }}</td>
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
