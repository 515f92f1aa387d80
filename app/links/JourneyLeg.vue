<script setup lang="ts">
import { computed } from 'vue';
import { allowedHop, hopOf, restrictionsOf } from '#core/catalogue';
import { decide, fromLog, prepareLink, respond } from '#core/hop';
import type { Leg } from '#core/queries';
import { exampleNonce } from './exampleNonce.ts';
import { useCatalogue } from '../data/catalogue.ts';
import LeafMark from '../theme/LeafMark.vue';
import { moment } from '../theme/formats.ts';

/** One click of a journey: how it came, what decided, and what was answered. */
const props = defineProps<{
  leg: Leg;
  /** What its first step is called. */
  title: string;
  /** Its response is a page of the person's own, from which somebody went on. */
  isLanding: boolean;
}>();
const catalogue = useCatalogue();

const outcomes = {
  counted: 'Counted as a visitor.',
  repeat: 'The same visitor again within half an hour: kept, not counted.',
  bot: 'A machine: kept, not counted.',
  prefetch: 'A prefetch: kept, not counted.',
  test: 'Your own test: kept, not counted.',
  'not redirected': 'Not redirected: kept, not counted.',
} as const;
const hop = computed(() => props.leg.visit.hop);
/** The response as it was sent: the link and its domain of that moment answer the same request the same way. */
const response = computed(() => {
  const visit = hop.value;
  const { then } = props.leg;
  if (!then || visit.click === '' || visit.branch === fromLog) return undefined;
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
  const parts = [
    visit.source === '' ? undefined : `source ${visit.source}`,
    visit.from === '' ? 'page not known' : `from ${visit.from}`,
    visit.country === '' ? 'country unknown' : visit.country,
    visit.device,
  ];
  return parts.filter(Boolean).join(', ');
});
</script>

<template>
  <li>
    <leaf-mark tone="fern" :size="13" />
    <h3>
      {{ title }} <span class="quiet">{{ moment(hop.at) }}</span>
    </h3>
    <p>{{ hop.method }} {{ hop.host }}, {{ from }}.</p>
    <p v-if="hop.query" class="mono wrap">?{{ hop.query }}</p>
    <p class="quiet wrap">{{ hop.ua || 'No user agent sent.' }}</p>
    <p>
      <strong>{{ outcomes[leg.visit.outcome] }}</strong>
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
    <h3>{{ isLanding ? 'Response, to a page of yours' : 'Response' }}</h3>
    <p class="mono wrap">
      {{ hop.status
      }}<template v-if="response && response.status === hop.status">
        {{ response.body === '' ? ` → ${response.headers[1] ?? ''}` : ' a page of yours' }}</template
      >
    </p>
  </li>
</template>
