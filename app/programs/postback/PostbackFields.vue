<script setup lang="ts">
import MoreText from '../../theme/MoreText.vue';
import { computed, ref } from 'vue';
import type { Network, PostbackField, Status } from '#core/catalogue';
import { checkRecord, clickSlot, firstProblem, postbackFields, statuses } from '#core/catalogue';
import { learnPostback, withLearned } from '#core/conversions';
import { useCatalogue } from '../../data/catalogue.ts';
import type { Row } from '../../sync/index.ts';
import { fieldWords } from './fieldWords.ts';

/** What a network calls each value, by name or learned from an example, and its words for a state. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const draft = ref<Record<PostbackField, { name: string; placeholder: string }>>();
const words = ref<{ word: string; means: Status }[]>([]);
const currencyWords = ref<{ word: string; means: string }[]>([]);
const decimalWays = [
  { value: '', title: 'Amounts come plain, such as 1234.56; ask about others' },
  { value: '.', title: 'A point before the decimals: $1,234.56' },
  { value: ',', title: 'A comma before the decimals: 1.234,56' },
] as const;
const decimal = ref<'' | '.' | ','>('');
const caseMatters = ref(false);
const currencies = Intl.supportedValuesOf('currency');
const adds = ref(false);
const recurs = ref('');
const example = ref('');
const problem = ref('');

const known = computed(() =>
  postbackFields.flatMap((field) => {
    const { placeholders, fields } = props.network.postback;
    return placeholders[field] || fields[field]
      ? [{ field, name: fields[field] ?? field, placeholder: placeholders[field] ?? '' }]
      : [];
  }),
);
/** The network as it was when the form was opened. */
let began: Row | undefined;
const edit = () => {
  began = catalogue.rowNow(props.network.id);
  const { placeholders, fields, statuses: meant, amounts, recurs: again = [] } = props.network.postback;
  const fieldRow = (field: PostbackField) => ({
    name: fields[field] ?? '',
    placeholder: placeholders[field] ?? '',
  });
  draft.value = {
    click: fieldRow('click'),
    event: fieldRow('event'),
    status: fieldRow('status'),
    amount: fieldRow('amount'),
    currency: fieldRow('currency'),
    txn: fieldRow('txn'),
    at: fieldRow('at'),
  };
  words.value = Object.entries(meant).map(([word, means]) => ({ word, means }));
  adds.value = amounts === 'add';
  const { decimal: sign = '', currencies: named = {}, caseMatters: telling } = props.network.postback;
  decimal.value = sign;
  caseMatters.value = telling === true;
  currencyWords.value = Object.entries(named).map(([word, code]) => ({ word, means: code }));
  recurs.value = again.join(', ');
  example.value = '';
  problem.value = '';
};
/** Takes what an example shows: names of parameters, and placeholders where it is an address to be set. */
const learn = () => {
  const found = learnPostback(example.value, clickSlot(props.network.slots)?.name);
  if (!draft.value || found.length === 0) {
    problem.value =
      'No parameters and no placeholders are in it. Paste the whole address, the table of placeholders, or the body that came.';
    return;
  }
  problem.value = '';
  const form = draft.value;
  const taught = withLearned(
    {
      placeholders: {},
      fields: {},
      statuses: Object.fromEntries(words.value.map(({ word, means }) => [word, means])),
    },
    found,
  );
  for (const field of postbackFields) {
    if (found.some((pair) => pair.field === field)) form[field].name = taught.fields[field] ?? '';
    form[field].placeholder = taught.placeholders[field] ?? form[field].placeholder;
  }
  words.value = Object.entries(taught.statuses).map(([word, means]) => ({ word, means }));
};
const save = async () => {
  if (!draft.value) return;
  const { recurs: _, decimal: __, currencies: ___, caseMatters: ____, ...postback } = props.network.postback;
  const named = currencyWords.value.filter(({ word, means }) => word.trim() !== '' && means !== '');
  const again = recurs.value
    .toLowerCase()
    .split(',')
    .map((name) => name.trim())
    .filter(Boolean);
  const given = (part: 'name' | 'placeholder') =>
    Object.fromEntries(
      Object.entries(draft.value ?? {}).flatMap(([field, { [part]: text }]) =>
        text.trim() === '' || (part === 'name' && text.trim() === field) ? [] : [[field, text.trim()]],
      ),
    );
  const checked = checkRecord('network', {
    ...JSON.parse(JSON.stringify(props.network)),
    postback: {
      ...JSON.parse(JSON.stringify(postback)),
      placeholders: given('placeholder'),
      fields: given('name'),
      statuses: Object.fromEntries(
        words.value
          .filter(({ word }) => word.trim() !== '')
          .map(({ word, means }) => [word.trim().toLowerCase(), means]),
      ),
      amounts: adds.value ? 'add' : 'replace',
      ...(again.length > 0 && { recurs: again }),
      ...(decimal.value !== '' && { decimal: decimal.value }),
      ...(named.length > 0 && {
        currencies: Object.fromEntries(named.map(({ word, means }) => [word.trim().toLowerCase(), means])),
      }),
      ...(caseMatters.value && { caseMatters: true }),
    },
  });
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  await catalogue.saveRecord('network', checked.value, began);
  draft.value = undefined;
};
</script>

