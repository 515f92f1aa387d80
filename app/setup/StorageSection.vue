<script setup lang="ts">
import { onMounted, ref, shallowRef, watch } from 'vue';
import { useNotice } from '../shell/notice.ts';
import { count, dayMonth } from '../theme/formats.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { proposedHere } from '../data/mostRecords.ts';

/** How much this browser holds, and whether it may let it go by itself. */
const journal = useJournal();
const notice = useNotice();
const used = ref(0);
const room = ref(0);
const persistent = ref<boolean | undefined>();

const look = async () => {
  // Only where the address is secure; elsewhere browsers tell nothing.
  if (!('storage' in navigator)) return;
  const { usage = 0, quota = 0 } = await navigator.storage.estimate();
  used.value = usage;
  room.value = quota;
  persistent.value = await navigator.storage.persisted();
};
onMounted(async () => {
  rolledUp.value = await journalWorker.rolledUp();
  await look();
  [most.value, proposed.value] = await Promise.all([journalWorker.most(), proposedHere()]);
});
const ask = async () => {
  const granted = await navigator.storage.persist();
  await look();
  notice.say(
    granted
      ? 'This browser keeps it until you clear it.'
      : 'The browser did not agree. It may do so once you use Fernhop more often, or add it to your bookmarks.',
  );
};
/** Months whose requests stay single at least: figures of the last weeks and cookie windows rest on them. */
const months = [2, 3, 6, 12];
const older = ref(3);
const rolledUp = shallowRef({ before: 0, count: 0, rows: 0 });
const working = ref(false);
const most = ref<number | null>(null);
const proposed = ref(0);
const keepAtMost = async () => {
  const records = most.value ?? proposed.value;
  await journalWorker.keepAtMost(records);
  notice.say(
    journal.progress.there > records
      ? `From here on the server counts: the journal has ${count(journal.progress.there)} records. What is here stays here.`
      : `This browser keeps the journal up to ${count(records)} records.`,
  );
};
const begin = () => {
  const now = new Date();
  return Date.UTC(now.getUTCFullYear(), now.getUTCMonth() - older.value, now.getUTCDate());
};
watch(
  () => journal.news,
  async () => {
    rolledUp.value = await journalWorker.rolledUp();
    await look();
  },
);
const bringBack = async () => {
  try {
    await journalWorker.fetchWhole();
  } catch (error) {
    notice.say(`Nothing was changed: ${error instanceof Error ? error.message : String(error)}`);
  }
};
const rollUp = async () => {
  working.value = true;
  const before = begin();
  try {
    await journalWorker.rollUp(before);
    notice.say(`Requests before ${dayMonth(before)} are now kept as daily counts in this browser.`, {
      words: 'Undo',
      act: () => void bringBack(),
    });
  } catch (error) {
    notice.say(
      `Nothing was changed: ${error instanceof Error ? error.message : String(error)} Free some room on this disk and try again.`,
    );
  }
  working.value = false;
};
const megabytes = (bytes: number) => count(Math.round(bytes / 1024 / 1024));
</script>

<template>
  <section aria-labelledby="h-storage">
    <h2 id="h-storage">In this browser</h2>
    <p>
      {{ count(journal.progress.held) }} records of the journal and your catalogue, {{ megabytes(used) }} MB
      of {{ megabytes(room) }} MB.
    </p>
    <p v-if="persistent === true">The browser keeps them until you clear them.</p>
    <p v-else-if="persistent === false">
      The browser may let them go when its disk is full; they then come back from the server.
      <text-link @click="ask">Ask it to keep them</text-link>
    </p>
    <p v-else class="quiet">At this address the browser does not tell how it keeps them.</p>
    <p v-if="rolledUp.count > 0">
      {{ count(rolledUp.count) }} requests before {{ dayMonth(rolledUp.before) }} are kept as daily counts,
      {{ count(rolledUp.rows) }} one by one.
      <text-link @click="bringBack">Bring them back</text-link>
    </p>
    <form @submit.prevent="rollUp">
      <span>Requests older than</span>
      <v-select
        v-model="older"
        single-line
        class="small-field"
        :items="months.map((n) => ({ value: n, title: `${n} months` }))"
        aria-label="Requests older than"
      />
      <v-btn
        type="submit"
        class="quiet-button"
        :loading="working"
        :disabled="journal.arriving || journal.byServer"
        >Roll up by day</v-btn
      >
      <span class="quiet"
        >Counts stay, and every request of a visitor who bought. The rules above no longer reach the counts.
        The server keeps them as <em>Evidence</em> says.</span
      >
    </form>
    <form @submit.prevent="keepAtMost">
      <v-number-input
        v-model="most"
        class="small-field most"
        label="Most records kept here"
        control-variant="hidden"
        hide-details
        :min="0"
      />
      <v-btn type="submit" class="quiet-button">Keep at most that many</v-btn>
      <span class="quiet"
        >Beyond that the server counts. This browser has room for about {{ count(proposed) }}.</span
      >
    </form>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin-top: 6px;
}
.most {
  width: 190px;
}
</style>
