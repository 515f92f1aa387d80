<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue';
import { allowedHop, restrictionsOf, hopOf } from '#core/catalogue';
import type { Status } from '#core/catalogue';
import { decide, fromLog, prepareLink, respond } from '#core/hop';
import type { Journey } from '#core/queries';
import { exampleNonce } from './exampleNonce.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import LeafMark from '../theme/LeafMark.vue';
import { moment, money } from '../theme/formats.ts';

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

const outcomes = {
  counted: 'Counted as a visitor.',
  repeat: 'The same visitor again within half an hour: kept, not counted.',
  bot: 'A machine: kept, not counted.',
  prefetch: 'A prefetch: kept, not counted.',
  test: 'Your own test: kept, not counted.',
  'not redirected': 'Not redirected: kept, not counted.',
} as const;
const hop = computed(() => journey.value?.visit.hop);
const link = computed(() => catalogue.link(hop.value?.link));
/** The response as it was sent: the link and its domain of that moment answer the same request the same way. */
const response = computed(() => {
  const visit = hop.value;
  const then = journey.value?.then;
  if (!visit || !then || visit.click === '' || visit.branch === fromLog) return undefined;
  const program = catalogue.program(then.link.program);
  const ready = prepareLink(
    then.link,
    allowedHop(hopOf(then.link, then.domain), restrictionsOf(program, then.domain)),
    then.domain,
  );
  if (!ready.ok) return undefined;
  // Whether the visitor was here before is not in the record; the branch that was taken tells it.
  const request = { ...visit, language: visit.lang };
  const decisions = [false, true].map((returning) => decide(ready.value, { ...request, returning }));
  const decision = decisions.find(({ branch }) => branch === visit.branch) ?? decisions[0];
  const place = { host: visit.host, path: '', nonce: () => exampleNonce, sealSecondPage: () => '…' };
  const sent = respond(ready.value, visit, { ...request, returning: false }, visit.click, place);
  return { ...sent, why: decision?.branch === visit.branch ? decision.why : [] };
});
const from = computed(() => {
  const visit = hop.value;
  if (!visit) return '';
  const parts = [
    visit.source === '' ? undefined : `source ${visit.source}`,
    visit.from === '' ? 'page not known' : `from ${visit.from}`,
    visit.country === '' ? 'country unknown' : visit.country,
    visit.device,
  ];
  return parts.filter(Boolean).join(', ');
});
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
      <li>
        <leaf-mark tone="fern" :size="13" />
        <h3>
          Request <span class="quiet">{{ moment(hop.at) }}</span>
        </h3>
        <p>{{ hop.method }} {{ hop.host }}, {{ from }}.</p>
        <p v-if="hop.query" class="mono wrap">?{{ hop.query }}</p>
        <p class="quiet wrap">{{ hop.ua || 'No user agent sent.' }}</p>
        <p>
          <strong>{{ outcomes[journey.visit.outcome] }}</strong>
        </p>
      </li>
      <li>
        <leaf-mark tone="fern" outlined :size="13" />
        <h3>Branch</h3>
        <p v-if="hop.branch === fromLog">
          Another server answered; its access log told of it. Where it led is not in there.
        </p>
        <p v-for="reason in response?.why" :key="reason.branch">{{ reason.because }}</p>
        <p v-if="hop.version > 0" class="quiet">The link as of version {{ hop.version }}.</p>
      </li>
      <li>
        <leaf-mark tone="fern" :size="13" />
        <h3>Response</h3>
        <p class="mono wrap">
          {{ hop.status
          }}<template v-if="response && response.status === hop.status">
            {{ response.body === '' ? ` → ${response.headers[1] ?? ''}` : ' a page of yours' }}</template
          >
        </p>
      </li>
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
        <p class="quiet">It appears here when a postback carries this click ID.</p>
      </li>
    </ol>
    <v-skeleton-loader v-else type="list-item-three-line, list-item-three-line" color="surface" />
  </div>
</template>

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
ol > li {
  position: relative;
  padding-bottom: 14px;
}
ol > li > .leaf-mark {
  position: absolute;
  left: -24px;
  top: 3px;
  background-color: var(--tone);
}
ol > li > .leaf-mark.outlined {
  background: var(--surface);
}
h3 {
  margin: 0;
  font-size: 14px;
  font-weight: 600;
}
h3 .quiet {
  font-weight: 400;
}
p {
  margin: 2px 0;
}
.wrap {
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
