<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import { promotionSeparator } from '#core/catalogue';
import { judge } from '#core/figures';
import type { Pays, PaysQuestion, ProfitByDay } from '#core/queries';
import { exponentOf } from '#core/values';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNewest } from '../place/newest.ts';
import { count, money, percent } from '../theme/formats.ts';
import ChoiceEntry from './ChoiceEntry.vue';
import { addressOf } from '../traffic/question.ts';
import { each, reasonOf, useCostWords, verdictNames } from './words.ts';

/** One row of what pays: its verdict in words that can be said to another, its costs, and what would change it. */
const props = defineProps<{
  line: Pays['lines'][number];
  pays: Pays;
  question: Pick<PaysQuestion, 'by' | 'from' | 'to' | 'where'>;
  name: string;
  currency: string;
}>();
const emit = defineEmits<{ close: []; 'add-cost': [] }>();
const ProfitChart = defineAsyncComponent(() => import('./ProfitChart.vue'));
const costWords = useCostWords();
const journal = useJournal();
const deciding = ref(false);
const { found: days, loaded } = useNewest<readonly ProfitByDay[]>(
  () => [journal.news, props.question, props.line, props.currency],
  () => {
    const { by, from, to, where } = JSON.parse(JSON.stringify(props.question)) as typeof props.question; // as it was
    const { value } = props.line;
    return journalWorker.profitByDay({
      ...{ by, from, to, where, value, currency: props.currency, now: Date.now() },
    });
  },
  [],
);
const evidence = computed(() => props.line.evidence);
/** What a visitor cost, and what one may cost at most. */
const costEach = computed(() => (props.line.visitors > 0 ? props.line.cost / props.line.visitors : 0));
const mostEach = computed(() => {
  const { band } = props.line;
  return band ? Math.max(0, band.low + costEach.value) : undefined;
});
const sentences = computed(() => {
  const { visitors, conversions, cost, approved, worth, verdict, ripe } = props.line;
  const people = `${count(visitors)} ${visitors === 1 ? 'person' : 'people'}`;
  const sold =
    conversions === 0
      ? 'none bought'
      : `${count(conversions)} ${conversions === 1 ? 'sale' : 'sales'} came of them`;
  const first =
    cost === 0
      ? `${people} came and cost nothing; ${sold}.`
      : `${people} cost ${money(cost, props.currency)}; ${sold}.`;
  const earned = `That earned ${money(approved + worth, props.currency)}${worth > 0 ? `, ${money(worth, props.currency)} of it still pending, at what pending is usually worth` : ''}.`;
  const due =
    visitors > 0
      ? `Of all sales that such visits bring, ${percent(ripe / visitors)} have usually come by now.`
      : '';
  return { first, earned: conversions > 0 ? earned : '', due: verdict === 'no rate' ? '' : due };
});
const costs = computed(() =>
  props.pays.costs.filter(({ cost: { of } }) => {
    switch (props.question.by) {
      case 'link':
        return of.kind === 'link' && of.link === props.line.value;
      case 'source':
        return 'source' in of && of.source === props.line.value;
      case 'promotion':
        return of.kind === 'promotion' && props.line.value.split(promotionSeparator).includes(of.promotion);
      default:
        return false;
    }
  }),
);

// What would change it: the same rule with another cost, another payout, another share that stays.
const factors = ref({ cost: 1, payout: 1, stays: 1 });
watch(
  () => props.line.value,
  () => (factors.value = { cost: 1, payout: 1, stays: 1 }),
);
const changed = computed(() => {
  const was = evidence.value;
  if (!was) return undefined;
  const { cost, payout, stays } = factors.value;
  const judged = judge({
    ...was,
    cost: was.cost * cost,
    payout: { ...was.payout, mean: was.payout.mean * payout },
    conversions: was.conversions * stays,
  });
  return judged === 'cut' && props.line.paidUntil !== undefined ? 'wait' : judged;
});
const isChanged = computed(() => Object.values(factors.value).some((factor) => factor !== 1));
const knobs = computed(() => {
  const was = evidence.value;
  if (!was) return [];
  const { currency } = props;
  const places = exponentOf(currency);
  return [
    ...(was.cost > 0
      ? [
          {
            name: 'cost' as const,
            title: 'At a cost a visitor of',
            most: 3,
            value: (factor: number) => each((was.cost / was.visitors) * factor, currency),
          },
        ]
      : []),
    {
      name: 'payout' as const,
      title: 'Were a sale paid',
      most: 3,
      value: (factor: number) => money(Math.round(was.payout.mean * factor), currency),
    },
    {
      name: 'stays' as const,
      title: 'Were so many of its sales approved',
      most: 1,
      value: (factor: number) => (was.conversions * factor).toFixed(places > 0 ? 1 : 0),
    },
  ];
});
</script>

