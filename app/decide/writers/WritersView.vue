<script setup lang="ts">
import { computed } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Writers, WriterSum } from '#core/queries';
import { useCatalogue } from '../../data/catalogue.ts';
import { journalWorker, useJournal } from '../../data/journal.ts';
import { daysBefore } from '../words.ts';
import { today } from '../../data/today.ts';
import { useNewest } from '../../place/newest.ts';
import { monthWords } from '../../reconcile/words.ts';
import { count, money } from '../../theme/formats.ts';
import DecidePage from '../DecidePage.vue';
import { statementOf, writerKey, writerName } from './statement.ts';
import WriterStatement from './WriterStatement.vue';

/** What every writer earned in a month, and the statement of one of them. The month and the writer stand in the address. */
const catalogue = useCatalogue();
const journal = useJournal();
const route = useRoute();
const router = useRouter();
const asked = (name: string): string | undefined => {
  const value = route.query[name];
  return typeof value === 'string' ? value : undefined;
};
const { found: months } = useNewest<readonly string[]>(
  () => [journal.news, catalogue.months],
  () => journalWorker.writersMonths(),
  [],
);
/** The one that is asked for, else the newest that is over. */
const month = computed(() => {
  const thisMonth = today().slice(0, 7);
  return asked('month') ?? months.value.find((one) => one < thisMonth) ?? months.value[0] ?? '';
});
const { found: writers, loaded } = useNewest<{ month: string; found: Writers } | undefined>(
  () => [
    ...[journal.news, month.value, catalogue.months, catalogue.accounts, catalogue.links],
    ...[catalogue.programs, catalogue.settings.currency],
  ],
  async () => {
    const of = month.value;
    if (of === '') return undefined;
    const { currency } = catalogue.settings;
    return { month: of, found: await journalWorker.writers({ month: of, currency, now: Date.now() }) };
  },
  undefined,
);
const rows = computed(() =>
  (writers.value?.found.sums ?? []).map((sum, i, all) => {
    const before = all[i - 1];
    return { sum, key: writerKey(sum), isFirst: !before || writerKey(before) !== writerKey(sum) };
  }),
);
const networkName = (id: string): string => catalogue.networks.find((one) => one.id === id)?.name ?? id;
const open = computed(() =>
  (writers.value?.found.networks ?? []).filter(({ closedAt }) => closedAt === undefined),
);
const chosen = computed(() => asked('writer'));
const statement = computed(() =>
  writers.value && chosen.value !== undefined
    ? statementOf(writers.value.found, writers.value.month, chosen.value)
    : undefined,
);
const ask = (query: Record<string, string | undefined>) =>
  router.replace({ query: { ...route.query, ...query } });
const byTag = computed(() => ({
  name: 'decide',
  query: { by: 'writer', from: daysBefore(today(), 90), to: today() },
}));
/** Columns that nothing stands in are left out. */
const hasEarlier = computed(() => rows.value.some(({ sum }) => sum.earlier !== 0));
const amounts = ({ approved, earlier, pending, worth }: WriterSum) => [
  { title: 'approved', minor: approved, isMain: !hasEarlier.value },
  ...(hasEarlier.value
    ? [
        { title: 'earlier', minor: earlier, isMain: false },
        { title: 'together', minor: approved + earlier, isMain: true },
      ]
    : []),
  { title: 'pending', minor: pending, isMain: false },
  { title: 'worth', minor: worth, isMain: false },
];
</script>

<template>
  <decide-page heading="Writers">
    <template #about>
      <v-select
        v-if="months.length > 0"
        class="month"
        aria-label="Month"
        :model-value="month"
        :items="months.map((one) => ({ value: one, title: monthWords(one) }))"
        @update:model-value="ask({ month: $event })"
      />
    </template>
    <template #actions>
      <text-link :to="byTag">What pays by tag</text-link>
    </template>
    <v-skeleton-loader v-if="!loaded" type="image" aria-label="Loading" />
    <p v-else-if="rows.length === 0" class="quiet">
      Nothing was earned here yet. What links earn is told by the account tag in their address, and whom a tag
      stands for by the register of tags.
    </p>
    <template v-else>
      <div class="table-scroll" tabindex="0" role="region" aria-label="All writers">
        <small-table aria-label="Writers">
          <thead>
            <tr>
              <th>Writer</th>
              <th>Tag</th>
              <th class="number">Sales</th>
              <th class="number">Approved</th>
              <template v-if="hasEarlier">
                <th class="number">Of earlier months</th>
                <th class="number">Together</th>
              </template>
              <th class="number">Pending</th>
              <th class="number">At its worth</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="{ sum, key, isFirst } in rows"
              :key="`${key} ${sum.network} ${sum.tag} ${sum.currency}`"
              :aria-current="key === chosen ? 'true' : undefined"
            >
              <td>
                <text-link v-if="isFirst" @click="ask({ writer: key === chosen ? undefined : key })">{{
                  writerName(sum)
                }}</text-link>
              </td>
              <td>
                {{ sum.tag || '—' }} <small class="quiet">{{ networkName(sum.network) }}</small>
                <text-link
                  v-if="sum.owner === '' && sum.tag !== ''"
                  :to="{ name: 'programs', params: { network: sum.network } }"
                  >Say whose it is</text-link
                >
              </td>
              <td class="number">{{ count(sum.sales) }}</td>
              <td
                v-for="{ title, minor, isMain } in amounts(sum)"
                :key="title"
                class="number"
                :class="{ main: isMain }"
              >
                {{ minor === 0 ? '—' : money(Math.round(minor), sum.currency) }}
              </td>
            </tr>
          </tbody>
        </small-table>
      </div>
      <p v-if="open.length > 0" class="quiet">
        Not closed yet, so that these figures may change:
        <template v-for="({ network }, i) in open" :key="network"
          >{{ i > 0 ? ', ' : ''
          }}<text-link :to="{ name: 'reconcile', params: { network, month } }">{{
            networkName(network)
          }}</text-link></template
        >.
      </p>
      <writer-statement v-if="statement" :statement="statement" />
      <p v-else class="quiet">Press a name to see and save its statement.</p>
    </template>
  </decide-page>
</template>

<style scoped src="../figures.css"></style>
<style scoped>
.month {
  flex: none;
  width: 190px;
}
.table-scroll {
  max-width: 1000px;
  overflow-x: auto;
}
tr[aria-current] {
  background: var(--fern-soft);
}
.main {
  font-weight: 600;
}
tr td:first-child {
  min-width: 110px;
}
</style>
