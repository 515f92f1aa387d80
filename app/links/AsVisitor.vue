<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed, ref } from 'vue';
import { readLink, slotLoss } from '#core/link-parts';
import type { Device, Domain, Link } from '#core/catalogue';
import { devices, pathsOf } from '#core/catalogue';
import { answerVisit, clickId, isSourceName, momentOf, wallClock } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { exampleNonce } from './exampleNonce.ts';

const props = defineProps<{ link: Link; domain: Domain }>();
const catalogue = useCatalogue();
const country = ref('DE');
const device = ref<Device>('phone');
const language = ref('de-DE');
const source = ref('');
const returning = ref(false);
const zone = computed(() => props.link.hours?.zone ?? props.domain.zone);
const clockText = (at: number) => {
  const { day, minute } = wallClock(zone.value, at);
  return `${day}T${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
};
const time = ref(clockText(Date.now()));
const open = ref(false);

/** An example of a click ID, the same each time so that only what is chosen changes. */
const exampleBytes = Uint8Array.from([17, 34, 51, 68, 85, 102, 119, 136, 153, 170]);

const answer = computed(() => {
  const at = /^\d{4}-\d\d-\d\dT\d\d:\d\d/.test(time.value)
    ? momentOf(zone.value, time.value.slice(0, 16))
    : Date.now();
  const visit = {
    at,
    source: isSourceName(source.value) ? source.value : '',
    query: '',
    country: country.value.toUpperCase(),
    device: device.value,
    language: language.value.trim(),
    visitor: '5f2c9a0d71e4b386',
    returning: returning.value,
  };
  const place = {
    host: props.domain.host,
    path: pathsOf(props.link, props.domain)[0] ?? '',
    nonce: () => exampleNonce,
    sealSecondPage: () => '…',
  };
  const found = answerVisit(props.link, catalogue, visit, clickId(at, exampleBytes), place);
  if (!found) return undefined;
  const { decision } = found;
  const { headers, status, body } = found.response;
  const other = found.link.id === props.link.id ? undefined : found.link;
  const pairs = headers.flatMap((name, i) => (i % 2 === 0 ? [{ name, value: headers[i + 1] ?? '' }] : []));
  const first = pairs[0];
  const location = first?.name === 'Location' ? first.value : '';
  const to = /(?:content="\d+;url=|<iframe src=")([^"]+)"/.exec(body)?.[1]?.replaceAll('&amp;', '&') ?? '';
  return {
    status,
    location,
    to,
    pairs,
    body,
    other,
    why: decision.why,
    notRedirected: decision.notRedirected,
  };
});
const sourceWrong = computed(() => source.value !== '' && !isSourceName(source.value));
/** What the network's slot would make of this source, where the destination carries it. */
const sourceLoss = computed(() => {
  const { network, pairs } = readLink(props.link.destination, catalogue.networks);
  const name = pairs.find((pair) => pair.raw === '{source}')?.name;
  const slot = network?.slots.find((one) => one.name === name);
  return slot && source.value !== '' ? slotLoss(slot, source.value)?.message : undefined;
});
const bare = (url: string) => url.replace(/^https?:\/\//, '');
const taken = computed(() => answer.value?.why.find((reason) => reason.taken));
</script>

<template>
  <section class="visitor" aria-label="As a visitor">
    <header>
      <h3 class="caps">As a visitor</h3>
      <text-link :aria-expanded="open" @click="open = !open">
        {{ open ? 'less' : 'whole response' }}
      </text-link>
    </header>
    <div class="chosen">
      <v-text-field
        v-model="country"
        single-line
        aria-label="Country"
        maxlength="2"
        class="small-field mono country"
      />
      <v-select v-model="device" single-line class="small-field" :items="devices" aria-label="Device" />
      <v-text-field v-model="language" single-line aria-label="Language" class="small-field mono language" />
      <v-text-field
        v-model="source"
        single-line
        aria-label="Source"
        class="small-field mono grow"
        placeholder="source"
      />
      <span>
        <v-text-field
          v-model="time"
          single-line
          :aria-label="`Day and time in ${zone}`"
          class="small-field time"
          type="datetime-local"
        />
        <hint>Day and time in {{ zone }}</hint>
      </span>
      <v-checkbox v-model="returning" label="was here before" />
    </div>
    <p v-if="sourceWrong" class="wrong">A source is letters, digits, - and _. This one would be dropped.</p>
    <p v-else-if="sourceLoss" class="wrong">{{ sourceLoss }}</p>
    <template v-if="answer">
      <p v-if="answer.other" class="why">It answers as {{ answer.other.slug }}.</p>
      <p v-if="answer.why.length > 1 && taken" class="why">
        <strong>{{ taken.name }}.</strong>
      </p>
      <p class="mono hop" :class="{ short: !open }">
        {{ answer.status }}
        <template v-if="answer.location">→ {{ bare(answer.location) }}</template>
        <template v-else-if="answer.to">a page of yours → {{ bare(answer.to) }}</template>
        <template v-else>a page of yours</template>
      </p>
      <template v-if="open">
        <ol class="reasons">
          <li v-for="reason in answer.why" :key="reason.branch" :class="{ taken: reason.taken }">
            <strong>{{ reason.name }}.</strong> {{ reason.because }}
          </li>
        </ol>
        <pre class="mono">HTTP/1.1 {{ answer.status }}
<template v-for="pair in answer.pairs" :key="pair.name">{{ pair.name }}: {{ pair.value }}
</template><template v-if="answer.body">
{{ answer.body }}</template></pre>
      </template>
      <p v-else-if="answer.notRedirected" class="why">{{ taken?.because }}</p>
    </template>
    <p v-else class="wrong">The destination has to be mended first.</p>
  </section>
</template>

<style scoped>
.visitor {
  padding: 10px 18px 12px;
}
header {
  display: flex;
  justify-content: space-between;
}
h3 {
  margin: 0;
}
.chosen {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin: 6px 0;
}

.country {
  width: 46px;
}
.language {
  width: 74px;
}
.time {
  width: 200px;
}
.grow.v-input {
  flex: 1;
  min-width: 60px;
}
.hop.short {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.hop {
  margin: 0;
  color: var(--fern);
  overflow-wrap: anywhere;
}
pre {
  margin: 8px 0 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.why,
.wrong {
  margin: 2px 0;
  font-size: 13px;
}
.reasons {
  margin: 6px 0;
  padding-left: 18px;
  font-size: 13px;
  color: var(--ink-two);
}
.reasons .taken {
  color: var(--ink);
}
.wrong {
  color: var(--copper);
}
</style>
