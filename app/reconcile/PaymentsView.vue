<script setup lang="ts">
import SortHeadings from '../theme/SortHeadings.vue';
import { computed, shallowRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { Owed, Owing } from '#core/reconcile';
import { useCatalogue } from '../data/catalogue.ts';
import type { Column } from '../data/tableLook.ts';
import { amountColumn, useTableLook } from '../data/tableLook.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { today } from '../data/today.ts';
import { count, money } from '../theme/formats.ts';
import BankFile from './payments/BankFile.vue';
import EarnedBy from './payments/EarnedBy.vue';
import PaymentForm from './payments/PaymentForm.vue';
import PaymentList from './payments/PaymentList.vue';
import PaymentTerms from './payments/PaymentTerms.vue';
import { monthWords } from './words.ts';

/** What came from a network, against what it approved, and what is still owed. */
const route = useRoute();
const catalogue = useCatalogue();
const journal = useJournal();
const day = today();
const network = computed(
  () =>
    catalogue.network(typeof route.params['network'] === 'string' ? route.params['network'] : undefined) ??
    catalogue.networks[0],
);
const payments = computed(() =>
  catalogue.payments
    .filter((one) => one.network === network.value?.id)
    .sort((a, b) => (a.day < b.day ? 1 : -1)),
);
const owing = shallowRef<Owing>({ months: [], payments: [], ahead: new Map() });
watch(
  [network, () => journal.news],
  async ([asked]) => {
    if (!asked) return;
    const found = await journalWorker.owed(asked.id, day);
    if (asked.id === network.value?.id) owing.value = found;
  },
  { immediate: true },
);
const totals = computed(() => {
  const currencies = new Set([
    ...owing.value.months.map((one) => one.currency),
    ...owing.value.ahead.keys(),
    network.value?.currency ?? 'EUR',
  ]);
  return [...currencies].map((currency) => {
    const chosen = owing.value.months.filter((one) => one.currency === currency);
    const late = chosen.filter((one) => one.late > 0);
    const sum = (list: readonly Owed[]) => list.reduce((total, one) => total + one.owed, 0);
    return {
      currency,
      owed: sum(chosen),
      ahead: owing.value.ahead.get(currency) ?? 0,
      late: sum(late),
      days: Math.max(0, ...late.map((one) => one.late)),
    };
  });
});
const deducts = computed(() => owing.value.months.some((one) => one.deducted !== 0));
const columns = computed((): readonly Column<Owed>[] => {
  const money = (name: string, title: string, key: (one: Owed) => number) =>
    amountColumn(name, title, key, ({ currency }) => currency);
  return [
    { name: 'month', title: 'Month', downFirst: true, key: ({ month }) => month },
    money('approved', 'Approved', ({ minor }) => minor),
    money('paid', 'Paid', ({ paid }) => paid),
    ...(deducts.value ? [money('deducted', 'Taken back', ({ deducted }) => deducted)] : []),
    money('owed', 'Owed', ({ owed }) => owed),
    { name: 'due', title: 'Due', key: ({ due }) => due },
  ];
});
const look = useTableLook('payments', () => columns.value, []);
const closed = computed(
  () =>
    new Set(
      catalogue.months
        .filter((one) => one.network === network.value?.id && one.shown)
        .map((one) => one.month),
    ),
);
const daysWords = (days: number) => `${count(days)} ${days === 1 ? 'day' : 'days'}`;
/** When a month is due, and how old what is owed is. */
const dueWords = (one: Owed): string => {
  if (one.owed <= 0) return '';
  if (!network.value?.pays) return `${daysWords(one.days)} old`;
  if (one.due === undefined) return 'too little to be paid yet';
  return one.late > 0 ? `${daysWords(one.late)} late` : `due on ${one.due}`;
};
</script>

<template>
  <div v-if="network" class="payments">
    <header>
      <text-link :to="{ name: 'reconcile', params: { network: network.id } }">← Balance</text-link>
      <h1>Payments of {{ network.name }}</h1>
    </header>
    <p v-for="total in totals" :key="total.currency" class="owed">
      <strong>{{ money(total.owed, total.currency) }}</strong> still owed<template v-if="total.late > 0"
        >, <b>{{ money(total.late, total.currency) }} of it late</b>, the oldest by
        {{ daysWords(total.days) }}</template
      ><template v-if="total.ahead !== 0">, {{ money(total.ahead, total.currency) }} paid ahead</template>
    </p>
    <payment-terms :key="network.id" :network="network" />
    <div class="both">
      <v-table density="compact" class="months">
        <sort-headings :columns="columns" :way-of="look.wayOf" @sort="look.sortBy" />
        <tbody>
          <tr v-for="one in look.sorted(owing.months.toReversed())" :key="one.month + one.currency">
            <td>
              {{ monthWords(one.month) }}<small v-if="closed.has(one.month)" class="quiet">closed</small>
            </td>
            <td class="number theirs">{{ money(one.minor, one.currency) }}</td>
            <td class="number">{{ money(one.paid, one.currency) }}</td>
            <td v-if="deducts" class="number">{{ money(one.deducted, one.currency) }}</td>
            <td class="number" :class="{ open: one.owed > 0 }">{{ money(one.owed, one.currency) }}</td>
            <td :class="{ open: one.late > 0 }">{{ dueWords(one) }}</td>
          </tr>
        </tbody>
      </v-table>
      <div class="side">
        <section aria-label="Payments received">
          <h2>Received</h2>
          <payment-form :key="network.id" :network="network" :owing="owing" />
          <bank-file :network="network" />
          <payment-list :payments="payments" :owing="owing" />
        </section>
        <earned-by :network="network.id" :today="day" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.payments {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 12px;
}
.owed {
  margin: 6px 0;
}
.owed strong {
  font-size: 19px;
  font-weight: 500;
  color: var(--copper);
}
.owed b {
  font-weight: 600;
  color: var(--copper);
}
.both {
  display: flex;
  flex-wrap: wrap;
  gap: 20px 48px;
  align-items: flex-start;
  margin-top: 14px;
}
.months {
  flex: none;
  max-width: 100%;
}
.months small {
  display: block;
  font-size: 12px;
}
.number {
  text-align: right !important;
  white-space: nowrap;
}
.theirs {
  color: var(--slate);
}
.side {
  flex: 1;
  min-width: min(420px, 100%);
}
.side section + section {
  margin-top: 24px;
}
.open {
  color: var(--copper);
}
@media (max-width: 760px) {
  .months th,
  .months td {
    padding: 0 6px !important;
  }
}
</style>
