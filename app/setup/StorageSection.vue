<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { useNotice } from '../frame/notice.ts';
import { count } from '../look/formats.ts';
import { useJournal } from '../data/journal.ts';

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
onMounted(look);
const ask = async () => {
  const granted = await navigator.storage.persist();
  await look();
  notice.say(
    granted
      ? 'This browser keeps it until you clear it.'
      : 'The browser did not agree. It may do so once you use Fernhop more often, or add it to your bookmarks.',
  );
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
      <button class="text-link" type="button" @click="ask">Ask it to keep them</button>
    </p>
    <p v-else class="quiet">At this address the browser does not tell how it keeps them.</p>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
</style>
