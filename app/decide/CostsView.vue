<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Cost } from '#core/catalogue';
import { overlapping, partsPerUnit } from '#core/costs';
import { sourceNames } from '#core/catalogue';
import type { Pays } from '#core/queries';
import { exponentOf } from '#core/values';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { today } from '../data/today.ts';
import { useNewest } from '../place/newest.ts';
import { useNotice } from '../shell/notice.ts';
import { count, money } from '../theme/formats.ts';
import CostEntry from './CostEntry.vue';
import CostFile from './CostFile.vue';
import DecidePage from './DecidePage.vue';
import { useSourceNames } from './sourceNames.ts';
import { useCostWords } from './words.ts';

/** Every cost that was noted, the newest first. */
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const words = useCostWords();
const costs = computed(() =>
  catalogue.costs.toSorted((a, b) => (a.from < b.from ? 1 : a.from > b.from ? -1 : a.id < b.id ? -1 : 1)),
);
const overlaps = computed(() => overlapping(catalogue.costs, sourceNames(catalogue.sources)));
const sources = useSourceNames();
const entering = ref(false);
const bringing = ref(false);
/** What each came to by now; asked of all days, as costs of long ago are listed too. */
const { found } = useNewest<Pays | undefined>(
  () => [journal.news, catalogue.costs, catalogue.rates, catalogue.settings.currency],
  () => {
    const day = today();
    const { currency } = catalogue.settings;
    return journalWorker.whatPays({ by: 'source', from: day, to: day, where: [], currency, now: Date.now() });
  },
  undefined,
);
const laid = computed(() => new Map(found.value?.costs.map((one) => [one.cost.id, one])));
const cameTo = (cost: Cost): string => {
  const one = laid.value.get(cost.id);
  if (cost.per === 'share') return 'of what its conversions earn';
  if (!one) return cost.from > today() ? 'nothing yet' : '';
  const { currency } = catalogue.settings;
  const came =
    one.visits === 0 ? 'no visit came' : `${count(one.visits)} ${one.visits === 1 ? 'visit' : 'visits'}`;
  return one.parts === undefined
    ? `no rate of ${cost.currency}; ${came}`
    : `${money(Math.round((one.parts / partsPerUnit) * 10 ** exponentOf(currency)), currency)}; ${came}`;
};
const isRunning = ({ per, until, from }: Cost): boolean => {
  const day = today();
  return per !== 'all' && from <= day && (until === undefined || until > day);
};
const end = async (cost: Cost) =>
  notice.did('Today is its last day.', await catalogue.saveRecord('cost', { ...cost, until: today() }));
const remove = async (id: string) => {
  notice.did('The cost is taken away.', await catalogue.save({ kind: 'cost', value: null, id }));
};
</script>

<template>
  <decide-page heading="What was paid">
    <template #actions>
      <text-link :to="{ name: 'decide' }">What pays</text-link>
      <text-link @click="entering = true">Add a cost</text-link>
      <text-link @click="bringing = true">Bring in a file</text-link>
    </template>
    <v-dialog v-model="entering" width="auto" aria-label="Add a cost">
      <v-card><cost-entry :sources="sources" @done="entering = false" /></v-card>
    </v-dialog>
    <v-dialog v-model="bringing" width="auto" aria-label="Costs from a file">
      <v-card><cost-file :sources="sources" @done="bringing = false" /></v-card>
    </v-dialog>
    <p v-for="{ one, other, from, until } in overlaps" :key="one.id + other.id" class="asks" role="note">
      Two costs of {{ words.target(one) }} lie over each other,
      {{ words.days({ from, ...(until !== undefined && { until }) }) }}: {{ words.amount(one) }} and
      {{ words.amount(other) }}. Both count; was one noted twice?
    </p>
    <div v-if="costs.length > 0" class="table-scroll" tabindex="0" role="region" aria-label="What was paid">
      <small-table aria-label="Costs">
        <thead>
          <tr>
            <th>For</th>
            <th>Days</th>
            <th>Paid</th>
            <th>Came to, so far</th>
            <th class="note">Note</th>
            <th><span class="visually-hidden">What can be done</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in costs" :key="one.id">
            <td>{{ words.target(one) }}</td>
            <td>{{ words.days(one) }}</td>
            <td>{{ words.amount(one) }}</td>
            <td
              :class="{
                asks: laid.get(one.id)?.parts === undefined && one.per !== 'share' && laid.has(one.id),
              }"
            >
              {{ cameTo(one) }}
            </td>
            <td class="note">{{ one.note }}</td>
            <td class="line">
              <text-link
                v-if="isRunning(one)"
                :aria-label="`End today ${words.amount(one)} for ${words.target(one)}`"
                @click="end(one)"
                >end today</text-link
              >
              <text-link
                :aria-label="`Take away ${words.amount(one)} for ${words.target(one)}`"
                @click="remove(one.id)"
                >take away</text-link
              >
            </td>
          </tr>
        </tbody>
      </small-table>
    </div>
    <p v-else class="quiet">
      Nothing was noted yet. What a source, a link or a placement costs is laid on its visits.
    </p>
  </decide-page>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
.line {
  display: flex;
  gap: 14px;
  justify-content: flex-end;
}
.table-scroll {
  overflow-x: auto;
}
@media (max-width: 560px) {
  .note {
    display: none;
  }
}
</style>
