<script setup lang="ts">
import { computed, defineAsyncComponent, onMounted, onUnmounted, useTemplateRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { dayName, dayNumber } from '#core/hop';
import type { ChangeOfDay, Traffic, TrafficQuestion } from '#core/queries';
import { totalIn } from '#core/reconcile';
import type { DimensionName } from '#core/traffic';
import { dimensionNames, mostDays } from '#core/traffic';
import type { Sum } from '#core/values';
import { useCatalogue } from '../data/catalogue.ts';
import { useEarnedBands } from '../data/earnedBands.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useOwnDays } from '../data/ownDays.ts';
import { useTableLook } from '../data/tableLook.ts';
import { useNewest } from '../place/newest.ts';
import { isTyping } from '../shell/keys.ts';
import ColumnMenu from '../theme/ColumnMenu.vue';
import Hint from '../theme/Hint.vue';
import { count, dateWords } from '../theme/formats.ts';
import ExportMenu from './ExportMenu.vue';
import HostingCredit from './HostingCredit.vue';
import OutcomeBar from './OutcomeBar.vue';
import { addressOf, questionIn } from './question.ts';
import { trafficColumns, usualColumns } from './trafficColumns.ts';
import type { Line } from './trafficColumns.ts';
import TrafficPane from './TrafficPane.vue';
import TrafficSentence from './TrafficSentence.vue';
import TrafficTable from './TrafficTable.vue';
import ValueMenu from './ValueMenu.vue';
import { useQuestionWords, useValueWords } from './words.ts';
import WordMenu from './WordMenu.vue';

// Its library is loaded when a chart is asked for.
const DaysChart = defineAsyncComponent(() => import('./DaysChart.vue'));

/** Who came, by whatever it is told apart by: all of what is asked stands in the address. */
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const journal = useJournal();
const valueWords = useValueWords();
const questionWords = useQuestionWords();
const drawn = useTemplateRef<{ asSvg: (title: string) => string | undefined }>('drawn');
const isDimension = (name: string): name is DimensionName => dimensionNames.some((one) => one === name);
const { period: usual } = useOwnDays();
const question = computed(() => questionIn(route.query, usual.value, isDimension));
const textOf = (name: string): string | undefined => {
  const value = route.query[name];
  return typeof value === 'string' ? value : undefined;
};
const chosen = computed(() => textOf('at'));
const charts = ['outcomes', 'compared'] as const;
const chart = computed(() => charts.find((one) => one === textOf('chart')));
const toAddress = (next: Partial<TrafficQuestion>, at?: string, drawn: string | null = chart.value ?? null) =>
  router.push({
    name: 'traffic',
    query: {
      ...addressOf({ ...question.value, ...next }, usual.value),
      ...(drawn !== null && { chart: drawn }),
      ...(at !== undefined && { at }),
    },
  });
/** Days that were chosen; the other end follows where they are more than can be asked for. */
const shortEnough = ({ from, to }: Partial<TrafficQuestion>): Partial<TrafficQuestion> => {
  if (from !== undefined && dayNumber(to ?? question.value.to) - dayNumber(from) >= mostDays)
    return { from, to: dayName(dayNumber(from) + mostDays - 1) };
  if (to !== undefined && dayNumber(to) - dayNumber(from ?? question.value.from) >= mostDays)
    return { from: dayName(dayNumber(to) - mostDays + 1), to };
  return {};
};
const ask = (next: Partial<TrafficQuestion>) =>
  toAddress({ ...next, ...shortEnough(next) }, next.by === undefined ? chosen.value : undefined);
const narrow = (of: DimensionName, values: readonly string[], not: boolean) =>
  ask({
    where: [
      ...question.value.where.filter((condition) => condition.of !== of),
      ...(values.length > 0 ? [{ of, values, ...(not && { not }) }] : []),
    ],
  });
const choose = (value: string) => toAddress({}, chosen.value === value ? undefined : value);
/** The period of as many days before or after. */
const move = (by: -1 | 1) => {
  const { from, to } = question.value;
  if (by === 1 && to >= usual.value[1]) return;
  const days = dayNumber(to) - dayNumber(from) + 1;
  void ask({ from: dayName(dayNumber(from) + by * days), to: dayName(dayNumber(to) + by * days) });
};
const onKey = (event: KeyboardEvent) => {
  if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === '[') move(-1);
  if (event.key === ']') move(1);
};
onMounted(() => window.addEventListener('keydown', onKey));
onUnmounted(() => window.removeEventListener('keydown', onKey));

