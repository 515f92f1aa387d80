<script setup lang="ts">
import type { Payment } from '#core/catalogue';
import { firstProblem } from '#core/catalogue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { EarnedByTag, EarnedSum } from '#core/queries';
import { readAmount } from '#core/values';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { newId } from '../data/random.ts';
import { useNotice } from '../shell/notice.ts';
import { money } from '../theme/formats.ts';
import Arriving from './Arriving.vue';
import { monthWords } from './words.ts';

/** What came from a network, against what it approved, and what is still owed. */
const route = useRoute();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const today = new Date().toISOString().slice(0, 10);
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
const draft = ref({ day: today, amount: '', currency: '', note: '' });
const problem = ref('');
const owed = shallowRef<Awaited<ReturnType<typeof journalWorker.owed>>>({ months: [], ahead: new Map() });
watch(
  [network, () => journal.news],
  async ([asked]) => {
    if (asked) owed.value = await journalWorker.owed(asked.id, today);
  },
  { immediate: true },
);
const months = shallowRef<readonly string[]>([]);
const month = ref('');
const earned = shallowRef<readonly EarnedByTag[]>([]);
watch(
  [network, () => journal.news],
  async ([chosen]) => {
    if (!chosen) return;
    months.value = await journalWorker.months(chosen.id);
    if (!months.value.includes(month.value))
      month.value = months.value.find((one) => one < today.slice(0, 7)) ?? months.value[0] ?? '';
  },
  { immediate: true },
);
watch([network, month, () => journal.news, () => journal.arriving], async ([asked, chosen, , arriving]) => {
  if (arriving || !asked) return;
  const found = await journalWorker.earnedByTag(asked.id, chosen);
  if (chosen === month.value && asked.id === network.value?.id) earned.value = found;
});
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
const currencies = computed(() => [
  ...new Set([...owed.value.months.map((one) => one.currency), network.value?.currency ?? 'EUR']),
]);
const totals = computed(() =>
  currencies.value.map((currency) => {
    const chosen = owed.value.months.filter((one) => one.currency === currency);
    return {
      currency,
      owed: chosen.reduce((sum, one) => sum + one.owed, 0),
      ahead: owed.value.ahead.get(currency) ?? 0,
    };
  }),
);
const isLike = (a: Payment, b: Omit<Payment, 'id' | 'note'>): boolean =>
  a.network === b.network && a.day === b.day && a.amount === b.amount && a.currency === b.currency;
/** Those that stand twice: by one hand or by two, one of them is too many. */
const twice = computed(
  () =>
    new Set(
      payments.value.flatMap((one, i) =>
        payments.value.slice(i + 1).some((other) => isLike(one, other)) ? [one.id] : [],
      ),
    ),
);
/** What was typed is like one that is noted already; it is asked whether it is another. */
const asked = ref('');
watch(draft, () => (asked.value = ''), { deep: true });
const add = async () => {
  const chosen = network.value;
  if (!chosen) return;
  const currency = draft.value.currency || (currencies.value[0] ?? 'EUR');
  const read = readAmount(draft.value.amount, currency);
  problem.value = firstProblem(read);
  if (!read.ok) return;
  const { day, note } = draft.value;
  const typed = { network: chosen.id, day, amount: read.value, currency };
  const typedText = JSON.stringify(typed);
  if (asked.value !== typedText && payments.value.some((one) => isLike(one, typed))) {
    asked.value = typedText;
    return;
  }
  const step = await catalogue.saveRecord('payment', { id: newId('pay'), ...typed, note });
  asked.value = '';
  notice.did(`${money(read.value, currency)} from ${chosen.name} is noted.`, step);
  draft.value = { ...draft.value, amount: '', note: '' };
};
const remove = async (id: string) => {
  notice.did('The payment is taken away.', await catalogue.save({ kind: 'payment', value: null, id }));
};
</script>

