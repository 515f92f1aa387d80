<script setup lang="ts">
import { onMounted, shallowRef, watch } from 'vue';
import { journalWorker, useJournal } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { count, moment } from '../theme/formats.ts';

/** Requests and postbacks that the server lost and this browser still has. */
const journal = useJournal();
const lost = shallowRef<readonly { at: number; visits: number; others: number }[]>([]);
const look = async () => {
  lost.value = await journalWorker.lost();
};
onMounted(look);
watch(() => journal.news, look);
const save = async (at: number) =>
  saveFile('fernhop-lost-journal.ndjson', 'application/x-ndjson', await journalWorker.lostLines(at));
const letGo = async (at: number) => {
  await journalWorker.letLostGo(at);
  await look();
};
</script>

<template>
  <section v-if="lost.length > 0" aria-labelledby="h-lost">
    <h2 id="h-lost">Lost by the server, kept here</h2>
    <ul>
      <li v-for="{ at, visits, others } in lost" :key="at">
        <p>
          {{ count(visits) }} {{ visits === 1 ? 'request' : 'requests' }} and {{ count(others) }} other lines
          of the journal, found missing {{ moment(at) }}: the server was set back to an older state. No figure
          counts them any more.
        </p>
        <v-btn class="quiet-button" @click="save(at)">Save as a file</v-btn>
        <v-btn class="quiet-button" @click="letGo(at)">Let them go</v-btn>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
p {
  margin: 0 0 6px;
  max-width: 70ch;
}
li > .v-btn {
  margin-right: 8px;
}
</style>
