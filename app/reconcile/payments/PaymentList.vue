<script setup lang="ts">
import { computed } from 'vue';
import type { Payment } from '#core/catalogue';
import type { Owing } from '#core/reconcile';
import { useCatalogue } from '../../data/catalogue.ts';
import { useNotice } from '../../shell/notice.ts';
import { money } from '../../theme/formats.ts';
import { monthWords } from '../words.ts';
import { isLike } from './settling.ts';

/** The payments that came from a network, each with what it was laid on. */
const props = defineProps<{ payments: readonly Payment[]; owing: Owing }>();
const catalogue = useCatalogue();
const notice = useNotice();
/** Those that stand twice: by one hand or by two, one of them is too many. */
const twice = computed(
  () =>
    new Set(
      props.payments.flatMap((one, i) =>
        props.payments.slice(i + 1).some((other) => isLike(one, other)) ? [one.id] : [],
      ),
    ),
);
const laid = computed(
  () =>
    new Map(
      props.owing.payments.map(({ id, worth, currency, laid: parts, left }) => [
        id,
        {
          worth: money(worth, currency),
          words: [
            ...parts.map(({ month, minor }) => `${money(minor, currency)} on ${monthWords(month)}`),
            ...(left > 0 ? [`${money(left, currency)} ahead`] : []),
            ...(left < 0 ? [`${money(-left, currency)} more taken back than was paid`] : []),
          ].join(', '),
        },
      ]),
    ),
);
const remove = async (id: string) => {
  notice.did('The payment is taken away.', await catalogue.save({ kind: 'payment', value: null, id }));
};
</script>

<template>
  <ul v-if="payments.length > 0">
    <li v-for="one in payments" :key="one.id">
      <span class="day">{{ one.day }}</span>
      <b>{{ money(one.amount, one.currency) }}</b>
      <span class="words">
        <template v-if="one.fee">and {{ money(one.fee, one.currency) }} taken off, </template>
        <template v-if="one.settles"
          >at {{ one.settles.rate }} {{ one.settles.currency }}: {{ laid.get(one.id)?.worth }},
        </template>
        {{ laid.get(one.id)?.words }}
        <small v-if="one.note !== ''" class="quiet">{{ one.note }}</small>
      </span>
      <span v-if="twice.has(one.id)" class="open">noted twice?</span>
      <text-link @click="remove(one.id)">take away</text-link>
    </li>
  </ul>
  <p v-else class="quiet">Nothing was noted yet.</p>
</template>

<style scoped>
ul {
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 10px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.day {
  color: var(--ink-two);
}
.words {
  flex: 1;
  min-width: 160px;
  font-size: 13px;
}
small {
  display: block;
  font-size: 12px;
}
.open {
  color: var(--copper);
}
</style>