/** What is asked may hold proxies of the address, which no worker takes. */
const restsOnConnection = computed(() =>
  [question.value.by, ...question.value.where.map(({ of }) => of)].includes('connection'),
);
const asked = (): TrafficQuestion => JSON.parse(JSON.stringify(question.value)) as TrafficQuestion; // as it was
const { found: newest } = useNewest<{ traffic: Traffic; byServer: boolean; isPart: boolean } | undefined>(
  () => [journal.news, question.value, catalogue.links, catalogue.sources],
  async () => {
    const { asksServer, arriving } = journal;
    return { traffic: await journalWorker.traffic(asked()), byServer: asksServer, isPart: arriving };
  },
  undefined,
);
/** Requests alone, which a server that just began to read its journal has sooner. */
const early = useNewest<Traffic | undefined>(
  () => [journal.asksServer, question.value],
  async () =>
    journal.asksServer && !newest.value?.byServer
      ? journalWorker.traffic({ ...asked(), requestsOnly: true })
      : undefined,
  undefined,
);
/** What is shown was counted while not all was here: a count of all may take a moment longer than its last record. */
const isPart = computed(
  () =>
    journal.arriving ||
    (newest.value?.isPart === true && !(journal.asksServer && early.found.value !== undefined)),
);
const found = computed(() =>
  journal.asksServer && !newest.value?.byServer
    ? (early.found.value ?? newest.value?.traffic)
    : newest.value?.traffic,
);
/** In the person's own currency, by the rates of the last day, where all that is needed are given. */
const own = (list: readonly Sum[]): readonly Sum[] => {
  const { currency } = catalogue.settings;
  const total = totalIn(list, currency, question.value.to, catalogue.rates);
  return total.ok && list.length > 0 ? [{ minor: total.minor, currency }] : list;
};
const changeNames: Readonly<Record<ChangeOfDay['kind'], string>> = {
  destination: 'destination changed',
  archived: 'archived',
  back: 'back from the archive',
  opened: 'opened',
  closed: 'closed',
  mailing: 'mailing sent',
  rules: 'rules changed',
};
const done = useNewest<readonly ChangeOfDay[] | undefined>(
  () => [journal.news, question.value, chart.value],
  async () => {
    if (chart.value === undefined) return undefined;
    const { from, to, where } = question.value;
    return journalWorker.changesOfDays({
      from,
      to,
      where: JSON.parse(JSON.stringify(where)) as typeof where,
      now: Date.now(),
    });
  },
  undefined,
);
/** What was done on a day, in a few words. */
const changes = computed(() =>
  done.found.value?.map(({ day, kind, links, sources }) => {
    const [first = ''] = links;
    if (kind === 'mailing')
      return { day, words: `${sources.join(', ')}: ${changeNames[kind]}`, isFrequent: true };
    const which =
      links.length > 1 ? `${count(links.length)} links ` : first && `${valueWords('link', first)} `;
    return { day, words: `${which}${changeNames[kind]}` };
  }),
);
const isCompared = computed(() => found.value?.knownSince === undefined);
const earnedBand = useEarnedBands(() => {
  const { by, from, to, where } = question.value;
  return { by, from, to, where };
});
const columns = computed(() =>
  trafficColumns(
    question.value,
    (value) => valueWords(question.value.by, value),
    own,
    isCompared.value,
    found.value?.requestsOnly !== true,
    earnedBand,
  ),
);
const look = useTableLook<Line>('traffic', () => columns.value, usualColumns);
const shown = computed(() =>
  columns.value.filter(
    ({ name }) => name === 'value' || look.chosen.value.has(name) || (name === 'shown' && look.isUsual.value),
  ),
);
const lines = computed(() => look.sorted(found.value?.lines ?? []) as readonly Line[]);
const chosenLine = computed(() => found.value?.lines.find(({ value }) => value === chosen.value));
const dayWords = (day: string): string => dateWords(Date.parse(`${day}T00:00Z`));
</script>

