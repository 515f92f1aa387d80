<script setup lang="ts">
import { computed } from 'vue';
import type { ConversionBehind, NewestRequest, TimeSpent, Traffic, TrafficQuestion } from '#core/queries';
import type { DimensionName } from '#core/traffic';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNewest } from '../place/newest.ts';
import { count, moment, money } from '../theme/formats.ts';
import SourceVerdict from './SourceVerdict.vue';
import { readWords, stayedWords } from './timeWords.ts';
import { dimensionWords, outcomeWords, useValueWords, weekdayWord } from './words.ts';

/** One row of traffic: when they came, where they went, and from where. */
const props = defineProps<{ question: TrafficQuestion; value: string }>();
const emit = defineEmits<{ close: []; narrow: []; exclude: [] }>();
const journal = useJournal();
const valueWords = useValueWords();
/** What is told of a row besides what it is a row of. */
const parts = ['link', 'country', 'device', 'source'] as const satisfies DimensionName[];
const most = 5;
const mostRequests = 6;
const own = computed((): TrafficQuestion => {
  const { by, from, to, where, show } = props.question;
  return {
    ...{ by, from, to },
    ...(show !== undefined && { show }),
    where: [
      ...where
        .filter((condition) => condition.of !== by)
        .map(({ of, values, not }) => ({ of, values: [...values], ...(not && { not }) })),
      { of: by, values: [props.value] },
    ],
  };
});
/** What is shown of a row, each with the way it went. */
const newest = useNewest<readonly NewestRequest[]>(
  () => [journal.news, own.value],
  () => {
    const { by: _by, ...rest } = own.value;
    return journalWorker.newestRequests(rest, mostRequests);
  },
  [],
);
const converted = useNewest<readonly ConversionBehind[]>(
  () => [journal.news, own.value],
  () => {
    const { from, to, where } = own.value;
    return journalWorker.newestConversions({ from, to, where }, mostRequests);
  },
  [],
).found;
const { found, loaded } = useNewest<readonly (readonly [DimensionName, Traffic])[]>(
  () => [journal.news, own.value],
  () =>
    Promise.all(
      (['hour', ...parts] as const)
        .filter((by) => by !== props.question.by)
        .map(async (by) => [by, await journalWorker.traffic({ ...own.value, by })] as const),
    ),
  [],
);
const spent = useNewest<TimeSpent | undefined>(
  () => [journal.news, own.value],
  () => {
    const { from, to, where } = own.value;
    return journalWorker.timeSpent({ from, to, where });
  },
  undefined,
).found;
const hours = computed(() => found.value.find(([by]) => by === 'hour')?.[1].lines ?? []);
const visitsAt = computed(() => new Map(hours.value.map(({ value, requests }) => [value, requests.counted])));
const highest = computed(() => Math.max(1, ...visitsAt.value.values()));
const lists = computed(() =>
  found.value.filter(([by, { lines }]) => by !== 'hour' && lines.some(({ visitors }) => visitors > 0)),
);
/** What nobody came by these days is no place they went to. */
const came = (lines: Traffic['lines']) => lines.filter(({ visitors }) => visitors > 0);
const titles: Readonly<Partial<Record<DimensionName, string>>> = {
  link: 'Where they went',
  country: 'Countries',
  device: 'Devices',
  source: 'Sources',
};
const shade = (weekday: number, hour: number) =>
  (visitsAt.value.get(`${weekday}-${hour}`) ?? 0) / highest.value;
const cellWords = (weekday: number, hour: number) =>
  `${weekdayWord(weekday)} ${hour}:00, ${count(visitsAt.value.get(`${weekday}-${hour}`) ?? 0)}`;
</script>