<template>
  <p v-if="!draft" class="known">
    <span v-for="one in known" :key="one.field"
      ><span class="quiet">{{ fieldWords[one.field] }}</span> <code>{{ one.name }}</code>
      <code v-if="one.placeholder" class="quiet">{{ one.placeholder }}</code></span
    >
    <text-link @click="edit">Change what it calls them</text-link>
  </p>
  <form v-else @submit.prevent="save">
    <div class="learn">
      <v-textarea
        v-model="example"
        label="What its help page says: an address, a table of placeholders, or a postback that came"
        class="mono"
        :rows="2"
        auto-grow
        @keydown.enter.exact.prevent="learn"
      />
      <v-btn class="quiet-button" size="default" @click="learn">Read it</v-btn>
    </div>
    <small-table>
      <thead>
        <tr>
          <th scope="col">Value</th>
          <th scope="col">Name of its parameter</th>
          <th scope="col">Placeholder at the network</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="field in postbackFields" :key="field">
          <th scope="row">{{ fieldWords[field] }}</th>
          <td>
            <v-text-field
              v-model="draft[field].name"
              single-line
              class="small-field mono"
              :placeholder="field"
              :aria-label="`Name of the parameter with the ${fieldWords[field]}`"
            />
          </td>
          <td>
            <v-text-field
              v-model="draft[field].placeholder"
              single-line
              class="small-field mono"
              :aria-label="`Placeholder of the ${fieldWords[field]}`"
            />
          </td>
        </tr>
      </tbody>
    </small-table>
    <more-text summary="How placeholders look">
      <p>
        A network writes its own values into the address where its placeholders stand. Common styles are
        <code>{name}</code>, <code>[[name]]</code>, <code>%name%</code>, <code>#name#</code>,
        <code>${name}</code> and <code>&lt;name&gt;</code>. Copy them letter by letter from its help page; a
        placeholder it does not know arrives as it stands, and the conversion comes without that value.
      </p>
    </more-text>
    <h4 class="caps">Its words for a state</h4>
    <div v-for="(one, i) in words" :key="i" class="word">
      <v-text-field
        v-model="one.word"
        single-line
        class="small-field mono"
        aria-label="Word of the network"
      />
      <span class="quiet">means</span>
      <v-select v-model="one.means" single-line class="small-field" :items="statuses" aria-label="Meaning" />
      <text-link :aria-label="`Take ${one.word} away`" @click="words.splice(i, 1)"> Take away </text-link>
    </div>
    <text-link @click="words.push({ word: '', means: 'pending' })"> Add a word </text-link>
    <h4 class="caps">Its words for a currency</h4>
    <div v-for="(one, i) in currencyWords" :key="i" class="word">
      <v-text-field v-model="one.word" class="mono" label="Word of the network" hide-details />
      <span class="quiet">means</span>
      <v-autocomplete v-model="one.means" :items="currencies" label="Currency" hide-details />
      <v-btn class="quiet-button" :aria-label="`Take ${one.word} away`" @click="currencyWords.splice(i, 1)"
        >Take away</v-btn
      >
    </div>
    <text-link @click="currencyWords.push({ word: '', means: network.currency })"> Add a currency </text-link>
    <v-select v-model="decimal" class="whole" :items="decimalWays" label="How it writes amounts" />
    <v-text-field
      v-model="recurs"
      class="recurs"
      label="Events that come again under one transaction, such as renewals; with commas between"
    />
    <v-checkbox v-model="adds" label="A later amount is added to the one before, instead of replacing it" />
    <v-checkbox v-model="caseMatters" label="Transactions that differ by case only are two" />
    <p class="quiet fold">
      Postbacks of one transaction are one conversion. Where none comes, those of one click and amount are, as
      long as less than a day lies between them; where no click ID comes either, only the same bytes within a
      minute.
    </p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="buttons">
      <v-btn type="submit" color="primary">Save</v-btn>
      <v-btn class="quiet-button" @click="draft = undefined">Cancel</v-btn>
    </div>
  </form>
</template>

<style scoped>
.known {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0;
}
form {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.learn {
  display: flex;
  gap: 8px;
  width: 100%;
}
th {
  padding: 2px 14px 2px 0;
  font-weight: 400;
  text-align: left;
}
thead th {
  font-size: 12px;
  color: var(--ink-two);
}
td {
  padding: 2px 8px 2px 0;
}
.word,
.buttons {
  display: flex;
  gap: 8px;
  align-items: center;
}
summary {
  cursor: pointer;
  color: var(--fern);
}
details p {
  max-width: 560px;
  margin: 4px 0;
}
h4 {
  margin: 4px 0 0;
}
.recurs,
.whole {
  width: 100%;
}
.fold {
  max-width: 560px;
  margin: 0;
}
.bad {
  margin: 0;
  color: var(--copper);
}
</style>
