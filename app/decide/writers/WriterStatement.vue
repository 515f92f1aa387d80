<script setup lang="ts">
import { computed } from 'vue';
import { useCatalogue } from '../../data/catalogue.ts';
import { saveFile } from '../../data/saveFile.ts';
import { monthWords } from '../../reconcile/words.ts';
import { count, money } from '../../theme/formats.ts';
import type { Statement } from './statement.ts';
import type { StatementNames } from './statementFile.ts';
import { standingWords, statementPage, statementTable } from './statementFile.ts';

/** What one writer earned in a month, by link, and the files of it to send. */
const props = defineProps<{ statement: Statement }>();
const catalogue = useCatalogue();
const names = computed((): StatementNames => {
  const networks = new Map(catalogue.networks.map((one) => [one.id, one]));
  return {
    link: (id) => (id === '' ? 'no link' : (catalogue.link(id)?.slug ?? id)),
    network: (id) => networks.get(id)?.name ?? id,
    zone: (id) => networks.get(id)?.zone ?? 'UTC',
    hosts: catalogue.domains.map(({ host }) => host),
  };
});
/** A column that nothing stands in is left out. */
const hasEarlier = computed(() => props.statement.lines.some(({ earlier }) => earlier !== 0));
const mostLines = 12;
const file = computed(() =>
  `statement-${props.statement.writer}-${props.statement.month}`.replace(/[^\p{L}\p{N}-]+/gu, '-'),
);
const saveTable = () =>
  saveFile(`${file.value}.csv`, 'text/csv', statementTable(props.statement, names.value));
const savePage = () =>
  saveFile(`${file.value}.html`, 'text/html', statementPage(props.statement, names.value));
/** What was approved comes first; while nothing was, what usually will be. */
const heads = computed(() =>
  props.statement.sums.map(({ currency, approved, earlier, pending, worth }) => {
    const told = (minor: number) => money(Math.round(minor), currency);
    if (approved === 0 && earlier === 0)
      return { currency, head: told(worth), words: `usually becomes approved of ${told(pending)} pending` };
    const ofEarlier = earlier === 0 ? '' : `, ${told(earlier)} of it of earlier months`;
    const waits = pending === 0 ? '' : `; ${told(pending)} pending, worth ${told(worth)}`;
    return { currency, head: told(approved + earlier), words: `approved${ofEarlier}${waits}` };
  }),
);
const amount = (minor: number, currency: string): string =>
  minor === 0 ? '—' : money(Math.round(minor), currency);
</script>

<template>
  <section aria-labelledby="h-statement">
    <header>
      <h2 id="h-statement">{{ statement.writer }}, {{ monthWords(statement.month) }}</h2>
      <text-link @click="savePage">Save as a page</text-link>
      <text-link @click="saveTable">Save as a table (CSV)</text-link>
    </header>
    <dl class="sums">
      <div v-for="{ currency, head, words } in heads" :key="currency">
        <dd>{{ head }}</dd>
        <dt>{{ words }}</dt>
      </div>
    </dl>
    <p class="quiet">{{ standingWords(statement, names).join(' ') }}</p>
    <div class="table-scroll" tabindex="0" role="region" aria-label="Statement by link">
      <small-table aria-label="By link">
        <thead>
          <tr>
            <th>Link</th>
            <th>Network</th>
            <th class="number">Sales</th>
            <th class="number">Approved</th>
            <th v-if="hasEarlier" class="number">Of earlier months</th>
            <th class="number">Pending</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="line in statement.lines.slice(0, mostLines)"
            :key="`${line.link} ${line.network} ${line.currency}`"
          >
            <td>
              <text-link
                v-if="catalogue.link(line.link)"
                :to="{ name: 'links', params: { link: line.link } }"
                >{{ names.link(line.link) }}</text-link><template v-else>{{
                names.link(line.link)
              }}</template>
            </td>
            <td>{{ names.network(line.network) }}</td>
            <td class="number">
              <text-link
                v-if="catalogue.link(line.link)"
                :to="{
                  name: 'ledger',
                  params: { network: line.network, month: statement.month },
                  query: { find: names.link(line.link) },
                }"
                >{{ count(line.sales) }}</text-link><template v-else>{{ count(line.sales) }}</template>
            </td>
            <td class="number">{{ amount(line.approved, line.currency) }}</td>
            <td v-if="hasEarlier" class="number">{{ amount(line.earlier, line.currency) }}</td>
            <td class="number">{{ amount(line.pending, line.currency) }}</td>
          </tr>
        </tbody>
      </small-table>
    </div>
    <p v-if="statement.lines.length > mostLines" class="quiet">
      And {{ count(statement.lines.length - mostLines) }} more; the files have all of them, and every
      conversion.
    </p>
    <p v-else class="quiet">The files have every conversion besides.</p>
  </section>
</template>

<style scoped src="../figures.css"></style>
<style scoped>
section {
  margin-top: 18px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
}
h2 {
  margin: 0;
  font-size: 18px;
}
.table-scroll {
  max-width: 880px;
  overflow-x: auto;
}
</style>
