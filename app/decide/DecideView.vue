<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useDisplay } from 'vuetify';
import type { Pays, PaysFigures, TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { dimensionNames } from '#core/traffic';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useOwnDays } from '../data/ownDays.ts';
import type { Column } from '../data/tableLook.ts';
import { useTableLook } from '../data/tableLook.ts';
import { useNewest } from '../place/newest.ts';
import Hint from '../theme/Hint.vue';
import { count, money, percent, signedMoney } from '../theme/formats.ts';
import { addressOf, questionIn } from '../traffic/question.ts';
import TrafficSentence from '../traffic/TrafficSentence.vue';
import ValueMenu from '../traffic/ValueMenu.vue';
import { dimensionWords, useValueWords } from '../traffic/words.ts';
import WordMenu from '../traffic/WordMenu.vue';
import ChoicesMade from './ChoicesMade.vue';
import CostEntry from './CostEntry.vue';
import PaysPane from './PaysPane.vue';
import PaysTable from './PaysTable.vue';
import { useSourceNames } from './sourceNames.ts';
import { bandOfAll, daysBefore } from './words.ts';

type Line = Pays['lines'][number];

/** What visits cost, earned and leave, by whatever they are told apart by: all of what is asked stands in the address. */
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const journal = useJournal();
const valueWords = useValueWords();
/** What visits left is known after some weeks. */
const usualDays = 90;
const { period } = useOwnDays();
const usual = computed(() => [daysBefore(period.value[1], usualDays), period.value[1]] as const);
const isDimension = (name: string): name is DimensionName => dimensionNames.some((one) => one === name);
const question = computed(() => questionIn(route.query, usual.value, isDimension));
const currency = computed(() => catalogue.settings.currency);
const chosen = computed(() => {
  const { at } = route.query;
  return typeof at === 'string' ? at : undefined;
});
const toAddress = (next: Partial<TrafficQuestion>, at?: string) =>
  router.push({
    name: 'decide',
    query: { ...addressOf({ ...question.value, ...next }, usual.value), ...(at !== undefined && { at }) },
  });
const ask = (next: Partial<TrafficQuestion>) =>
  toAddress(next, next.by === undefined ? chosen.value : undefined);
const narrow = (of: DimensionName, values: readonly string[], not: boolean) =>
  ask({
    where: [
      ...question.value.where.filter((condition) => condition.of !== of),
      ...(values.length > 0 ? [{ of, values, ...(not && { not }) }] : []),
    ],
  });
const choose = (value: string) => toAddress({}, chosen.value === value ? undefined : value);

const { found } = useNewest<Pays | undefined>(
  () => [
    journal.news,
    journal.arriving,
    question.value,
    currency.value,
    catalogue.costs,
    catalogue.rates,
    catalogue.links,
    catalogue.programs,
    catalogue.sources,
  ],
  async () => {
    const { by, from, to, where } = JSON.parse(JSON.stringify(question.value)) as TrafficQuestion; // as it was
    return journalWorker.whatPays({ by, from, to, where, currency: currency.value, now: Date.now() });
  },
  undefined,
);
const chosenLine = computed(() => found.value?.lines.find(({ value }) => value === chosen.value));
const number = (
  name: string,
  title: string,
  key: (line: Line) => number | undefined,
  hint?: string,
): Column<Line> => ({ name, title, number: true, downFirst: true, key, ...(hint !== undefined && { hint }) });
const columns = computed((): Column<Line>[] => [
  {
    name: 'value',
    title: dimensionWords[question.value.by].one.replace(/^./, (letter) => letter.toUpperCase()),
    key: ({ value }) => valueWords(question.value.by, value),
  },
  number('cost', 'Cost', ({ cost }) => cost, 'What was paid for these visits, laid on them.'),
  number('visitors', 'Visitors', ({ visitors }) => visitors, 'Each once a day.'),
  number(
    'sales',
    'Sales',
    ({ conversions }) => conversions,
    'Of these visits, whenever they came; reversed ones not.',
  ),
  number(
    'earned',
    'Earned',
    ({ approved, worth }) => approved + worth,
    'Approved, and pending at what it usually is worth.',
  ),
  number('profit', 'Profit', ({ profit }) => profit),
  {
    name: 'band',
    title: 'Profit a visitor, and how sure',
    key: ({ band }: PaysFigures) => band?.low,
    hint: 'From the worst to the best case; the line is nought. It holds however often you look, in 95 of 100 cases.',
  },
  { name: 'verdict', title: 'Verdict', hint: 'Sorted by money: what loses most a week comes first.' },
]);
/** Of a narrow screen the table keeps what is decided by; the others stand in the pane of a row. */
const { width } = useDisplay();
const onPhone = new Set(['value', 'profit', 'verdict']);
const shownColumns = computed(() =>
  columns.value.filter(({ name }) => width.value > 760 || onPhone.has(name)),
);
const behind = (value: string) => ({
  name: 'traffic',
  query: { ...addressOf(question.value, ['', '']), at: value },
});
const look = useTableLook<Line>('decide', () => columns.value, []);
const lines = computed(() => look.sorted(found.value?.lines ?? []) as readonly Line[]);
const sources = useSourceNames();
const entering = ref(false);
/** The beginning of a sentence for the row that is open. */
const begin = computed(() => {
  if (chosenLine.value === undefined || chosenLine.value.value === '') return '';
  const { by } = question.value;
  return by === 'source' || by === 'link' ? ` for ${by} ${valueWords(by, chosenLine.value.value)} from ` : '';
});
</script>

