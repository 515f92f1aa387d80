<script setup lang="ts">
import SortHeadings from '../theme/SortHeadings.vue';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Cause, ClickCause, Scope } from '#core/reconcile';
import type { LedgerLine, Visit } from '#core/queries';
import type { OrderKey } from '#core/values';
import { journalWorker, useJournal } from '../data/journal.ts';
import type { Column } from '../data/tableLook.ts';
import { useTableLook } from '../data/tableLook.ts';
import { count, moment, ownZone } from '../theme/formats.ts';
import ConversionTable from './ConversionTable.vue';
import { useLedgerLook } from './ledgerLook.ts';
import { useLinkName } from './linkName.ts';
import { causeWords } from './words.ts';

/** The records one piece of the difference is made of. */
const props = defineProps<{
  cause: Cause | ClickCause;
  /** Whose piece it is: of `clicks`, of `conversions`, or of the commission in a currency. */
  about: string;
  scope: Scope & { network: string };
}>();
const journal = useJournal();
const { sort, sortBy, wayOf } = useLedgerLook();
const most = 300;
const lines = shallowRef<readonly LedgerLine[]>([]);
const visits = shallowRef<readonly Visit[]>([]);
const rolledUp = ref(0);

watch(
  [() => props.cause, () => props.about, () => props.scope, sort, () => journal.news],
  async ([cause, about, scope, order]) => {
    const found = await journalWorker.pieceOf(scope, about, cause, most, order);
    if (cause !== props.cause || about !== props.about || order !== sort.value) return;
    lines.value = found.lines;
    visits.value = found.visits;
    rolledUp.value = found.rolledUp;
  },
  { immediate: true },
);
const shown = computed(() => lines.value.length + visits.value.length);
const aboutWords = computed(() =>
  props.about === 'clicks' || props.about === 'conversions'
    ? `Of the ${props.about}.`
    : `Of the commission in ${props.about}.`,
);
const slug = useLinkName();
/** Sorted only where all are here: the first 300 by name would not be the first of all. */
const columns = computed((): readonly Column<Visit>[] => {
  const column = (name: string, title: string, key: (visit: Visit) => OrderKey): Column<Visit> =>
    visits.value.length < most ? { name, title, key } : { name, title };
  return [
    { ...column('at', 'At', ({ hop }) => hop.at), under: ownZone },
    column('link', 'Link', ({ hop }) => slug(hop.link)),
    column('country', 'Country', ({ hop }) => hop.country || undefined),
    column('device', 'Device', ({ hop }) => hop.device),
    column('ua', 'User agent', ({ hop }) => hop.ua || undefined),
  ];
});
const look = useTableLook('visits', () => columns.value, []);
</script>

<template>
  <section class="piece" :aria-label="causeWords[cause][0]">
    <h2>{{ causeWords[cause][0] }}</h2>
    <p class="quiet">{{ aboutWords }}</p>
    <p class="quiet">
      {{ shown === most ? `The first ${count(most)} of its records.` : `${count(shown)} records.` }}
      <template v-if="rolledUp > 0"
        >{{ count(rolledUp) }}
        {{
          props.cause === 'not written'
            ? 'were answered and not written down: too many came from one address within a minute, or the disk was full.'
            : props.cause === 'written off'
              ? 'are written off, day by day.'
              : 'more are kept as daily counts only.'
        }}</template
      >
    </p>
    <conversion-table v-if="lines.length > 0" :lines="lines" :way-of="wayOf" @sort="sortBy" />
    <small-table v-if="visits.length > 0">
      <sort-headings :columns="columns" :way-of="look.wayOf" @sort="look.sortBy" />
      <tbody>
        <tr v-for="{ hop } in look.sorted(visits)" :key="hop.seq">
          <td>{{ moment(hop.at) }}</td>
          <td class="mono">{{ slug(hop.link) }}{{ hop.source === '' ? '' : `~${hop.source}` }}</td>
          <td>{{ hop.country }}</td>
          <td>{{ hop.device }}</td>
          <td class="ua">{{ hop.ua }}</td>
        </tr>
      </tbody>
    </small-table>
  </section>
</template>

<style scoped>
.piece {
  padding: 13px 18px;
  overflow: auto;
}
h2::first-letter {
  text-transform: uppercase;
}
p {
  margin: 2px 0 8px;
}
.small-table {
  width: 100%;
  font-size: 13px;
}
td {
  padding: 5px 10px 5px 0;
  border-top: 1px solid var(--line);
}
.ua {
  max-width: 280px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
