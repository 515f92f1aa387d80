<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue';
import type { AuditRecord } from '#core/visits';
import { journalWorker, useJournal } from '../data/journal.ts';
import { moment } from '../theme/formats.ts';

/** What happened around keys, and what left the server or was refused by it. */
const journal = useJournal();
const few = 5;
const most = 200;
const all = ref(false);
const records = shallowRef<readonly AuditRecord[]>([]);
watch(
  [() => journal.news, all],
  async () => {
    records.value = await journalWorker.audits(all.value ? most : few + 1);
  },
  { immediate: true },
);
</script>

<template>
  <section aria-labelledby="h-audit">
    <h2 id="h-audit">Keys and exports</h2>
    <p v-if="records.length === 0" class="quiet">
      Wrong keys, refused postbacks, files that were saved and what was erased stand here. Nothing yet.
    </p>
    <v-table v-else density="compact" aria-label="Newest first">
      <tbody>
        <tr v-for="record in all ? records : records.slice(0, few)" :key="record.seq">
          <td class="when">{{ moment(record.until) }}</td>
          <td>
            {{ record.count > 1 ? `${record.detail} ${record.count} times within a minute.` : record.detail }}
          </td>
        </tr>
      </tbody>
    </v-table>
    <text-link v-if="!all && records.length > few" @click="all = true"> Show more </text-link>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
td {
  font-size: 14px;
}
.when {
  white-space: nowrap;
  width: 1%;
}
</style>
