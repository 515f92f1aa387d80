<script setup lang="ts">
import { computed } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { epcOf } from '#core/figures';
import { dayIn, dayName, dayNumber } from '#core/hop';
import type { Traffic, TrafficFigures, TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { dimensionNames } from '#core/traffic';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import type { Column } from '../data/tableLook.ts';
import { amountColumn, useTableLook } from '../data/tableLook.ts';
import { useNewest } from '../place/newest.ts';
import ColumnMenu from '../theme/ColumnMenu.vue';
import DayField from '../theme/DayField.vue';
import SortHeadings from '../theme/SortHeadings.vue';
import { count, perClick, sums } from '../theme/formats.ts';
import LeafStrip from './LeafStrip.vue';
import OutcomeBar from './OutcomeBar.vue';
import { addressOf, questionIn, usualDays } from './question.ts';
import TrafficPane from './TrafficPane.vue';
import ValueMenu from './ValueMenu.vue';
import { dimensionWords, useValueWords } from './words.ts';
import WordMenu from './WordMenu.vue';

/** Who came, by whatever it is told apart by: a sentence whose words are the controls, and all of it in the address. */
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const journal = useJournal();
const valueWords = useValueWords();
const isDimension = (name: string): name is DimensionName => dimensionNames.some((one) => one === name);
/** Our own days are those of the domain with the smallest ID, as the journal counts them. */
const zone = computed(() => catalogue.domains.toSorted((a, b) => (a.id < b.id ? -1 : 1))[0]?.zone ?? 'UTC');
const usual = computed((): readonly [string, string] => {
  const today = dayIn(zone.value, Date.now());
  return [dayName(dayNumber(today) - usualDays + 1), today];
});
const question = computed(() => questionIn(route.query, usual.value, isDimension));
const chosen = computed(() => (typeof route.query['at'] === 'string' ? route.query['at'] : undefined));
const ask = (next: Partial<TrafficQuestion>) =>
  router.push({ name: 'traffic', query: addressOf({ ...question.value, ...next }, usual.value) });
const narrow = (of: DimensionName, values: readonly string[], not: boolean) =>
  ask({
    where: [
      ...question.value.where.filter((condition) => condition.of !== of),
      ...(values.length > 0 ? [{ of, values, ...(not && { not }) }] : []),
    ],
  });
/** The period of as many days before or after. */
const move = (by: -1 | 1) => {
  const { from, to } = question.value;
  const days = dayNumber(to) - dayNumber(from) + 1;
  return ask({ from: dayName(dayNumber(from) + by * days), to: dayName(dayNumber(to) + by * days) });
};
const { found, loaded } = useNewest<Traffic | undefined>(
  () => [journal.news, question.value, catalogue.links, catalogue.sources],
  () => journalWorker.traffic(JSON.parse(JSON.stringify(question.value)) as TrafficQuestion), // as it was
  undefined,
);

const dayFormat = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', timeZone: 'UTC' });
const dayWords = (day: string): string => dayFormat.format(Date.parse(`${day}T00:00Z`));
const periodWords = computed(() => {
  const { from, to } = question.value;
  return from === to ? dayWords(from) : `${dayWords(from)} to ${dayWords(to)}`;
});
const conditionWords = ({ of, values, not = false }: TrafficQuestion['where'][number]): string => {
  const words = values.slice(0, 2).map((value) => valueWords(of, value));
  const more = values.length > 2 ? ` and ${values.length - 2} more` : '';
  return `${not ? 'not ' : ''}${words.join(' or ')}${more}`;
};

interface Line extends TrafficFigures {
  readonly value: string;
}
const botShare = ({ requests }: TrafficFigures): number => {
  const people = requests.counted + requests.repeat;
  return people + requests.bot === 0 ? 0 : requests.bot / (people + requests.bot);
};
const percent = (share: number): string =>
  share.toLocaleString(undefined, { style: 'percent', maximumFractionDigits: 1 });
const change = ({ requests, before }: TrafficFigures): number | undefined =>
  before.counted === 0 ? undefined : requests.counted / before.counted - 1;
const changeWords = (figures: TrafficFigures): string => {
  const by = change(figures);
  if (by === undefined) return figures.requests.counted > 0 ? 'new' : '';
  return by.toLocaleString(undefined, {
    style: 'percent',
    signDisplay: 'exceptZero',
    maximumFractionDigits: 0,
  });
};
const conversions = ({ states }: TrafficFigures): number => states.pending + states.approved + states.paid;
/** Of a currency alone: they are never added. */
const epc = ({ commission, requests }: TrafficFigures) =>
  commission.flatMap(({ minor, currency }) => {
    const each = epcOf(minor, requests.counted);
    return each === undefined || minor === 0 ? [] : [{ each, currency }];
  });
const epcWords = (figures: TrafficFigures): string =>
  epc(figures)
    .map(({ each, currency }) => perClick(each, currency))
    .join(' ');
const columns = computed((): readonly Column<Line>[] => [
  {
    name: 'value',
    title: dimensionWords[question.value.by].one.replace(/^./, (letter) => letter.toUpperCase()),
    hint: dimensionWords[question.value.by].hint,
    key: ({ value }) => valueWords(question.value.by, value),
  },
  { name: 'days', title: 'Visits by day', hint: 'A leaf for each day, as high as its counted visits.' },
  {
    name: 'visitors',
    title: 'Visitors',
    hint: 'People, each once a day.',
    number: true,
    downFirst: true,
    key: ({ visitors }) => visitors,
  },
  {
    name: 'visits',
    title: 'Visits',
    hint: 'Counted visits: people, without repeats.',
    number: true,
    downFirst: true,
    key: ({ requests }) => requests.counted,
  },
  {
    name: 'change',
    title: 'Change',
    hint: 'Of counted visits, against as many days before. Bold where it is more than chance.',
    number: true,
    downFirst: true,
    key: change,
  },
  {
    name: 'repeats',
    title: 'Repeats',
    hint: 'The same visitor on the same link shortly after.',
    number: true,
    downFirst: true,
    key: ({ requests }) => requests.repeat,
  },
  {
    name: 'bots',
    title: 'Bots',
    hint: 'Their share of what people and machines asked for.',
    number: true,
    downFirst: true,
    key: botShare,
  },
  {
    name: 'conversions',
    title: 'Conv.',
    hint: 'Conversions of these days that were not reversed.',
    number: true,
    downFirst: true,
    key: conversions,
  },
  amountColumn<Line>(
    'commission',
    'Commission',
    ({ commission }) => commission[0]?.minor,
    ({ commission }) => commission[0]?.currency ?? '',
  ),
  amountColumn<Line>(
    'epc',
    'EPC',
    (line) => epc(line)[0]?.each,
    (line) => epc(line)[0]?.currency ?? '',
  ),
]);
const usualColumns = ['value', 'days', 'visitors', 'change', 'bots', 'conversions', 'epc'];
const look = useTableLook<Line>('traffic', () => columns.value, usualColumns);
const shown = computed(() =>
  columns.value.filter(({ name }) => name === 'value' || look.chosen.value.has(name)),
);
const lines = computed(() => look.sorted(found.value?.lines ?? []));
/** Rows that are drawn; the others are found by narrowing. */
const most = 300;
/** All leaves of the table are of one scale. */
const highest = computed(() => Math.max(1, ...(found.value?.lines ?? []).flatMap(({ days }) => days)));
const choose = (value: string) =>
  router.push({
    name: 'traffic',
    query: {
      ...addressOf(question.value, usual.value),
      ...(chosen.value !== value && { at: value }),
    },
  });
const chosenLine = computed(() => found.value?.lines.find(({ value }) => value === chosen.value));
const pickPeriod = (days: number) => {
  const to = usual.value[1];
  return ask({ from: dayName(dayNumber(to) - days + 1), to });
};
const periods = [7, 28, 30, 90];
/** More bots than this are told by colour as well. */
const manyBots = 0.3;
</script>

<template>
  <div class="view" :class="{ 'has-pane': chosenLine }">
    <section class="left" aria-label="Traffic">
      <header>
        <h1>
          Visitors by
          <word-menu :word="dimensionWords[question.by].one" label="Told apart by">
            <template #default="{ close }">
              <v-list density="compact" class="small-menu">
                <v-list-item
                  v-for="name in dimensionNames"
                  :key="name"
                  :active="name === question.by"
                  :title="dimensionWords[name].one"
                  @click="(ask({ by: name }), close())"
                />
              </v-list>
            </template> </word-menu
          ><template v-for="condition in question.where" :key="condition.of"
            >, {{ dimensionWords[condition.of].one }}
            <word-menu :word="conditionWords(condition)" label="Only where">
              <template #default="{ close }">
                <value-menu
                  :question="question"
                  :names="dimensionNames"
                  :of="condition.of"
                  @set="narrow"
                  @close="close"
                />
              </template> </word-menu></template
          >,
          <word-menu :word="periodWords" label="Period">
            <template #default="{ close }">
              <div class="period">
                <text-link v-for="days in periods" :key="days" @click="(pickPeriod(days), close())"
                  >Last {{ days }} days</text-link
                >
                <day-field
                  :model-value="question.from"
                  label="From"
                  @update:model-value="$event && $event <= question.to && ask({ from: $event })"
                />
                <day-field
                  :model-value="question.to"
                  label="To"
                  @update:model-value="$event && $event >= question.from && ask({ to: $event })"
                />
              </div>
            </template>
          </word-menu>
        </h1>
        <span class="actions">
          <word-menu word="Narrow" label="Narrow">
            <template #default="{ close }">
              <value-menu :question="question" :names="dimensionNames" @set="narrow" @close="close" />
            </template>
          </word-menu>
          <text-link aria-label="Period before" @click="move(-1)">before</text-link>
          <text-link aria-label="Period after" :disabled="question.to >= usual[1]" @click="move(1)"
            >after</text-link
          >
          <column-menu
            :columns="columns.filter(({ name }) => name !== 'value')"
            :chosen="look.chosen.value"
            @toggle="look.toggle"
          />
        </span>
      </header>
      <v-skeleton-loader v-if="!loaded" type="image" aria-label="Loading" />
      <template v-else-if="found">
        <outcome-bar :figures="found.whole" />
        <p v-if="journal.arriving" class="quiet" role="status">
          Requests are still arriving; these figures rise.
        </p>
        <p v-if="found.rolledUpBefore" class="quiet">
          Requests before {{ dayWords(found.rolledUpBefore) }} were rolled up by day: how many visitors made
          them, and what else they were, is not known.
        </p>
        <p v-if="found.lines.length === 0" class="quiet">Nobody came in these days.</p>
        <div v-else class="wide">
          <small-table aria-label="Traffic">
            <sort-headings :columns="shown" :way-of="look.wayOf" @sort="look.sortBy" />
            <tbody>
              <tr
                v-for="line in lines.slice(0, most)"
                :key="line.value"
                :class="{ chosen: line.value === chosen }"
              >
                <td v-for="column in shown" :key="column.name" :class="{ number: column.number }">
                  <text-link
                    v-if="column.name === 'value'"
                    class="value"
                    :aria-pressed="line.value === chosen"
                    @click="choose(line.value)"
                    >{{ valueWords(question.by, line.value) }}</text-link
                  >
                  <leaf-strip
                    v-else-if="column.name === 'days'"
                    :days="line.days"
                    :most="highest"
                    :label="`${valueWords(question.by, line.value)} by day`"
                  />
                  <b v-else-if="column.name === 'visitors'">{{ count(line.visitors) }}</b>
                  <template v-else-if="column.name === 'visits'">{{ count(line.requests.counted) }}</template>
                  <span v-else-if="column.name === 'change'" :class="{ sure: line.changed }">{{
                    changeWords(line)
                  }}</span>
                  <template v-else-if="column.name === 'repeats'">{{ count(line.requests.repeat) }}</template>
                  <span v-else-if="column.name === 'bots'" :class="{ many: botShare(line) > manyBots }">{{
                    percent(botShare(line))
                  }}</span>
                  <template v-else-if="column.name === 'conversions'">{{
                    count(conversions(line))
                  }}</template>
                  <template v-else-if="column.name === 'commission'">{{ sums(line.commission) }}</template>
                  <b v-else>{{ epcWords(line) }}</b>
                </td>
              </tr>
            </tbody>
          </small-table>
        </div>
        <p v-if="found.lines.length > most" class="quiet">
          The first {{ count(most) }} of {{ count(found.lines.length) }}. Narrow what is asked to see others.
        </p>
      </template>
    </section>
    <traffic-pane
      v-if="chosenLine && chosen !== undefined"
      :key="chosen"
      :question="question"
      :value="chosen"
      @close="choose(chosen)"
      @narrow="narrow(question.by, [chosen], false)"
    />
  </div>
</template>

<style scoped>
.view {
  flex: 1;
  display: flex;
  min-width: 0;
}
.left {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 13px 20px 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: baseline;
  margin-bottom: 12px;
}
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin-inline-start: auto;
}
.period {
  display: grid;
  gap: 10px;
  padding: 14px;
}
.wide {
  overflow-x: auto;
}
.number {
  text-align: end;
  font-variant-numeric: tabular-nums;
}
.chosen {
  background: var(--fern-soft);
}
.value {
  overflow-wrap: anywhere;
}
.sure {
  font-weight: 650;
}
.many {
  color: var(--copper);
  font-weight: 650;
}
</style>