<template>
  <div class="view" :class="{ 'has-pane': chosenLine }">
    <section class="left" aria-label="Decide">
      <header>
        <traffic-sentence
          lead="What pays? By"
          :question="question"
          :today="usual[1]"
          @ask="ask"
          @narrow="narrow"
        />
        <span class="actions">
          <word-menu word="Narrow" label="Narrow" plain>
            <template #default="{ close }">
              <value-menu :question="question" @set="narrow" @close="close" />
            </template>
          </word-menu>
          <text-link :to="{ name: 'promotions' }">Promotions</text-link>
          <text-link :to="{ name: 'writers' }">Writers</text-link>
          <text-link :to="{ name: 'costs' }">Costs</text-link>
          <text-link @click="entering = true">Add a cost</text-link>
        </span>
      </header>
      <v-dialog v-model="entering" width="auto" aria-label="Add a cost">
        <v-card><cost-entry :sources="sources" :begin="begin" @done="entering = false" /></v-card>
      </v-dialog>
      <v-skeleton-loader v-if="!found" type="image" aria-label="Loading" />
      <template v-else>
        <dl class="sums">
          <div>
            <dd>{{ money(found.whole.cost, currency) }}</dd>
            <dt>spent</dt>
          </div>
          <div>
            <dd>{{ money(found.whole.approved + found.whole.worth, currency) }}</dd>
            <dt>
              earned, {{ money(found.whole.worth, currency) }} of it pending<hint
                >Of {{ money(found.whole.pending, currency) }} pending, what usually becomes approved</hint
              >
            </dt>
          </div>
          <div>
            <dd :class="found.whole.profit < 0 ? 'loses' : 'earns'">
              {{ found.whole.verdict === 'no rate' ? '?' : signedMoney(found.whole.profit, currency) }}
            </dd>
            <dt>
              profit<template v-if="found.whole.band">, {{ bandOfAll(found.whole, currency) }}</template>
            </dt>
          </div>
          <div v-if="found.whole.visitors > 0">
            <dd>{{ percent(found.whole.ripe / found.whole.visitors) }}</dd>
            <dt>of these sales are in by now</dt>
          </div>
        </dl>
        <p v-if="journal.arriving" class="quiet" role="status">
          Requests are still arriving; these figures change.
        </p>
        <p v-for="one in found.missing" :key="one.currency" class="asks" role="note">
          No rate of {{ one.currency }} up to {{ one.day }} is given: its money is in no figure here.
          <text-link :to="{ path: '/setup', hash: '#rates' }">Give one</text-link>
        </p>
        <p v-if="found.overlaps.length > 0" class="quiet" role="note">
          {{ count(found.overlaps.length) }}
          {{ found.overlaps.length === 1 ? 'pair of costs lies' : 'pairs of costs lie' }} over each other, and
          all count. <text-link :to="{ name: 'costs' }">Look at them</text-link>
        </p>
        <p v-if="found.lines.length === 0" class="quiet">
          Nobody came in these days, and nothing was paid for them.
        </p>
        <template v-else>
          <pays-table
            :lines="lines"
            :columns="shownColumns"
            :currency="currency"
            :chosen="chosen"
            :name-of="(value: string) => valueWords(question.by, value)"
            :behind="behind"
            :way-of="look.wayOf"
            @sort="look.sortBy"
            @choose="choose"
          />
          <p class="quiet foot">
            <span>Bands hold however often you look (95 %).</span>
            <span>To scale takes five sales; to cut takes none.</span>
          </p>
        </template>
        <choices-made />
      </template>
    </section>
    <pays-pane
      v-if="chosenLine && found"
      :key="chosenLine.value"
      :line="chosenLine"
      :pays="found"
      :question="question"
      :name="valueWords(question.by, chosenLine.value)"
      :currency="currency"
      @close="choose(chosenLine.value)"
      @add-cost="entering = true"
    />
  </div>
</template>

<style scoped src="./figures.css"></style>
<style scoped src="../traffic/question.css"></style>
<style scoped>
.foot {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 4px 20px;
}
</style>
