<script setup lang="ts">
import { onMounted, ref, shallowRef, watch } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { giveBack } from '../data/server.ts';
import { count, moment } from '../theme/formats.ts';

/** Requests and postbacks that the server lost and this browser still has. */
const journal = useJournal();
const catalogue = useCatalogue();
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

/** What is being given back, and how far it has come, from 0 to 1. */
const giving = ref<{ at: number; share: number }>();
const problem = ref('');
const give = async (at: number) => {
  problem.value = '';
  giving.value = { at, share: 0 };
  try {
    const calls = await journalWorker.lostCalls(at);
    for (const [i, records] of calls.entries()) {
      await giveBack(records, catalogue.by);
      giving.value = { at, share: (i + 1) / calls.length };
    }
    await letGo(at);
  } catch (error) {
    problem.value = `They are still kept here. ${error instanceof Error ? error.message : String(error)} Try again: nothing is counted twice.`;
  } finally {
    giving.value = undefined;
  }
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
          counts them until you give them back; then they count at their own time, once, whoever else gives
          them back too.
        </p>
        <v-progress-linear
          v-if="giving?.at === at"
          :model-value="giving.share * 100"
          class="given"
          aria-label="Given back"
        />
        <template v-else>
          <v-btn color="primary" @click="give(at)">Give them back to the server</v-btn>
          <v-btn class="quiet-button" @click="save(at)">Save as a file</v-btn>
          <v-btn class="quiet-button" @click="letGo(at)">Let them go</v-btn>
        </template>
      </li>
    </ul>
    <p v-if="problem !== ''" class="problem" role="alert">{{ problem }}</p>
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
.given {
  max-width: 320px;
}
li > .v-btn {
  margin-right: 8px;
}
</style>