<template>
  <div v-if="network" class="payments">
    <header>
      <router-link class="text-link" :to="{ name: 'reconcile', params: { network: network.id } }"
        >← Balance</router-link
      >
      <h1>Payments of {{ network.name }}</h1>
    </header>
    <p v-for="total in totals" :key="total.currency" class="owed">
      <strong>{{ money(total.owed, total.currency) }}</strong> still owed
      <template v-if="total.ahead !== 0">, {{ money(total.ahead, total.currency) }} paid ahead</template>
    </p>
    <div class="both">
      <table>
        <thead>
          <tr>
            <th scope="col">Month</th>
            <th scope="col" class="number">Approved</th>
            <th scope="col" class="number">Paid</th>
            <th scope="col" class="number">Owed</th>
            <th scope="col" class="number">Days since</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in [...owed.months].reverse()" :key="one.month + one.currency">
            <td>{{ monthWords(one.month) }}</td>
            <td class="number theirs">{{ money(one.minor, one.currency) }}</td>
            <td class="number">{{ money(one.paid, one.currency) }}</td>
            <td class="number" :class="{ open: one.owed > 0 }">{{ money(one.owed, one.currency) }}</td>
            <td class="number">{{ one.owed > 0 ? one.days : '' }}</td>
          </tr>
        </tbody>
      </table>
      <div class="side">
        <section aria-label="Payments received">
          <h2>Received</h2>
          <form @submit.prevent="add">
            <input v-model="draft.day" type="date" aria-label="Day" />
            <input v-model="draft.amount" aria-label="Amount" placeholder="1250.00" inputmode="decimal" />
            <select v-model="draft.currency" aria-label="Currency">
              <option value="">{{ currencies[0] }}</option>
              <option v-for="one in currencies.slice(1)" :key="one">{{ one }}</option>
            </select>
            <input v-model="draft.note" class="note" aria-label="Note" placeholder="Note" maxlength="500" />
            <v-btn type="submit" color="primary" :disabled="draft.amount.trim() === ''">{{
              asked === '' ? 'Note it' : 'Note it all the same'
            }}</v-btn>
          </form>
          <p v-if="asked !== ''" class="open" role="alert">
            This sum of this day is noted already. Is it a second payment?
          </p>
          <p v-if="problem" class="open" role="alert">{{ problem }}</p>
          <ul>
            <li v-for="one in payments" :key="one.id">
              <span>{{ one.day }}</span>
              <b>{{ money(one.amount, one.currency) }}</b>
              <span class="quiet">{{ one.note }}</span>
              <span v-if="twice.has(one.id)" class="open">noted twice?</span>
              <button class="text-link" type="button" @click="remove(one.id)">take away</button>
            </li>
          </ul>
          <p v-if="payments.length === 0" class="quiet">Nothing was noted yet.</p>
        </section>
        <section aria-label="Earned by">
          <h2>
            Earned by
            <select v-model="month" aria-label="Month">
              <option v-for="one in months" :key="one" :value="one">{{ monthWords(one) }}</option>
            </select>
          </h2>
          <arriving v-if="journal.arriving" />
          <table v-else>
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
          </table>
        </section>
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
  align-items: baseline;
  gap: 12px;
}
.owed {
  margin: 6px 0;
}
.owed strong {
  font-size: 19px;
  font-weight: 500;
  color: var(--copper);
}
.both {
  display: flex;
  flex-wrap: wrap;
  gap: 20px 48px;
  align-items: flex-start;
  margin-top: 14px;
}
th,
td {
  padding: 6px 18px 6px 0;
  text-align: left;
  border-bottom: 1px solid var(--line);
}
th {
  font-size: 12px;
  font-weight: 500;
  color: var(--ink-two);
}
.number {
  text-align: right;
}
.ours {
  color: var(--fern);
}
.theirs {
  color: var(--slate);
}
.side {
  flex: 1;
  min-width: 320px;
}
.side section + section {
  margin-top: 24px;
}
h2 select {
  height: 30px;
  font:
    14px 'Figtree Variable',
    sans-serif;
}
tfoot td {
  font-weight: 600;
}
.open {
  color: var(--copper);
}
form,
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
form {
  margin: 8px 0;
}
input,
select {
  height: 36px;
  padding: 0 8px;
  color: var(--ink);
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-button);
}
input[inputmode] {
  width: 110px;
}
.note {
  flex: 1;
  min-width: 120px;
}
ul {
  padding: 0;
  list-style: none;
}
li {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
li .quiet {
  flex: 1;
}
.arriving {
  padding: 10px 0;
}
</style>
