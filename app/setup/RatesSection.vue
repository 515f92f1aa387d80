<script setup lang="ts">
import DayField from '../theme/DayField.vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { checkRecord, firstProblem, sameId } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import type { Row } from '../sync/index.ts';
import { today } from '../data/today.ts';
import { useNotice } from '../shell/notice.ts';

/** What other currencies are worth, by the person's own word; without it nothing is added across currencies. */
const catalogue = useCatalogue();
const notice = useNotice();
const to = computed(() => catalogue.settings.currency);
const draft = ref({ from: '', day: today(), rate: '', source: '' });
const problem = ref('');
const others = computed(() => [
  ...new Set([
    ...catalogue.networks.map(({ currency }) => currency),
    ...catalogue.rates.map(({ from }) => from),
  ]),
]);
const rates = computed(() =>
  [...catalogue.rates].sort((a, b) => (a.day < b.day ? 1 : a.day > b.day ? -1 : a.from < b.from ? -1 : 1)),
);
/** The rate of that day that was given already; it is asked whether the new one replaces it. */
const asked = shallowRef<Row | undefined>();
watch(draft, () => (asked.value = undefined), { deep: true });
const add = async () => {
  const from = draft.value.from.trim().toUpperCase();
  const checked = checkRecord('rate', {
    id: sameId('rat', from, to.value, draft.value.day),
    from,
    to: to.value,
    day: draft.value.day,
    rate: draft.value.rate.trim().replace(',', '.'),
    source: draft.value.source.trim(),
  });
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  const { id } = checked.value;
  const given = catalogue.rowNow(id);
  if (given?.value && asked.value?.record !== id) {
    asked.value = given;
    return;
  }
  // Whoever gave one meanwhile gave the first: both are asked which stands.
  await catalogue.saveRecord('rate', checked.value, asked.value ?? { record: id, kind: 'rate', value: null });
  asked.value = undefined;
  draft.value = { ...draft.value, rate: '' };
};
const remove = async (id: string) => {
  notice.did('The rate is taken away.', await catalogue.save({ kind: 'rate', value: null, id }));
};
</script>

<template>
  <section id="rates" aria-labelledby="h-rates">
    <h2 id="h-rates">Exchange rates</h2>
    <p class="quiet">
      Currencies are never added by themselves. With a rate of yours, a total in {{ to }} is shown beside
      them; the newest rate up to the end of a month counts for it, in Decide the newest up to the day of each
      cost and click.
    </p>
    <form @submit.prevent="add">
      <span>1</span>
      <v-combobox
        :model-value="draft.from"
        single-line
        class="small-field code"
        :items="others"
        maxlength="3"
        placeholder="USD"
        aria-label="Currency"
        @update:model-value="draft.from = $event ?? ''"
      />
      <span>is</span>
      <v-text-field
        v-model="draft.rate"
        single-line
        class="small-field rate"
        inputmode="decimal"
        placeholder="0.9231"
        :aria-label="`Worth in ${to}`"
      />
      <span>{{ to }} on</span>
      <day-field v-model="draft.day" aria-label="Day of the rate" />
      <span>by</span>
      <v-text-field
        v-model="draft.source"
        single-line
        class="small-field"
        maxlength="200"
        placeholder="where it is from"
        aria-label="Source of the rate"
      />
      <v-btn
        type="submit"
        class="quiet-button"
        :disabled="draft.from.trim() === '' || draft.rate.trim() === '' || draft.source.trim() === ''"
        >{{ asked ? 'Replace it' : 'Add rate' }}</v-btn
      >
    </form>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <p v-if="asked" class="bad" role="alert">
      A rate of that day is given already, below. Is it to be replaced?
    </p>
    <ul>
      <li v-for="one in rates" :key="one.id">
        <span>1 {{ one.from }} = {{ one.rate }} {{ one.to }}</span>
        <span class="quiet">{{ one.day }}, {{ one.source }}</span>
        <text-link :aria-label="`Take away the rate of ${one.from} of ${one.day}`" @click="remove(one.id)">
          take away
        </text-link>
      </li>
    </ul>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.code {
  width: 92px;
}
.rate {
  width: 90px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 14px;
  padding: 5px 0;
  border-bottom: 1px solid var(--line);
}
li .text-link {
  margin-left: auto;
}
.bad {
  color: var(--copper);
}
</style>
