<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { Network } from '#core/catalogue';
import type { PostbackReading } from '#core/queries';
import { journalWorker, useJournal } from '../../data/journal.ts';
import { getRejected } from '../../data/server.ts';
import type { RejectedRequest } from '../../data/server.ts';
import { moment } from '../../theme/formats.ts';
import PostbackReadingCard from './PostbackReadingCard.vue';

/** The last postbacks of a network as they came, and what looked like one and could not be taken. */
const props = defineProps<{ network: Network }>();
const journal = useJournal();
const most = 50;
const few = 3;
const all = ref(false);
const readings = shallowRef<readonly PostbackReading[]>([]);
const rejected = shallowRef<readonly RejectedRequest[]>([]);
const shown = computed(() => (all.value ? readings.value : readings.value.slice(0, few)));
watch(
  [() => props.network.id, () => journal.news],
  async ([id]) => {
    const found = await journalWorker.postbacksOf(id, most);
    if (id === props.network.id) readings.value = found;
  },
  { immediate: true },
);
const showRejected = async () => {
  rejected.value = (await getRejected().catch(() => ({ rejected: [] }))).rejected;
};
const asked = ref(false);
const open = async () => {
  await showRejected();
  asked.value = true;
};
</script>

<template>
  <p v-if="readings.length === 0" class="quiet">
    {{ journal.arriving ? 'Still arriving.' : 'None has come yet.' }}
  </p>
  <ul v-else>
    <li v-for="reading in shown" :key="reading.record.seq"><postback-reading-card :reading="reading" /></li>
  </ul>
  <div class="links">
    <text-link v-if="!all && readings.length > few" @click="all = true">
      Show the last {{ readings.length }}
    </text-link>
    <text-link v-if="!asked" @click="open">Show what could not be taken</text-link>
  </div>
  <template v-if="asked">
    <h4 class="caps">Could not be taken, of any network</h4>
    <p v-if="rejected.length === 0" class="quiet">Nothing.</p>
    <ul>
      <li v-for="(request, i) in rejected" :key="i">
        <div>{{ moment(request.at) }} · {{ request.why }}</div>
        <code class="quiet raw">{{ request.text.slice(0, 400) }}</code>
      </li>
    </ul>
  </template>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.links {
  display: flex;
  gap: 16px;
  margin-top: 4px;
}
h4 {
  margin: 10px 0 0;
}
.raw {
  display: block;
  font-size: 12px;
  overflow-wrap: anywhere;
}
</style>
