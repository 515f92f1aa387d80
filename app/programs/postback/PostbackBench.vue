<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { Network } from '#core/catalogue';
import type { SampleKind, SampleVia } from '#core/conversions';
import { sampleKinds, samplePostback } from '#core/conversions';
import type { PostbackReading } from '#core/queries';
import { useCatalogue } from '../../data/catalogue.ts';
import { journalWorker, useJournal } from '../../data/journal.ts';
import type { SampleAnswer } from '../../data/server.ts';
import { sendSample } from '../../data/server.ts';
import PostbackReadingCard from './PostbackReadingCard.vue';

/** Sends a sample postback over the real address and shows what became of it. */
const props = defineProps<{ network: Network }>();
defineEmits<{ back: [] }>();
const catalogue = useCatalogue();
const journal = useJournal();
const kind = ref<SampleKind>('as it should be');
const via = ref<SampleVia>('GET');
const ways: readonly { value: SampleVia; title: string }[] = [
  { value: 'GET', title: 'GET' },
  { value: 'form', title: 'POST, as a form' },
  { value: 'JSON', title: 'POST, as JSON' },
];
const text = ref('');
const click = ref('');
const answer = shallowRef<SampleAnswer | undefined>();
const sending = ref(false);
const problem = ref('');
const readings = shallowRef<readonly PostbackReading[]>([]);
const shown = 5;
const host = computed(() => catalogue.domains[0]?.host);
/** Each sample has a transaction of its own. */
const fresh = () => ({ txn: `SAMPLE-${Date.now() % 100_000}`, at: Date.now() });
const sample = ref(fresh());
const written = computed(() =>
  samplePostback(props.network, kind.value, via.value, click.value, sample.value.txn, sample.value.at),
);
// What a person wrote stays until another sample is chosen.
watch(
  [written, kind, via],
  ([now, ...chosen], [before, ...earlier]) => {
    if (text.value === (before ?? '') || chosen.join() !== earlier.join()) text.value = now;
  },
  { immediate: true },
);
watch(
  [() => props.network.id, () => journal.news],
  async ([id]) => {
    if (click.value === '') click.value = await journalWorker.newestClick(id);
  },
  { immediate: true },
);
watch(
  [() => props.network.id, () => journal.news],
  async ([id]) => {
    const found = (await journalWorker.postbacksOf(id, 400)).filter(({ record }) => record.sample);
    if (id === props.network.id) readings.value = found.slice(0, shown);
  },
  { immediate: true },
);
const send = async () => {
  if (host.value === undefined) return;
  sending.value = true;
  problem.value = '';
  try {
    answer.value = await sendSample({
      network: props.network.id,
      host: host.value,
      via: via.value,
      text: text.value,
    });
  } catch (error) {
    problem.value = `The server did not send it: ${error instanceof Error ? error.message : String(error)} Is it running, and is this network live there?`;
  }
  if (text.value === written.value) sample.value = fresh();
  sending.value = false;
};
</script>

<template>
  <div class="pane">
    <text-link @click="$emit('back')">← {{ network.name }}</text-link>
    <header><h2>Postback bench</h2></header>
    <p v-if="host === undefined" class="quiet">
      Name a domain in Setup first: the sample goes to the same address as the network’s own.
    </p>
    <form v-else @submit.prevent="send">
      <p>
        A sample goes the way of a real one, to {{ host }}, and is marked as one: it is never a conversion.
      </p>
      <div class="row">
        <span class="quiet">Sample</span>
        <v-select v-model="kind" single-line class="small-field" :items="sampleKinds" aria-label="Sample" />
        <span class="quiet">Sent by</span>
        <v-select v-model="via" single-line class="small-field" :items="ways" aria-label="Sent by" />
      </div>
      <v-textarea v-model="text" class="mono" :rows="4" aria-label="What is sent" spellcheck="false" />
      <div class="row">
        <v-btn type="submit" color="primary" size="default" :disabled="sending">Send sample</v-btn>
        <span v-if="answer" :class="{ bad: answer.status !== 200 }" role="status"
          >{{ answer.status === 0 ? 'Nothing answered' : `Answered ${answer.status}` }} “{{
            answer.says.trim()
          }}” in {{ answer.milliseconds }} ms.</span
        >
        <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
      </div>
    </form>
    <section v-if="readings.length > 0">
      <h3 class="caps">What became of it</h3>
      <ul>
        <li v-for="(reading, i) in readings" :key="reading.record.seq">
          <postback-reading-card :reading="reading" :whole="i === 0" />
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.pane {
  flex: 1;
  overflow: auto;
  padding: 16px 22px;
}
header {
  margin-top: 4px;
}
p {
  margin: 4px 0 8px;
}
form {
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
}
textarea {
  width: 100%;
  resize: vertical;
}
section {
  margin-top: 16px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.bad {
  color: var(--copper);
}
</style>
