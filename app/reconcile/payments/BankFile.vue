<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue';
import type { Network, Payment } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import type { BankChoices, BankReading, BankRow } from '#core/conversions';
import { readBank } from '#core/conversions';
import type { OpenedTable } from '#core/formats';
import type { Owing } from '#core/reconcile';
import { useCatalogue } from '../../data/catalogue.ts';
import { journalWorker } from '../../data/journal.ts';
import { useNotice } from '../../shell/notice.ts';
import { today } from '../../data/today.ts';
import { count, money } from '../../theme/formats.ts';
import WritingQuestions from '../WritingQuestions.vue';
import type { PaymentDraft } from './settling.ts';
import { isLike, settling } from './settling.ts';

/** Payments from a bank's file: its rows are shown with the network each is of, and noted when a person says so. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const notice = useNotice();
const problem = ref('');
const table = shallowRef<(OpenedTable & { ok: true })['table'] | undefined>();
const choices = ref<BankChoices>({});
/** The network of a row and whether it is to be noted, where a person said otherwise than proposed. */
const said = ref(new Map<string, { readonly network: string; readonly take: boolean }>());
/** In which currencies each network owes anything. */
const owedIn = shallowRef<ReadonlyMap<string, readonly string[]>>(new Map());

const take = async (files: File | File[] | null) => {
  const file = Array.isArray(files) ? files[0] : files;
  table.value = undefined;
  problem.value = '';
  choices.value = {};
  said.value = new Map();
  if (!file) return;
  const { openFile } = await import('../openFile.ts');
  const opened = await openFile(file);
  if (!opened.ok) {
    problem.value = opened.message;
    return;
  }
  const day = today();
  const all = await Promise.all(
    catalogue.networks.map(async ({ id }): Promise<[string, Owing]> => [
      id,
      await journalWorker.owed(id, day),
    ]),
  );
  owedIn.value = new Map(
    all.map(([id, { months }]) => [id, [...new Set(months.map(({ currency }) => currency))]]),
  );
  table.value = opened.table;
};
const reading = computed(
  (): BankReading | undefined =>
    table.value && readBank(table.value, catalogue.networks, props.network.currency, choices.value),
);
const isAsked = (what: BankReading['asks'][number]) => reading.value?.asks.includes(what) ?? false;
const answer = (more: BankChoices) => (choices.value = { ...choices.value, ...more });
const bankRows = computed(() => new Set(catalogue.payments.map(({ bankRow }) => bankRow)));

interface Line {
  readonly row: BankRow;
  readonly network: string;
  readonly take: boolean;
  /** Why it cannot be noted here, or should not; empty where nothing speaks against it. */
  readonly why: string;
  readonly draft: PaymentDraft | undefined;
}
const lines = computed((): Line[] =>
  (reading.value?.rows ?? []).map((row): Line => {
    const own = said.value.get(row.key);
    const network = own?.network ?? row.network;
    const known = catalogue.network(network);
    const { day, amount, currency } = row;
    const settles =
      known && settling(currency, day, owedIn.value.get(network) ?? [], known.currency, catalogue.rates);
    const draft: PaymentDraft | undefined =
      known && settles?.rate !== ''
        ? {
            network,
            day,
            amount,
            currency,
            note: row.text.slice(0, 500),
            bankRow: row.key,
            ...(settles && { settles }),
          }
        : undefined;
    const noted = bankRows.value.has(row.key);
    const why = noted
      ? 'noted already'
      : settles?.rate === ''
        ? `no rate of ${currency} in ${settles.currency} up to that day is given`
        : draft && catalogue.payments.some((other) => isLike(other, draft))
          ? 'this sum of this day is noted'
          : '';
    return { row, network, take: !noted && draft !== undefined && (own?.take ?? why === ''), why, draft };
  }),
);
/** Rows that name no network are many in a year of an account; so many of them are shown. */
const mostOthers = 100;
const shown = computed(() => {
  const others = lines.value.filter(({ network }) => network === '');
  return [...lines.value.filter(({ network }) => network !== ''), ...others.slice(0, mostOthers)];
});
const hidden = computed(() => lines.value.length - shown.value.length);
const chosen = computed(() => lines.value.filter((line) => line.take));
const say = (line: Line, more: { network?: string; take?: boolean }) =>
  (said.value = new Map(said.value).set(line.row.key, {
    network: more.network ?? line.network,
    take: more.take ?? true,
  }));
