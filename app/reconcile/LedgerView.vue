<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { LedgerLine } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { tellExported } from '../data/server.ts';
import { count, ownZone } from '../theme/formats.ts';
import Arriving from './Arriving.vue';
import ConversionTable from './ConversionTable.vue';
import { ledgerCsv } from './csv.ts';
import { useLedgerLook } from './ledgerLook.ts';
import { useAddressOf } from './linkName.ts';
import { monthWords } from './words.ts';

const route = useRoute();
const catalogue = useCatalogue();
const addressOf = useAddressOf();
const journal = useJournal();
const { sort, sortBy, wayOf } = useLedgerLook();
const most = ref(200);
const lines = shallowRef<readonly LedgerLine[]>([]);
const total = ref(0);
/** Whether there is nothing can be said once it was asked. */
const answered = ref(false);
const text = (value: unknown) => (typeof value === 'string' && value !== '' ? value : undefined);
/** What is searched for; another page may ask for it in the address. */
const words = ref(text(route.query['find']) ?? '');
const network = computed(() => catalogue.network(text(route.params['network'])));
const month = computed(() => text(route.params['month']));
const scope = computed(() => ({
  ...(network.value && { network: network.value.id }),
  ...(month.value !== undefined && { month: month.value }),
}));
watch(
  [scope, words, most, sort, () => journal.news, () => journal.arriving],
  async ([asked, sought, upTo, order, , arriving]) => {
    if (arriving) return;
    const found = await journalWorker.ledger(asked, sought, upTo, order);
    if (sought !== words.value || order !== sort.value || journal.arriving) return;
    lines.value = found.lines;
    total.value = found.total;
    answered.value = true;
  },
  { immediate: true },
);
const save = async () => {
  const all = await journalWorker.ledger(scope.value, words.value, 1_000_000, sort.value);
  tellExported('the ledger as CSV', catalogue.by);
  saveFile(
    `ledger-${network.value?.name ?? 'all'}-${month.value ?? 'all'}.csv`,
    'text/csv',
    ledgerCsv(all.lines, ownZone, addressOf),
  );
};
</script>

<template>
  <div class="ledger">
    <header>
      <text-link :to="{ name: 'reconcile', params: route.params }">← Balance</text-link>
      <h1>Ledger</h1>
      <span v-if="!journal.arriving" class="quiet"
        >{{ count(total) }} conversions{{ network ? ` of ${network.name}` : ''
        }}{{ month ? `, ${monthWords(month)}` : '' }}</span
      >
      <span class="actions">
        <v-text-field
          v-model="words"
          single-line
          class="small-field search"
          type="search"
          aria-label="Search"
          placeholder="Transaction, link, source"
        />
        <v-btn class="quiet-button" :disabled="journal.arriving" @click="save">Save as CSV</v-btn>
      </span>
    </header>
    <div class="scroll">
      <arriving v-if="journal.arriving" />
      <conversion-table v-else-if="lines.length > 0" :lines="lines" :way-of="wayOf" @sort="sortBy" />
      <p v-else-if="answered" class="quiet">
        No conversion here yet. They come by postback and by imported report.
      </p>
      <v-btn v-if="!journal.arriving && lines.length < total" class="quiet-button" @click="most += 500"
        >Show more</v-btn
      >
    </div>
  </div>
</template>

<style scoped>
.ledger {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--surface);
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 12px;
  padding: 15px 20px 8px;
}
.actions {
  margin-left: auto;
  display: flex;
  gap: 8px;
}
.search {
  width: 240px;
}
.scroll {
  flex: 1;
  overflow: auto;
  padding: 0 20px 20px;
}
</style>
