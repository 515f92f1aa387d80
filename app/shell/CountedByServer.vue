<script setup lang="ts">
import { computed } from 'vue';
import { useJournal } from '../data/journal.ts';
import { count } from '../theme/formats.ts';

/** Says that figures are counted by the server, as this browser does not hold all of the journal, and why. */
const journal = useJournal();
const why = computed(() => {
  const { held, there, isTooLarge } = journal.progress;
  return isTooLarge
    ? `the journal has ${count(there)} records, more than this browser is to keep.`
    : `${count(held)} of ${count(there)} records are here so far.`;
});
</script>

<template>
  <p v-if="journal.byServer" class="by-server" role="status">
    Counted by the server: {{ why }}
    <text-link v-if="journal.progress.isTooLarge" to="/setup">Setup</text-link>
  </p>
</template>

<style scoped>
.by-server {
  flex: none;
  margin: 0;
  padding: 5px 18px;
  background: var(--sunk);
  color: var(--quiet);
}
</style>
