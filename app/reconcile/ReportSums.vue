<script setup lang="ts">
import { computed } from 'vue';
import type { StateSum } from '#core/conversions';
import { count, money } from '../theme/formats.ts';

/** The money of a file by currency and state, and what earlier reports said of the same days. */
const props = defineProps<{ sums: readonly StateSum[]; before: readonly StateSum[] }>();

const keyOf = ({ currency, status }: StateSum) => `${currency} ${status}`;
const lines = computed(() => {
  const before = new Map(props.before.map((sum) => [keyOf(sum), sum]));
  const now = new Map(props.sums.map((sum) => [keyOf(sum), sum]));
  const both = [...props.sums, ...props.before.filter((sum) => !now.has(keyOf(sum)))];
  return both.map((sum) => ({
    key: keyOf(sum),
    name: sum.status === 'refund' ? 'refunds' : sum.status,
    now: now.get(keyOf(sum)),
    before: before.get(keyOf(sum)),
  }));
});
const moneyOf = (sum: StateSum | undefined) =>
  sum === undefined ? '–' : sum.minor === null ? 'priced by terms' : money(sum.minor, sum.currency);
</script>

<template>
  <v-table v-if="lines.length > 0" class="sums" density="compact">
    <thead>
      <tr>
        <th scope="col">State</th>
        <th scope="col">Rows</th>
        <th scope="col">Commission</th>
        <th v-if="before.length > 0" scope="col">Known before</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="line in lines" :key="line.key">
        <td>{{ line.name }}</td>
        <td>{{ line.now ? count(line.now.rows) : '–' }}</td>
        <td>{{ moneyOf(line.now) }}</td>
        <td v-if="before.length > 0" class="quiet">{{ moneyOf(line.before) }}</td>
      </tr>
    </tbody>
  </v-table>
</template>

<style scoped>
/* As wide as its figures, not as the screen. */
.sums {
  width: fit-content;
  margin: 8px 0;
  background: transparent;
}
.sums td {
  font-size: 14px;
}
.sums td:nth-child(n + 2),
.sums th:nth-child(n + 2) {
  text-align: right;
}
</style>