<template>
  <div class="view" :class="{ 'has-pane': chosenLine }">
    <section class="left" aria-label="Traffic">
      <header>
        <traffic-sentence :question="question" :today="usual[1]" @ask="ask" @narrow="narrow" />
        <span v-if="found?.knownSince" class="quiet"
          >known since {{ dayWords(found.knownSince) }}: nothing to compare with</span
        >
        <span v-else class="quiet"
          >against the {{ count(dayNumber(question.to) - dayNumber(question.from) + 1) }} days before</span
        >
        <span class="actions">
          <text-link aria-label="Period before" @click="move(-1)"
            >‹<hint>As many days before <v-hotkey keys="[" inline /></hint
          ></text-link>
          <text-link aria-label="Period after" :disabled="question.to >= usual[1]" @click="move(1)"
            >›<hint>As many days after <v-hotkey keys="]" inline /></hint
          ></text-link>
          <word-menu word="Narrow" label="Narrow" plain>
            <template #default="{ close }">
              <value-menu :question="question" @set="narrow" @close="close" />
            </template>
          </word-menu>
          <text-link
            :aria-pressed="chart !== undefined"
            @click="toAddress({}, chosen, chart === undefined ? 'outcomes' : null)"
            >Days</text-link
          >
          <column-menu
            :columns="columns.filter(({ name }) => name !== 'value')"
            :chosen="look.chosen.value"
            @toggle="look.toggle"
          />
          <export-menu
            :question="question"
            :columns="shown"
            :lines="lines"
            :is-part="found?.requestsOnly === true"
            :draw-days="chart && (() => drawn?.asSvg(questionWords(question)))"
          />
          <text-link :to="{ name: 'access-logs' }"
            >Import<hint>Requests that another server answered, from its access log</hint></text-link
          >
        </span>
      </header>
      <v-skeleton-loader v-if="!found" type="image" aria-label="Loading" />
      <template v-else>
        <outcome-bar :traffic="found" :show="question.show ?? 'counted'" @show="ask({ show: $event })" />
        <p v-if="isPart" class="quiet" role="status">Requests are still arriving; these figures rise.</p>
        <p v-if="found.rolledUpBefore" class="quiet">
          Requests before {{ dayWords(found.rolledUpBefore) }} were rolled up by day: how many visitors made
          them, and what else they were, is not known.
        </p>
        <section v-if="chart" class="days" aria-label="By day">
          <v-btn-toggle
            :model-value="chart"
            mandatory
            density="compact"
            aria-label="What the days show"
            @update:model-value="toAddress({}, chosen, $event)"
          >
            <v-btn value="outcomes" size="small">What became of them</v-btn>
            <v-btn value="compared" size="small">Against the days before</v-btn>
          </v-btn-toggle>
          <!-- A chart is drawn once it is known what is written on it: drawing it twice takes as long again. -->
          <days-chart
            v-if="changes"
            ref="drawn"
            :traffic="found"
            :show="question.show ?? 'counted'"
            :way="chart"
            :changes="changes"
            @brush="(from: string, to: string) => ask({ from, to })"
          />
        </section>
        <p v-if="found.lines.length === 0" class="quiet">
          {{
            question.where.length > 0
              ? 'Nothing came in these days that fits what you narrowed to.'
              : 'Nothing came in these days. What people ask of your short links is counted here.'
          }}
        </p>
        <traffic-table
          v-else
          :columns="shown"
          :lines="lines"
          :chosen="chosen"
          :way-of="look.wayOf"
          @sort="look.sortBy"
          @choose="choose"
        />
        <hosting-credit v-if="restsOnConnection" />
      </template>
    </section>
    <traffic-pane
      v-if="chosenLine && chosen !== undefined"
      :key="chosen"
      :question="question"
      :value="chosen"
      @close="choose(chosen)"
      @narrow="narrow(question.by, [chosen], false)"
      @exclude="narrow(question.by, [chosen], true)"
    />
  </div>
</template>

<style scoped src="./question.css"></style>
<style scoped>
.days {
  margin-bottom: 14px;
}
</style>
