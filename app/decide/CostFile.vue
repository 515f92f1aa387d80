<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue';
import type { Cost } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import type { CostFileChoices, CostFileReading } from '#core/costs';
import { readCostFile } from '#core/costs';
import type { OpenedTable } from '#core/formats';
import { useCatalogue } from '../data/catalogue.ts';
import { today } from '../data/today.ts';
import WritingQuestions from '../reconcile/WritingQuestions.vue';
import { useNotice } from '../shell/notice.ts';
import DayField from '../theme/DayField.vue';
import { count } from '../theme/formats.ts';
import { useCostWords } from './words.ts';

/** Costs from a seller's file: what is not sure is asked, its rows are shown, and noted when a person says so. */
const props = defineProps<{ sources: readonly string[] }>();
const emit = defineEmits<{ done: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const words = useCostWords();
const problem = ref('');
const table = shallowRef<(OpenedTable & { ok: true })['table'] | undefined>();
const choices = ref<CostFileChoices>({});
const take = async (files: File | File[] | null) => {
  const file = Array.isArray(files) ? files[0] : files;
  table.value = undefined;
  problem.value = '';
  choices.value = {};
  if (!file) return;
  const { openFile } = await import('../reconcile/openFile.ts');
  const opened = await openFile(file);
  if (opened.ok) table.value = opened.table;
  else problem.value = opened.message;
};
const reading = computed(
  (): CostFileReading | undefined =>
    table.value && readCostFile(table.value, props.sources, catalogue.settings.currency, choices.value),
);
const isAsked = (what: CostFileReading['asks'][number]) => reading.value?.asks.includes(what) ?? false;
const answer = (more: CostFileChoices) => (choices.value = { ...choices.value, ...more });
/** A source of the file's name, or a column that names one in each row. */
const sourceItems = computed(() => [
  ...props.sources.map((name) => ({ value: `name ${name}`, title: name })),
  ...(reading.value?.candidates.source ?? []).map((column) => ({
    value: `column ${column}`,
    title: `as the column ${column} says`,
  })),
]);
const answerSource = (chosen: string | null) => {
  if (chosen === null) return;
  const text = chosen.replace(/^\S+ /, '');
  answer({ source: chosen.startsWith('column ') ? { column: text } : { name: text } });
};
const span = ref({ from: '', until: '' });
const setSpan = (more: Partial<typeof span.value>) => {
  span.value = { ...span.value, ...more };
  const { from, until } = span.value;
  if (from !== '' && until !== '' && from <= until) answer({ span: { from, until } });
};
const bases = [
  { value: 'all' as const, title: 'what was paid in all' },
  { value: 'day' as const, title: 'the price of a day' },
  { value: 'click' as const, title: 'the price of a click' },
  { value: 'thousand' as const, title: 'the price of a thousand clicks' },
];
const noted = computed(() => new Set(catalogue.costs.map(({ id }) => id)));
const lines = computed(() =>
  (reading.value?.rows ?? []).map(({ key, line, cost }) => {
    const value: Cost = { id: sameId('cst', 'row', key), ...cost };
    return { line, value, isNoted: noted.value.has(value.id) };
  }),
);
const fresh = computed(() => lines.value.filter(({ isNoted }) => !isNoted));
const most = 200;
const bring = async () => {
  const list = fresh.value;
  const step = await catalogue.save(...list.map(({ value }) => ({ kind: 'cost' as const, value })));
  emit('done');
  notice.did(`${count(list.length)} ${list.length === 1 ? 'cost is' : 'costs are'} noted.`, step);
};
</script>

<template>
  <div class="file">
    <v-file-input
      label="From a seller’s file"
      accept=".csv,.tsv,.txt,.xlsx,.xls,.json,text/*"
      @update:model-value="take"
    />
    <p v-if="problem" class="open" role="alert">{{ problem }}</p>
    <template v-if="reading">
      <div v-if="reading.asks.length > 0" class="asks">
        <v-select
          v-if="isAsked('amount')"
          label="Which column is what you paid?"
          :items="[...reading.candidates.amount]"
          @update:model-value="$event !== null && answer({ amount: $event })"
        />
        <v-autocomplete
          v-if="isAsked('source')"
          label="Of which source is it?"
          :items="sourceItems"
          @update:model-value="answerSource"
        />
        <v-select
          v-if="isAsked('day')"
          label="Which column is the day?"
          :items="[...reading.candidates.day]"
          @update:model-value="$event !== null && answer({ day: $event })"
        />
        <template v-if="isAsked('span')">
          <p>No column of this file holds days. Of which days is it?</p>
          <day-field
            :model-value="span.from"
            label="First day"
            @update:model-value="setSpan({ from: $event })"
          />
          <day-field
            :model-value="span.until"
            label="Last day"
            @update:model-value="setSpan({ until: $event })"
          />
        </template>
        <writing-questions
          :asks-dates="isAsked('dates')"
          :asks-decimal="isAsked('decimal')"
          :date-cells="reading.days"
          @dates="answer({ dates: $event })"
          @decimal="answer({ decimal: $event })"
        />
        <p v-if="isAsked('amount') && reading.candidates.amount.length === 0" class="open">
          No column of this file holds amounts.
        </p>
      </div>
      <template v-else>
        <v-select
          :model-value="reading.per"
          :items="bases"
          :label="`In the column ${reading.amount} stands`"
          @update:model-value="$event !== null && answer({ per: $event })"
        />
        <p class="quiet">
          {{ count(reading.rows.length) }} {{ reading.rows.length === 1 ? 'row' : 'rows' }} of costs<template
            v-if="lines.length > fresh.length"
            >, {{ count(lines.length - fresh.length) }} noted already</template
          ><template v-if="reading.free > 0">, {{ count(reading.free) }} of nothing paid</template
          ><template v-if="reading.bad.length > 0"
            >; {{ count(reading.bad.length) }} cannot be read and
            {{ reading.bad.length === 1 ? 'is' : 'are' }} left out</template
          >.
        </p>
        <p v-for="{ line, problems } in reading.bad.slice(0, 5)" :key="line" class="open" role="note">
          Line {{ line }}: {{ problems.map(({ message }) => message).join(' ') }}
        </p>
        <p
          v-for="{ line } in reading.totals.filter(({ agrees }) => !agrees)"
          :key="line"
          class="open"
          role="note"
        >
          Line {{ line }} says what all come to, and the rows above come to something else. Is a row missing?
        </p>
        <p v-if="fresh.some(({ value }) => value.from > today())" class="open" role="note">
          Some of these days are still to come. Check that day and month are not turned round.
        </p>
        <small-table v-if="lines.length > 0" aria-label="Costs of the file">
          <thead>
            <tr>
              <th>Line</th>
              <th>For</th>
              <th>Days</th>
              <th>Paid</th>
              <th>Note</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="{ line, value, isNoted } in lines.slice(0, most)"
              :key="line"
              :class="{ quiet: isNoted }"
            >
              <td>{{ line }}</td>
              <td>{{ words.target(value) }}</td>
              <td>{{ words.days(value) }}</td>
              <td>{{ words.amount(value) }}</td>
              <td>{{ isNoted ? 'noted already' : value.note }}</td>
            </tr>
          </tbody>
        </small-table>
        <p v-if="lines.length > most" class="quiet">{{ count(lines.length - most) }} more are not shown.</p>
        <v-btn color="primary" :disabled="fresh.length === 0" @click="bring">{{
          fresh.length === 0
            ? 'Nothing new in it'
            : `Note ${count(fresh.length)} ${fresh.length === 1 ? 'cost' : 'costs'}`
        }}</v-btn>
      </template>
    </template>
  </div>
</template>

<style scoped>
.file {
  display: grid;
  gap: 12px;
  width: min(680px, 88vw);
  max-height: 84vh;
  padding: 16px;
  overflow: auto;
}
.file > .v-btn {
  justify-self: start;
}
.asks {
  display: grid;
  gap: 12px;
}
p {
  margin: 0;
}
.open {
  color: var(--copper);
}
</style>
