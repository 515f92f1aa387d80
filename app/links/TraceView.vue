<script setup lang="ts">
import MoreText from '../theme/MoreText.vue';
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { TracedHop, TraceEnd } from '#core/link-parts';
import { readLink, trailOf } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import { traceSteps } from '../data/trace.ts';
import LeafMark from '../theme/LeafMark.vue';
import { shortUrl } from './address.ts';

const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const hops = shallowRef<readonly TracedHop[]>([]);
const end = shallowRef<TraceEnd | undefined>();
const problem = ref('');
const running = ref<AbortController | undefined>();
const toOrder = ref(true);
const address = ref('');

const link = computed(() =>
  catalogue.link(typeof route.query['link'] === 'string' ? route.query['link'] : undefined),
);
/** The address to begin with. What else somebody changes of the link meanwhile wipes no trace away. */
const given = computed(() => {
  const url = route.query['url'];
  const domain = link.value && catalogue.domain(link.value.domain);
  return typeof url === 'string' ? url : link.value && domain ? shortUrl(domain, link.value) : '';
});
watch(
  given,
  (text) => {
    address.value = text;
    hops.value = [];
    end.value = undefined;
  },
  { immediate: true },
);
const own = computed(() => {
  const host = URL.canParse(address.value) ? new URL(address.value).hostname : '';
  return catalogue.domains.some((domain) => domain.host === host);
});
const network = computed(() => {
  const target = own.value ? (link.value?.destination ?? '') : address.value;
  const linkParts = readLink(target, catalogue.networks);
  return (linkParts.network ?? linkParts.known)?.name;
});

const start = async () => {
  running.value?.abort();
  const stop = new AbortController();
  running.value = stop;
  hops.value = [];
  end.value = undefined;
  problem.value = '';
  const traced = link.value?.id ?? '';
  try {
    for await (const step of traceSteps(address.value.trim(), toOrder.value, stop.signal, traced)) {
      if (step.kind === 'hop') hops.value = [...hops.value, step];
      else end.value = step;
    }
  } catch (error) {
    problem.value = stop.signal.aborted
      ? 'You stopped it.'
      : `The trace did not come to an end: ${error instanceof Error ? error.message : String(error)}`;
  } finally {
    if (running.value === stop) running.value = undefined;
  }
};
onUnmounted(() => running.value?.abort());

/** The chain without the short link of ours, and how what credits the person fared on it. */
const skip = computed(() => (own.value && hops.value.length > 1 ? 1 : 0));
const trail = computed(() =>
  trailOf(
    hops.value.slice(skip.value).map((hop) => hop.url),
    catalogue.networks,
  ),
);
const lost = computed(() => trail.value.followed.filter((one) => one.fate === 'lost'));
const hostOf = (url: string) => (URL.canParse(url) ? new URL(url).host : url);
const rows = computed(() =>
  hops.value.map((hop, i) => {
    const at = i - skip.value;
    const next = hops.value[i + 1];
    const notes: string[] = [];
    if (hop.by === 'refresh') notes.push('goes on by refresh');
    if (hop.by === 'script') notes.push('goes on by script');
    if (next && hop.url.startsWith('https:') && next.url.startsWith('http:'))
      notes.push('leaves https for http');
    if (hop.dead !== null) notes.push(`says “${hop.dead}”`);
    return {
      hop,
      notes,
      bad:
        hop.status === 0 ||
        hop.status >= 400 ||
        hop.dead !== null ||
        notes.some((note) => note.startsWith('leaves')),
      network: at >= 0 && at === trail.value.networkAt,
      marks:
        at < 0 ? [] : trail.value.followed.map((one) => ({ name: one.name, there: one.there[at] === true })),
    };
  }),
);
const lostWords = computed(() =>
  lost.value.map((one) => {
    const at = (one.lostAt ?? 0) + skip.value - 1;
    return `${one.name} was lost at ${hostOf(hops.value[at]?.url ?? '')}, before the network.`;
  }),
);
const swappedWords = computed(() => {
  const { swapped } = trail.value;
  if (!swapped) return '';
  const by = hostOf(hops.value[swapped.at + skip.value - 1]?.url ?? '');
  return `The account ${swapped.was} was swapped for ${swapped.is} by ${by}: somebody else is credited.`;
});
const total = computed(() => hops.value.reduce((sum, hop) => sum + hop.ms, 0));
</script>

