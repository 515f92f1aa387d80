<script setup lang="ts">
import DayField from '../../theme/DayField.vue';
import { computed, ref, watch } from 'vue';
import type { Network } from '#core/catalogue';
import { firstProblem } from '#core/catalogue';
import type { Owing } from '#core/reconcile';
import { worthOf } from '#core/reconcile';
import { readAmount } from '#core/values';
import { useCatalogue } from '../../data/catalogue.ts';
import { newId } from '../../data/random.ts';
import { useNotice } from '../../shell/notice.ts';
import { today } from '../../data/today.ts';
import { money } from '../../theme/formats.ts';
import { monthWords } from '../words.ts';
import type { PaymentDraft } from './settling.ts';
import { isLike, settling } from './settling.ts';

/** Notes one payment: what arrived, what was taken off on the way, what it settles and which months it is for. */
const props = defineProps<{ network: Network; owing: Owing }>();
const catalogue = useCatalogue();
const notice = useNotice();
const empty = () => ({
  day: today(),
  amount: '',
  currency: '',
  note: '',
  fee: '',
  settles: '',
  rate: '',
  months: [] as string[],
});
const draft = ref(empty());
const more = ref(false);
const problem = ref('');
const owedIn = computed(() => [...new Set(props.owing.months.map((one) => one.currency))]);
const currency = computed(() => draft.value.currency || (owedIn.value[0] ?? props.network.currency));
const currencies = computed(() => [
  ...new Set([...owedIn.value, props.network.currency, ...Intl.supportedValuesOf('currency')]),
]);
/** What it settles where nothing is owed in what arrived; its rate is the person's own of that day. */
const proposed = computed(() =>
  settling(currency.value, draft.value.day, owedIn.value, props.network.currency, catalogue.rates),
);
const settles = computed(() => draft.value.settles || (proposed.value?.currency ?? ''));
const converts = computed(() => settles.value !== '' && settles.value !== currency.value);
watch([proposed, () => props.network.id], ([found]) => (draft.value.rate = found?.rate ?? ''));
const openMonths = computed(() =>
  props.owing.months
    .filter((one) => one.currency === (settles.value || currency.value) && one.minor > 0)
    .map(({ month, owed, currency: of }) => ({
      value: month,
      title: `${monthWords(month)}, ${owed === 0 ? 'paid' : `${money(owed, of)} owed`}`,
    })),
);
/** The payment as typed, or what is wrong with it. */
const typed = computed((): PaymentDraft | string => {
  const { day, amount, note, fee, rate, months } = draft.value;
  const read = readAmount(amount, currency.value);
  if (day === '') return 'Say on which day it arrived.';
  if (!read.ok) return firstProblem(read);
  const taken = fee.trim() === '' ? undefined : readAmount(fee, currency.value);
  if (taken && !taken.ok) return firstProblem(taken);
  if (taken && taken.value < 0) return 'What was taken off is typed without a minus.';
  if (converts.value && !/^\d{1,9}(?:\.\d{1,9})?$/.test(rate.trim()))
    return `Give the rate of that day: how many ${settles.value} one ${currency.value} was, such as 0.9231.`;
  return {
    network: props.network.id,
    day,
    amount: read.value,
    currency: currency.value,
    note,
    ...(taken && taken.value > 0 && { fee: taken.value }),
    ...(converts.value && { settles: { currency: settles.value, rate: rate.trim() } }),
    ...(months.length > 0 && { months: [...months].sort() }),
  };
});
const worth = computed(() => (typeof typed.value === 'string' ? undefined : worthOf(typed.value)));
/** What was typed is like one that is noted already; it is asked whether it is another. */
const asked = ref('');
watch(draft, () => (asked.value = ''), { deep: true });
const add = async () => {
  const one = typed.value;
  problem.value = typeof one === 'string' ? one : '';
  if (typeof one === 'string') return;
  const text = JSON.stringify(one);
  if (asked.value !== text && catalogue.payments.some((other) => isLike(other, one))) {
    asked.value = text;
    return;
  }
  const step = await catalogue.saveRecord('payment', { id: newId('pay'), ...one });
  asked.value = '';
  notice.did(`${money(one.amount, one.currency)} from ${props.network.name} is noted.`, step);
  draft.value = { ...empty(), day: draft.value.day, currency: draft.value.currency, rate: draft.value.rate };
};
</script>

<template>
  <form class="payment" @submit.prevent="add">
    <day-field v-model="draft.day" class="day" label="Day" />
    <v-text-field v-model="draft.amount" class="money" label="Amount" inputmode="decimal" />
    <v-autocomplete
      :model-value="currency"
      class="currency"
      label="Currency"
      :items="currencies"
      @update:model-value="draft.currency = $event ?? ''"
    />
    <v-text-field v-model="draft.note" class="note" label="Note" maxlength="500" />
    <template v-if="more || converts">
      <v-select
        v-model="draft.months"
        class="months"
        label="Months it is for"
        :items="openMonths"
        multiple
        chips
        closable-chips
        placeholder="the oldest that is owed"
        persistent-placeholder
      />
      <v-text-field v-model="draft.fee" class="fee" label="Taken off on the way" inputmode="decimal" />
      <v-select
        :model-value="settles || currency"
        class="currency"
        label="Settles"
        :items="[...new Set([currency, ...owedIn, network.currency])]"
        @update:model-value="draft.settles = $event ?? ''"
      />
      <v-text-field
        v-if="converts"
        v-model="draft.rate"
        class="rate"
        :label="`${settles} for one ${currency}`"
        inputmode="decimal"
      />
    </template>
    <v-btn type="submit" color="primary" :disabled="draft.amount.trim() === ''">{{
      asked === '' ? 'Note it' : 'Note it all the same'
    }}</v-btn>
    <v-btn v-if="!more && !converts" class="quiet-button" @click="more = true">Months, fee, rate</v-btn>
    <p v-if="worth && typeof typed !== 'string' && (typed.fee || typed.settles)" class="quiet">
      Lays {{ money(worth.minor, worth.currency) }} on what is owed.
    </p>
    <p v-if="asked !== ''" class="open" role="alert">
      This sum of this day is noted already. Is it a second payment?
    </p>
    <p v-if="problem" class="open" role="alert">{{ problem }}</p>
  </form>
</template>

<style scoped>
.payment {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 14px 8px;
  margin: 10px 0 14px;
}
.payment > * {
  flex: none;
}
.day {
  width: 150px;
}
.money {
  width: 130px;
}
.currency {
  width: 110px;
}
.rate,
.fee {
  width: 170px;
}
.note {
  flex: 1;
  min-width: 140px;
}
.months {
  flex: 1;
  min-width: 240px;
}
.payment > p {
  flex-basis: 100%;
  margin: 0;
}
.open {
  color: var(--copper);
}
</style>
