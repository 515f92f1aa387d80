<script setup lang="ts">
import { useJournal } from '../data/journal.ts';
import { count } from '../theme/formats.ts';

/** Says that the journal is not whole here yet, and how far it has come. */
const journal = useJournal();
</script>

<template>
  <p v-if="journal.stopped" class="arriving" role="status">
    What computes the figures stopped, and is started again. Nothing is lost.
  </p>
  <p v-else class="arriving" role="status">
    The journal is still arriving<template v-if="journal.progress.there > 0"
      >: {{ count(journal.progress.held) }} of {{ count(journal.progress.there) }} records</template
    >. Sums are shown once it is whole.
    <v-progress-linear
      :model-value="journal.progress.held"
      :max="Math.max(1, journal.progress.there)"
      aria-label="How much has arrived"
    />
  </p>
</template>

<style scoped>
.arriving {
  display: grid;
  gap: 8px;
  max-width: 520px;
  padding: 20px;
  margin: 0;
}
</style>