<template>
  <aside class="pane" :aria-label="valueWords(question.by, value)">
    <header>
      <h2>{{ valueWords(question.by, value) }}</h2>
      <span class="line">
        <text-link @click="emit('narrow')">Only this</text-link>
        <text-link @click="emit('exclude')">All but this</text-link>
        <text-link @click="emit('close')">Close</text-link>
      </span>
    </header>
    <source-verdict
      v-if="question.by === 'source' && value !== ''"
      :key="value"
      :source="value"
      :question="question"
    />
    <v-skeleton-loader v-if="!loaded" type="paragraph" aria-label="Loading" />
    <template v-if="hours.length > 0">
      <h3>Weekday and hour</h3>
      <!-- A table of shades: each cell says its number to a screen reader, which a drawn chart does not. -->
      <div class="hours" role="table" aria-label="Visits by weekday and hour">
        <div v-for="weekday in 7" :key="weekday" role="row">
          <span role="rowheader">{{ weekdayWord(weekday) }}</span>
          <i
            v-for="hour in 24"
            :key="hour"
            role="cell"
            :aria-label="cellWords(weekday, hour - 1)"
            :title="cellWords(weekday, hour - 1)"
            :style="{ '--shade': shade(weekday, hour - 1) }"
          />
        </div>
      </div>
    </template>
    <template v-if="spent">
      <h3>Time spent</h3>
      <p v-if="spent.stayed">{{ stayedWords(spent.stayed) }}</p>
      <p v-if="spent.read">{{ readWords(spent.read) }}</p>
      <p class="quiet">
        A redirect cannot know it: only frames, waiting pages and pages with the script tell{{
          spent.stayed || spent.read ? '' : ', and none did'
        }}.
      </p>
    </template>
    <template v-for="[by, { lines }] in lists" :key="by">
      <h3>{{ titles[by] ?? dimensionWords[by].one }}</h3>
      <ul>
        <li v-for="line in came(lines).slice(0, most)" :key="line.value">
          <span>{{ valueWords(by, line.value) }}</span>
          <b>{{ count(line.visitors) }}</b>
        </li>
        <li v-if="came(lines).length > most" class="quiet">
          and {{ count(came(lines).length - most) }} more
        </li>
      </ul>
    </template>
    <template v-if="newest.found.value.length > 0">
      <h3>Newest {{ outcomeWords[question.show ?? 'counted'].name.toLowerCase() }}</h3>
      <ul>
        <li v-for="{ hop, conversions } in newest.found.value" :key="hop.seq">
          <router-link
            v-if="hop.click !== ''"
            :to="{ name: 'journey', params: { link: hop.link, click: hop.click } }"
            >{{ moment(hop.at) }}</router-link
          >
          <span v-else>{{ moment(hop.at) }}</span>
          <span class="quiet"
            >{{ valueWords('link', hop.link)
            }}{{ conversions > 0 ? `, ${count(conversions)} conv.` : '' }}</span
          >
        </li>
      </ul>
    </template>
    <template v-if="converted.length > 0">
      <h3>Newest conversions</h3>
      <ul>
        <li v-for="one in converted" :key="one.id">
          <router-link
            v-if="one.click !== ''"
            :to="{ name: 'journey', params: { link: one.link, click: one.click } }"
            >{{ moment(one.at) }}</router-link
          >
          <span v-else>{{ moment(one.at) }}</span>
          <span class="quiet"
            >{{ one.status }} {{ one.amount === null ? '' : money(one.amount, one.currency) }}</span
          >
        </li>
      </ul>
    </template>
  </aside>
</template>

<style scoped>
.pane {
  flex: 0 0 270px;
  overflow: auto;
  padding: 13px 16px 30px;
  background: var(--surface);
  border-inline-start: 1px solid var(--line);
}
header {
  display: grid;
  gap: 2px;
}
.line {
  display: flex;
  gap: 12px;
}
h3 {
  margin: 16px 0 6px;
  font-size: 13px;
}
.hours > div {
  display: grid;
  grid-template-columns: 34px repeat(24, 1fr);
  gap: 1px;
  margin-bottom: 1px;
  font-size: 12px;
}
i {
  background: color-mix(in srgb, var(--fern) calc(100% * var(--shade)), var(--sunk));
  border-radius: var(--leaf-tile, 4px 1px);
}
a {
  color: var(--fern);
}
p {
  margin: 0 0 4px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  padding: 3px 0;
  overflow-wrap: anywhere;
}
b {
  font-variant-numeric: tabular-nums;
}
@media (max-width: 760px) {
  .pane {
    flex: 1;
    border: 0;
  }
}
</style>