const bring = async () => {
  const list = chosen.value.flatMap(({ draft }) => draft ?? []);
  const step = await catalogue.save(
    ...list.map((draft) => {
      // The same row of the same file is one payment, whoever brings it in.
      const value: Payment = { id: sameId('pay', draft.network, draft.bankRow ?? ''), ...draft };
      return { kind: 'payment' as const, value };
    }),
  );
  notice.did(`${count(list.length)} ${list.length === 1 ? 'payment is' : 'payments are'} noted.`, step);
  await take(null);
};
const networkItems = computed(() => [
  { value: '', title: 'none of them' },
  ...catalogue.networks.map(({ id, name }) => ({ value: id, title: name })),
]);
</script>

<template>
  <div class="bank">
    <v-file-input
      label="From a bank’s file"
      accept=".csv,.tsv,.txt,.xlsx,.xls,.json,text/*"
      @update:model-value="take"
    />
    <p v-if="problem" class="open" role="alert">{{ problem }}</p>
    <template v-if="reading">
      <div v-if="reading.asks.length > 0" class="asks">
        <v-select
          v-if="isAsked('day')"
          label="Which column is the day?"
          :items="[...reading.candidates.day]"
          @update:model-value="$event !== null && answer({ day: $event })"
        />
        <v-select
          v-if="isAsked('amount')"
          label="Which column is the amount?"
          :items="[...reading.candidates.amount]"
          @update:model-value="$event !== null && answer({ amount: $event })"
        />
        <writing-questions
          :asks-dates="isAsked('dates')"
          :asks-decimal="isAsked('decimal')"
          :date-cells="reading.days"
          @dates="answer({ dates: $event })"
          @decimal="answer({ decimal: $event })"
        />
        <p v-if="isAsked('day') && reading.candidates.day.length === 0" class="open">
          No column of this file holds days.
        </p>
        <p v-if="isAsked('amount') && reading.candidates.amount.length === 0" class="open">
          No column of this file holds amounts.
        </p>
      </div>
      <template v-else>
        <p class="quiet">
          {{ count(reading.rows.length) }} {{ reading.rows.length === 1 ? 'row' : 'rows' }} of money that
          arrived<template v-if="reading.left > 0">, {{ count(reading.left) }} of money that left</template
          ><template v-if="reading.bad.length > 0"
            >; {{ count(reading.bad.length) }} cannot be read (line {{ reading.bad[0]?.line }}:
            {{ reading.bad[0]?.problems[0]?.message }})</template
          >.
        </p>
        <v-table v-if="lines.length > 0" density="compact" class="rows">
          <thead>
            <tr>
              <th scope="col"><span class="visually-hidden">Note it</span></th>
              <th scope="col">Day</th>
              <th scope="col" class="number">Arrived</th>
              <th scope="col">From</th>
              <th scope="col">What it says</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in shown" :key="line.row.key">
              <td>
                <v-checkbox-btn
                  :model-value="line.take"
                  :disabled="!line.draft || line.why === 'noted already'"
                  density="compact"
                  :aria-label="`Note line ${line.row.line}`"
                  @update:model-value="say(line, { take: $event })"
                />
              </td>
              <td class="day">{{ line.row.day }}</td>
              <td class="number">{{ money(line.row.amount, line.row.currency) }}</td>
              <td>
                <v-select
                  :model-value="line.network"
                  :items="networkItems"
                  class="whose"
                  variant="plain"
                  :aria-label="`Network of line ${line.row.line}`"
                  @update:model-value="say(line, { network: $event })"
                />
              </td>
              <td class="text">
                {{ line.row.text }}<small v-if="line.why" class="open">{{ line.why }}</small>
              </td>
            </tr>
          </tbody>
        </v-table>
        <p v-if="hidden > 0" class="quiet">
          {{ count(hidden) }} more name no network of yours and are not shown.
        </p>
        <v-btn color="primary" :disabled="chosen.length === 0" @click="bring"
          >Note {{ count(chosen.length) }} {{ chosen.length === 1 ? 'payment' : 'payments' }}</v-btn
        >
      </template>
    </template>
  </div>
</template>

<style scoped>
.bank {
  margin: 8px 0 14px;
}
.bank > * + * {
  margin-top: 14px;
}
.asks {
  display: grid;
  gap: 14px;
  max-width: 420px;
}
th,
td {
  padding: 0 8px !important;
}
.rows {
  max-height: 320px;
  overflow: auto;
}
.number {
  text-align: right !important;
  white-space: nowrap;
}
.day {
  white-space: nowrap;
}
.whose {
  min-width: 120px;
}
.text {
  min-width: 180px;
  font-size: 13px;
}
.text small {
  display: block;
}
.open {
  color: var(--copper);
}
</style>