<template>
  <div class="trace">
    <header>
      <text-link v-if="link" @click="router.push({ name: 'links', params: { link: link.id } })">
        ← {{ link.title }}
      </text-link>
      <h1>Trace</h1>
    </header>
    <form @submit.prevent="start">
      <v-text-field v-model="address" label="Address to follow" class="mono" spellcheck="false" />
      <v-btn v-if="running" class="quiet-button" size="default" @click="running.abort()">Stop</v-btn>
      <v-btn v-else type="submit" color="primary" size="default" :disabled="address.trim() === ''"
        >Trace</v-btn
      >
    </form>
    <v-checkbox v-model="toOrder" label="Go on to the order page, where the shop links one" />
    <p v-if="network" class="quiet">
      {{ network }} counts this as a click of yours.
      {{ own ? 'It is a test here and not counted.' : '' }}
    </p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>

    <p v-if="end" class="sum" role="status">
      <leaf-mark
        :tone="
          end.end === 'arrived' && lost.length === 0 && swappedWords === '' && !rows.some((row) => row.bad)
            ? 'fern'
            : 'copper'
        "
      />
      <strong>{{ hops.length }} {{ hops.length === 1 ? 'hop' : 'hops' }}, {{ total }} ms.</strong>
      {{ end.because }}
      <span v-for="words in lostWords" :key="words" class="bad">{{ words }}</span>
      <span v-if="swappedWords !== ''" class="bad">{{ swappedWords }}</span>
      <span
        v-if="lost.length === 0 && swappedWords === '' && trail.networkAt >= 0 && trail.followed.length > 0"
      >
        {{ trail.followed.map((one) => one.name).join(', ') }} arrived at the network.
      </span>
    </p>
    <ol>
      <li v-for="(row, i) in rows" :key="i" :class="{ bad: row.bad }">
        <span class="tile" :class="{ bad: row.bad }">{{ row.hop.status || 'none' }}</span>
        <div class="stop">
          <div class="line">
            <strong>{{ hostOf(row.hop.url) }}</strong>
            <span v-if="row.network" class="tile outlined">the network</span>
            <span v-if="row.hop.title" class="quiet">{{ row.hop.title }}</span>
            <span class="quiet ms">{{ row.hop.ms }} ms</span>
          </div>
          <code>{{ row.hop.url }}</code>
          <div class="line small">
            <span v-for="mark in row.marks" :key="mark.name" :class="mark.there ? 'there' : 'quiet'">
              {{ mark.name }} {{ mark.there ? 'is here' : '—' }}
            </span>
            <span v-if="row.hop.cookies.length > 0">sets {{ row.hop.cookies.join(', ') }}</span>
            <span v-for="note in row.notes" :key="note" class="note">{{ note }}</span>
          </div>
          <more-text v-if="Object.keys(row.hop.headers).length > 0 || row.hop.location" summary="Headers">
            <code v-if="row.hop.location">Location: {{ row.hop.location }}</code>
            <code v-for="(value, name) in row.hop.headers" :key="name">{{ name }}: {{ value }}</code>
          </more-text>
        </div>
      </li>
      <li v-if="end?.order">
        <span class="tile">{{ end.order.status || 'none' }}</span>
        <div class="stop">
          <div class="line"><strong>Order page</strong></div>
          <code>{{ end.order.url }}</code>
          <div class="line small">
            <span v-if="end.order.surviving.length > 0" class="there"
              >{{ end.order.surviving.join(', ') }} still there</span
            >
            <span v-else class="note">nothing that credits you is left</span>
          </div>
        </div>
      </li>
    </ol>
    <p v-if="running && hops.length === 0" class="quiet" role="status">Asking…</p>
  </div>
</template>

<style scoped>
.trace {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
form {
  display: flex;
  gap: 10px;
  align-items: flex-start;
  max-width: 900px;
  margin-top: 10px;
}
.sum {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  font-size: 15px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  max-width: 900px;
}
li {
  display: flex;
  gap: 14px;
  padding: 10px 0;
  border-top: 1px solid var(--line);
}
.stop {
  flex: 1;
  min-width: 0;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 12px;
}
.small {
  font-size: 13px;
}
.ms {
  margin-left: auto;
}
code {
  display: block;
  font-size: 12px;
  overflow-wrap: anywhere;
}
.there {
  color: var(--fern);
}
.bad,
.note {
  color: var(--copper);
}
li.bad {
  color: inherit;
}
.tile {
  align-self: flex-start;
}
</style>
