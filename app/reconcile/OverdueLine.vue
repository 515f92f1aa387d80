<script setup lang="ts">
import { shallowRef, watch } from 'vue';
import type { Overdue } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { today } from '../data/today.ts';
import { count, money } from '../theme/formats.ts';

/** Reminds of what networks should have paid by their own terms. */
const catalogue = useCatalogue();
const journal = useJournal();
const overdue = shallowRef<readonly Overdue[]>([]);
watch(
  [() => journal.news, () => journal.arriving],
  async ([, arriving]) => {
    if (arriving) return;
    const found = await journalWorker.overdue(today());
    if (!journal.arriving) overdue.value = found;
  },
  { immediate: true },
);
</script>

<template>
  <p v-if="overdue.length > 0" class="overdue" role="note">
    Late:
    <template v-for="(one, i) in overdue" :key="one.network + one.currency"
      >{{ i > 0 ? ', ' : ''
      }}<router-link :to="{ name: 'payments', params: { network: one.network } }"
        >{{ catalogue.network(one.network)?.name }} {{ money(one.minor, one.currency) }}</router-link
      >
      by {{ count(one.days) }} {{ one.days === 1 ? 'day' : 'days' }}</template
    >.
  </p>
</template>

<style scoped>
.overdue {
  margin: 6px 20px 0;
  font-size: 13px;
  color: var(--copper);
}
.overdue a {
  color: inherit;
}
</style>
