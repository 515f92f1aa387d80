<script setup lang="ts">
import type { PostbackProfile, Status } from '#core/catalogue';
import { checkRecord, firstProblem, statuses } from '#core/catalogue';
import type { ReadPostback } from '#core/conversions';
import { amountChoices, statusKey } from '#core/conversions';
import type { Case } from '#core/reconcile';
import type { PostbackRecord } from '#core/visits';
import { computed, ref, watch } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import { money } from '../theme/formats.ts';

/** A postback that could not be read, as it came, and what to teach its network so that all like it are read, past ones too. */
const props = defineProps<{ one: Case; record: PostbackRecord; read: ReadPostback }>();
const catalogue = useCatalogue();
const notice = useNotice();
const problem = ref('');
const network = computed(() => catalogue.network(props.one.network));
const raw = computed(() => Object.entries(props.read.raw));
const said = computed(() => ({
  amount: props.read.raw.amount ?? '',
  status: props.read.raw.status ?? '',
  currency: props.read.raw.currency ?? '',
}));
const unreadField = computed(
  () =>
    ({ 'amount not read': 'amount', 'state not read': 'status', 'currency not read': 'currency' })[
      props.one.kind as 'amount not read' | 'state not read' | 'currency not read' // the kinds this is shown for
    ],
);
const choices = computed(() => amountChoices(said.value.amount, props.read.event.currency));
const means = ref<Status>('approved');
const currencies = Intl.supportedValuesOf('currency');
const currency = ref('');
watch(
  () => props.one.id,
  () => {
    problem.value = '';
    currency.value = network.value?.currency ?? 'EUR';
  },
  { immediate: true },
);
const teach = async (more: Partial<PostbackProfile>, words: string) => {
  const { value: before } = network;
  if (!before) return;
  const plain: typeof before = JSON.parse(JSON.stringify(before));
  const checked = checkRecord('network', { ...plain, postback: { ...plain.postback, ...more } });
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  const step = await catalogue.saveRecord('network', checked.value);
  notice.did(`${before.name}: ${words}. What came before is read so too.`, step);
};
const teachAmount = (decimal: '.' | ',') =>
  teach(
    { decimal },
    decimal === ',' ? 'a comma stands before the decimals' : 'a point stands before the decimals',
  );
const teachState = () =>
  teach(
    { statuses: { ...network.value?.postback.statuses, [statusKey(said.value.status)]: means.value } },
    `${said.value.status} means ${means.value}`,
  );
const teachCurrency = () =>
  teach(
    {
      currencies: {
        ...network.value?.postback.currencies,
        [said.value.currency.toLowerCase()]: currency.value,
      },
    },
    `${said.value.currency} means ${currency.value}`,
  );
</script>

<template>
  <div class="unread">
    <div v-if="unreadField === 'amount'" class="teach">
      <template v-if="choices.length > 0">
        <span>It means</span>
        <v-btn
          v-for="choice in choices"
          :key="choice.decimal"
          color="primary"
          @click="teachAmount(choice.decimal)"
          >{{ money(choice.amount, read.event.currency) }}</v-btn
        >
        <span class="quiet">and so are all amounts of this network read.</span>
      </template>
      <span v-else class="quiet">No way of writing amounts makes a number of it. Ask the network.</span>
    </div>
    <form v-else-if="unreadField === 'status'" class="teach" @submit.prevent="teachState">
      <v-select v-model="means" :items="[...statuses]" :label="`${said.status} means`" />
      <v-btn type="submit" color="primary">Teach it</v-btn>
    </form>
    <form v-else class="teach" @submit.prevent="teachCurrency">
      <v-autocomplete v-model="currency" :items="currencies" :label="`${said.currency} means`" />
      <v-btn type="submit" color="primary" :disabled="!currency">Teach it</v-btn>
    </form>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <code class="raw quiet"
      >{{ record.via }} {{ record.query ? `?${record.query.slice(0, 2000)}` : ''
      }}{{ record.body ? ` ${record.body.slice(0, 2000)}` : '' }}</code
    >
    <dl>
      <template v-for="[field, text] in raw" :key="field">
        <dt>{{ field }}</dt>
        <dd class="mono">
          <mark v-if="field === unreadField">{{ text }}</mark><template v-else>{{ text }}</template>
        </dd>
      </template>
    </dl>
  </div>
</template>

<style scoped>
.unread {
  padding: 9px 12px;
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
.raw {
  display: block;
  margin-top: 10px;
  font-size: 12px;
  word-break: break-all;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 16px;
  margin: 8px 0;
  font-size: 13px;
}
dt {
  color: var(--ink-two);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
mark {
  padding: 0 4px;
  color: var(--copper);
  background: var(--copper-soft);
  border-radius: var(--leaf-tile);
}
.teach {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 10px;
}
.teach :deep(.v-input) {
  flex: 1;
  min-width: 180px;
  max-width: 320px;
}
.bad {
  margin: 6px 0 0;
  color: var(--copper);
}
</style>
