<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue';
import type { Status } from '#core/catalogue';
import { fromLog } from '#core/hop';
import type { Journey, Leg } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import LeafMark from '../theme/LeafMark.vue';
import { lasted, moment, money } from '../theme/formats.ts';
import JourneyLeg from './JourneyLeg.vue';

const props = defineProps<{ click: string }>();
const emit = defineEmits<{ back: [] }>();
const catalogue = useCatalogue();
const journal = useJournal();
const journey = shallowRef<Journey | undefined>();
const asked = shallowRef(false);

watch(
  [() => props.click, () => journal.news],
  async ([click]) => {
    const found = await journalWorker.journey(click);
    if (click !== props.click) return;
    journey.value = found;
    asked.value = true;
  },
  { immediate: true },
);

const hop = computed(() => journey.value?.visit.hop);
const link = computed(() => catalogue.link(hop.value?.link));
const titleOf = (leg: Leg): string => catalogue.link(leg.visit.hop.link)?.title ?? leg.visit.hop.link;
const firstOf = (leg: Leg): Leg | undefined =>
  journey.value?.legs.find(({ visit }) => visit.hop.click === leg.visit.hop.first);
/** What a click of a journey of several is called: how long after the one that led to its page it came. */
const legTitle = (leg: Leg): string => {
  if ((journey.value?.legs.length ?? 0) < 2) return 'Request';
  const before = firstOf(leg);
  return before
    ? `Went on after ${lasted(leg.visit.hop.at - before.visit.hop.at)}: ${titleOf(leg)}`
    : titleOf(leg);
};
const isLanding = (leg: Leg): boolean =>
  leg.visit.hop.click !== '' &&
  (journey.value?.legs.some(({ visit }) => visit.hop.first === leg.visit.hop.click) ?? false);
const tone = (status: Status) => (status === 'reversed' ? 'plum' : status === 'pending' ? 'slate' : 'fern');
const stepWords = {
  first: 'First heard',
  state: 'State changed',
  amount: 'Amount changed',
  refund: 'Money taken back',
  repeat: 'Said again, nothing new',
};
</script>

<template>
  <div class="pane" @keydown.esc="emit('back')">
    <header>
      <text-link @click="emit('back')">← {{ link?.title ?? 'Back' }}</text-link>
      <h2>Journey of a click</h2>
      <code class="id">{{ click }}</code>
    </header>
    <p v-if="!journey && asked" class="missing">
      This browser’s copy of the journal holds no such click{{
        journal.arriving ? ' yet; it is still arriving' : ''
      }}.
    </p>
    <ol v-else-if="journey && hop">
      <journey-leg
        v-for="leg in journey.legs"
        :key="leg.visit.hop.seq"
        :leg="leg"
        :title="legTitle(leg)"
        :is-landing="isLanding(leg)"
      />
      <template v-for="{ record, read } in journey.postbacks" :key="record.seq">
        <li>
          <leaf-mark tone="slate" :size="13" />
          <h3>
            Postback
            <span class="quiet">{{ moment(record.at) }}, {{ catalogue.network(record.network)?.name }}</span>
          </h3>
          <p class="mono wrap">{{ record.via }} ?{{ record.query }}</p>
          <p v-if="record.body" class="mono wrap">{{ record.body }}</p>
          <p v-for="problem in read.problems" :key="problem.path" class="bad">
            {{ problem.path }}: {{ problem.message }}
          </p>
        </li>
      </template>
      <li v-for="{ conversion: c, match } in journey.conversions" :key="c.id">
        <leaf-mark :tone="tone(c.status)" :size="13" />
        <h3>
          Conversion {{ c.txn }} <span class="quiet">{{ c.event }}</span>
        </h3>
        <p>
          <strong class="amount">{{ c.amount === null ? 'No amount' : money(c.amount, c.currency) }}</strong>
          <span class="status" :class="c.status"> {{ c.status }}</span>
        </p>
        <p class="quiet">{{ match.because }}</p>
        <ul>
          <li v-for="step in c.steps" :key="step.seq">
            {{ moment(step.at) }} · {{ stepWords[step.did] }}: {{ step.status
            }}<template v-if="step.amount !== null">, {{ money(step.amount, c.currency) }}</template>
          </li>
        </ul>
      </li>
      <li v-if="journey.conversions.length === 0">
        <leaf-mark tone="sand" outlined :size="13" />
        <h3>No conversion yet</h3>
        <p v-if="hop.branch === fromLog" class="quiet">
          Nobody was given this click ID: it was made from a line of the log.
        </p>
        <p v-else class="quiet">It appears here when a postback carries this click ID.</p>
      </li>
    </ol>
    <v-skeleton-loader v-else type="list-item-three-line, list-item-three-line" color="surface" />
  </div>
</template>

<!-- The legs of a journey are steps of the same list: they look alike. -->
<style scoped>
.pane {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 14px 18px;
}
h2 {
  margin-top: 6px;
}
.id {
  color: var(--ink-two);
  overflow-wrap: anywhere;
}
ol {
  list-style: none;
  margin: 14px 0 0;
  padding: 0 0 0 24px;
  position: relative;
}
ol::before {
  content: '';
  position: absolute;
  left: 6px;
  top: 6px;
  bottom: 10px;
  width: 1.5px;
  background: var(--fern);
}
ol:deep(> li) {
  position: relative;
  padding-bottom: 14px;
}
ol:deep(> li > .leaf-mark) {
  position: absolute;
  left: -24px;
  top: 3px;
  background-color: var(--tone);
}
ol:deep(> li > .leaf-mark.outlined) {
  background: var(--surface);
}
.pane :deep(h3) {
  margin: 0;
  font-size: 14px;
  font-weight: 600;
}
.pane :deep(h3 .quiet) {
  font-weight: 400;
}
.pane :deep(p) {
  margin: 2px 0;
}
.pane :deep(.wrap) {
  overflow-wrap: anywhere;
}
ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
  font-size: 13px;
}
.amount {
  font-size: 18px;
}
.bad,
.missing {
  color: var(--copper);
}
.status.approved,
.status.paid {
  color: var(--fern);
}
.status.reversed {
  color: var(--plum);
}
</style>
