<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import { askedFields, samplePostback } from '#core/conversions';
import { clickId } from '#core/hop';
import type { PostbackReading } from '#core/queries';
import { useCatalogue } from '../../data/catalogue.ts';
import { journalWorker, useJournal } from '../../data/journal.ts';
import type { SampleAnswer } from '../../data/server.ts';
import { sendSample } from '../../data/server.ts';
import { usePaste } from '../../shell/paste.ts';
import { count } from '../../theme/formats.ts';
import PostbackAddress from '../postback/PostbackAddress.vue';
import PostbackFields from '../postback/PostbackFields.vue';
import LearnPlaceholders from './LearnPlaceholders.vue';
import PostbackChecks from './PostbackChecks.vue';

/** From a registered network to its first postback: the address, a sample that proves it, and the wait for the first real one. */
const route = useRoute();
const catalogue = useCatalogue();
const journal = useJournal();
const paste = usePaste();
const network = computed(() => catalogue.network(String(route.params['network'] ?? '')));
const host = computed(() => catalogue.domains[0]?.host);
const readings = shallowRef<readonly PostbackReading[]>([]);
watch(
  [network, () => journal.news],
  async ([now]) => {
    if (!now) return;
    const found = await journalWorker.postbacksOf(now.id, 400);
    if (now.id === network.value?.id) readings.value = found;
  },
  { immediate: true },
);
const sampled = computed(() => readings.value.find(({ record }) => record.sample));
/** The newest that the network sent itself. */
const real = computed(() => readings.value.find(({ record }) => !record.sample));
const asks = computed(() => network.value !== undefined && askedFields(network.value.postback).length > 0);
const pastedLines = computed(() => paste.text.split('\n').filter((line) => line.trim() !== '').length);

const answer = shallowRef<SampleAnswer | undefined>();
const sending = ref(false);
const problem = ref('');
const send = async () => {
  if (!network.value || host.value === undefined) return;
  sending.value = true;
  problem.value = '';
  const at = Date.now();
  const click = clickId(at, crypto.getRandomValues(new Uint8Array(10)));
  try {
    answer.value = await sendSample({
      network: network.value.id,
      host: host.value,
      via: 'GET',
      text: samplePostback(network.value, 'as it should be', 'GET', click, `SAMPLE-${at % 100_000}`, at),
    });
  } catch (error) {
    problem.value = `The server did not send it: ${error instanceof Error ? error.message : String(error)} Is it running, and is this network live there?`;
  }
  sending.value = false;
};
</script>

<template>
  <div class="first">
    <template v-if="network">
      <header>
        <h1>{{ network.name }}: its postback</h1>
        <text-link :to="`/programs/${network.id}`">All of {{ network.name }}</text-link>
        <text-link v-if="pastedLines > 0" :to="{ name: 'paste' }"
          >Back to the {{ count(pastedLines) }} pasted {{ pastedLines === 1 ? 'line' : 'lines' }}</text-link
        >
      </header>
      <section>
        <h2>1. What it calls each value</h2>
        <learn-placeholders :network="network" />
        <postback-fields :network="network" />
      </section>
      <section>
        <h2>2. The address to set there</h2>
        <p v-if="host === undefined" class="bad" role="note">
          Name a domain in Setup first: the network sends to an address on it.
        </p>
        <postback-address v-else :network="network" />
      </section>
      <section>
        <h2>3. A sample over that address</h2>
        <div class="row">
          <v-btn
            :color="asks && !sampled ? 'primary' : undefined"
            :class="{ 'quiet-button': !asks || sampled !== undefined }"
            :disabled="host === undefined || !asks"
            :loading="sending"
            @click="send"
            >Send a sample</v-btn
          >
          <span v-if="answer" :class="{ bad: answer.status !== 200 }" role="status"
            >{{ answer.status === 0 ? 'Nothing answered' : `Answered ${answer.status}` }} in
            {{ answer.milliseconds }} ms.</span
          >
          <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
        </div>
        <postback-checks v-if="sampled" :reading="sampled" :network="network" />
      </section>
      <section>
        <h2>4. What it sends itself</h2>
        <p v-if="!real" role="status">
          {{
            journal.arriving
              ? 'The journal is still arriving.'
              : `Waiting for the first postback of ${network.name}.`
          }}
          <span class="quiet">It is shown here as soon as it comes; you need not stay.</span>
        </p>
        <postback-checks v-else :reading="real" :network="network" />
      </section>
    </template>
    <p v-else class="quiet">This network is not in the register.</p>
  </div>
</template>

<style scoped>
.first {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 14px;
}
section {
  max-width: 900px;
  margin-top: 16px;
}
h2 {
  margin-bottom: 6px;
  font-size: 17px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}
.bad {
  color: var(--copper);
}
</style>