<template>
  <aside class="pane" :aria-label="name">
    <header>
      <h2>{{ name }}</h2>
      <span class="line">
        <text-link
          :to="{ name: 'traffic', query: { ...addressOf({ ...question }, ['', '']), at: line.value } }"
          >Visits and conversions behind it</text-link
        >
        <text-link @click="emit('close')">Close</text-link>
      </span>
    </header>
    <p class="said">
      <b :class="line.verdict === 'cut' ? 'loses' : line.verdict === 'scale' ? 'earns' : ''"
        >{{ verdictNames[line.verdict] }}:</b
      >
      {{ reasonOf(line, currency) }}. {{ sentences.first }} {{ sentences.earned }} {{ sentences.due }}
    </p>
    <p class="acts">
      <v-btn color="primary" size="small" @click="deciding = true">Decide</v-btn>
      <v-btn variant="outlined" size="small" @click="emit('add-cost')">Add a cost</v-btn>
    </p>
    <v-dialog v-model="deciding" width="auto" aria-label="Decide">
      <v-card
        ><choice-entry
          :line="line"
          :question="question"
          :name="name"
          :currency="currency"
          @done="deciding = false"
      /></v-card>
    </v-dialog>
    <template v-if="line.verdict !== 'no rate' && line.visitors > 0">
      <h3>Profit so far</h3>
      <v-skeleton-loader v-if="!loaded" type="image" height="150" aria-label="Loading" />
      <profit-chart v-else-if="days.length > 1" :days="days" :currency="currency" />
    </template>
    <h3>What it cost</h3>
    <dl>
      <template v-for="{ cost, parts, visits, requests, otherwise } in costs" :key="cost.id">
        <dt>
          {{ costWords.days(cost) }}, {{ costWords.amount(cost) }}
          <small v-if="otherwise !== undefined" class="quiet"
            >{{ count(visits) }} visits, {{ count(requests) }} requests; billed the other way
            {{ money(Math.round((otherwise / 1e9) * 10 ** exponentOf(currency)), currency) }}</small
          >
        </dt>
        <dd>
          {{
            parts === undefined
              ? 'no rate'
              : money(Math.round((parts / 1e9) * 10 ** exponentOf(currency)), currency)
          }}
        </dd>
      </template>
      <dt>in these days</dt>
      <dd>{{ money(line.cost, currency) }}</dd>
      <dt>that is a visitor</dt>
      <dd>{{ each(costEach, currency) }}</dd>
      <template v-if="mostEach !== undefined">
        <dt>one may cost at most, to be sure</dt>
        <dd>{{ each(mostEach, currency) }}</dd>
      </template>
    </dl>
    <template v-if="knobs.length > 0 && line.verdict !== 'no rate'">
      <h3>What would change it</h3>
      <div v-for="knob in knobs" :key="knob.name" class="knob">
        <span>{{ knob.title }}</span>
        <output>{{ knob.value(factors[knob.name]) }}</output>
        <v-slider
          v-model="factors[knob.name]"
          :min="0"
          :max="knob.most"
          :step="0.05"
          density="compact"
          color="primary"
          track-color="line"
          thumb-size="14"
          hide-details
          :aria-label="knob.title"
        />
      </div>
      <p role="status">
        It would be <b>{{ verdictNames[changed ?? line.verdict] }}</b>.
        <text-link v-if="isChanged" @click="factors = { cost: 1, payout: 1, stays: 1 }">As it is</text-link>
      </p>
    </template>
  </aside>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
.pane {
  flex: 0 0 330px;
  overflow: auto;
  padding: 13px 18px 30px;
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
  margin: 16px 0 4px;
  font-size: 13px;
}
@media (max-width: 760px) {
  .pane {
    flex: 1;
    border: 0;
  }
}
.acts {
  display: flex;
  gap: 8px;
}
.said {
  line-height: 1.45;
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  margin: 0 0 16px;
}
dt,
dd {
  margin: 0;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
dt small {
  display: block;
  font-size: 12px;
}
dd {
  padding-inline-start: 12px;
  font-weight: 650;
  text-align: end;
  font-variant-numeric: tabular-nums;
}
.knob {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 12px;
}
.knob > :last-child {
  grid-column: 1 / -1;
}
output {
  font-weight: 650;
  font-variant-numeric: tabular-nums;
}
</style>
