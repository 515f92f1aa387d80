<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue';
import type { Link } from '#core/catalogue';
import type { ConversionLine, Onward, TimeSpent, Visit } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { figureDays, journalWorker, useJournal } from '../data/journal.ts';
import { useOwnDays } from '../data/ownDays.ts';
import { count, lasted, moment, money, percent, sums } from '../theme/formats.ts';
import { stayedWords } from '../traffic/timeWords.ts';
import LeafStrip from '../theme/LeafStrip.vue';
import RouteSection from './RouteSection.vue';

const props = defineProps<{ link: Link }>();
const journal = useJournal();
const catalogue = useCatalogue();
const { period, since } = useOwnDays();
const onward = shallowRef<Onward>();
const spent = shallowRef<TimeSpent>();
const conversions = shallowRef<readonly ConversionLine[]>([]);
const visits = shallowRef<readonly Visit[]>([]);
const figures = computed(() => journal.figures.get(props.link.id));
const sentence = computed(() => {
  if (journal.arriving) return 'Visits and conversions are still arriving.';
  const n = figures.value?.conversions ?? 0;
  if (n === 0) return `No conversion in ${figureDays} days.`;
  return `${count(n)} ${n === 1 ? 'conversion' : 'conversions'} in ${figureDays} days, ${sums(figures.value?.commission ?? [])}.`;
});
/** Who came, in a few words, each of which leads to the same in Traffic. */
const came = computed(() => {
  const { counted = 0, repeats = 0, bots = 0 } = figures.value ?? {};
  const toTraffic = (show?: 'repeat' | 'bot') => ({
    name: 'traffic',
    query: { by: 'source', with: `link:${props.link.id}`, ...(show && { show }) },
  });
  return [
    { words: `${count(counted)} ${counted === 1 ? 'visit' : 'visits'}`, to: toTraffic() },
    ...(repeats > 0 ? [{ words: `${count(repeats)} repeated`, to: toTraffic('repeat') }] : []),
    ...(bots > 0 ? [{ words: `${count(bots)} by bots`, to: toTraffic('bot') }] : []),
  ];
});
/** How many went on from the page this link leads to, and what came of it. */
const wentOn = computed(() => {
  const {
    visits: all = 0,
    wentOn: some = 0,
    seconds = 0,
    converted = 0,
    convertedSeconds = 0,
  } = onward.value ?? {};
  const parts = [
    `${percent(some / all)} went on from your page (${count(some)} of ${count(all)}), half of them within ${lasted(seconds * 1000)}.`,
  ];
  if (converted > 0)
    parts.push(
      `${percent(converted / some)} of those led to a conversion (${count(converted)}), half of them within ${lasted(convertedSeconds * 1000)}.`,
    );
  return parts.join(' ');
});

watch(
  [() => props.link.id, () => journal.news],
  async ([id]) => {
    const [from, to] = period.value;
    const [recent, further, time] = await Promise.all([
      journalWorker.recent(id, 5),
      journalWorker.onward(id, since.value),
      journalWorker.timeSpent({ from, to, where: [{ of: 'link', values: [id] }] }),
    ]);
    if (id !== props.link.id) return;
    ({ conversions: conversions.value, visits: visits.value } = recent);
    onward.value = further;
    spent.value = time;
  },
  { immediate: true },
);
</script>

<template>
  <route-section label="Return">
    {{ sentence }}
    <div v-if="!journal.arriving && figures" class="came">
      <span>
        <template v-for="({ words, to }, i) in came" :key="words">
          <template v-if="i > 0">, </template><router-link :to="to">{{ words }}</router-link>
        </template>
        in {{ figureDays }} days.
      </span>
      <leaf-strip v-if="figures.counted > 0" :days="figures.days" label="Visits of the last 14 days" />
    </div>
    <p v-if="spent?.stayed" class="onward">{{ stayedWords(spent.stayed) }}</p>
    <p v-if="onward" class="onward">
      {{ wentOn }}
      <template v-for="({ link: to, visits: n }, i) in onward.links" :key="to">
        <span v-if="i > 0">, </span>
        <router-link :to="`/links/${to}`">{{ catalogue.link(to)?.title ?? to }}</router-link> {{ count(n) }}
      </template>
    </p>
    <ul v-if="conversions.length > 0" aria-label="Newest conversions">
      <li v-for="c in conversions" :key="c.id">
        <router-link :to="`/links/${link.id}/click/${c.click}`">
          <span>{{ moment(c.at) }} {{ c.event }} {{ c.txn }}</span>
          <span
            ><span class="status" :class="c.status">{{ c.status }}</span>
            <strong>{{ c.amount === null ? 'no amount' : money(c.amount, c.currency) }}</strong></span
          >
        </router-link>
      </li>
    </ul>
    <p v-if="visits.length > 0" class="quiet clicks">
      Newest clicks:
      <template v-for="(visit, i) in visits" :key="visit.hop.seq">
        <span v-if="i > 0">, </span>
        <router-link v-if="visit.hop.click" :to="`/links/${link.id}/click/${visit.hop.click}`">{{
          moment(visit.hop.at)
        }}</router-link>
        <span v-else>{{ moment(visit.hop.at) }} (prefetch)</span>
      </template>
    </p>
  </route-section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 6px 0;
  padding: 0;
}
li a {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 3px 0;
}
a {
  color: inherit;
  text-decoration: none;
}
a:hover {
  text-decoration: underline;
}
.came {
  display: grid;
  grid-template-columns: 1fr 120px auto;
  gap: 12px;
  align-items: end;
  margin-top: 4px;
}
.came a {
  color: var(--fern);
  font-size: 13px;
}
@media (max-width: 760px) {
  .came {
    grid-template-columns: 1fr auto;
  }
  .came .strip {
    display: none;
  }
}
.clicks {
  margin: 4px 0 0;
  font-size: 13px;
}
/* Where they went on to, and which clicks there were. */
.onward {
  margin: 4px 0 0;
}
.onward a,
.clicks a {
  color: var(--fern);
}
.status {
  color: var(--ink-two);
  font-size: 13px;
}
.status.approved,
.status.paid {
  color: var(--fern);
}
.status.reversed {
  color: var(--plum);
}
</style>
